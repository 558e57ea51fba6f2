"""A lane: what one part of one character does in a scene.

What a person decided are keys of a dial, drawings shown for some frames, and gestures they accepted; beside them lie
gestures that are only proposed. A gesture is a small movement of its own (a nod, a blink) that is added to the keys,
so that it comes, goes and is moved without touching them. Everything is kept in the frames of the sound it belongs to.
"""

from bisect import bisect_right
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import msgspec
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ..exposure.easing import smooth
from ..exposure.pins import AnchoredPin, place_pins
from ..exposure.track import Exposure, Pin
from ..mouths.parts import Pose
from ..sound.anchors import SCENE, anchor, spans_of
from ..sound.arrangement import Clip
from .temper import ACCENTS

Array = NDArray[np.float64]

SMOOTH, STRAIGHT, HOLD = "smooth", "straight", "hold"
EASES = (SMOOTH, STRAIGHT, HOLD)
"""How a dial goes from a key to the next: slow at both ends, evenly, or not before it."""

KINDS = ("blink", "look", "dart", "brows", "turn", "agree", "pose", *ACCENTS)
"""What gestures are."""


class Key(Struct, frozen=True, array_like=True):
    """A dial is at a value on a frame. ease: how it goes on from there."""

    frame: int
    value: float
    ease: str = SMOOTH
    source_id: int = SCENE

    @property
    def frames(self) -> int:
        """A key lies on one frame."""
        return 1


class ShownFor(Struct, frozen=True, array_like=True):
    """A drawing of a gesture, from so many frames after its first."""

    at: int
    frames: int
    drawing: str


Points = tuple[tuple[int, float], ...]
"""Where a dial is, by frames after a gesture's first; 0 before and after; between them it goes smoothly."""


class Gesture(Struct, frozen=True, array_like=True):
    """Something a part of a face does for a while. id: its number in the lane; kind: one of KINDS; line: the phrase
    it belongs to, 0 for none; frame: its first; dials, shown: what it does; amount: how much of it is seen;
    accepted: whether a person said so."""

    id: int
    kind: str
    frame: int
    line: int = 0
    source_id: int = SCENE
    dials: dict[str, Points] = msgspec.field(default_factory=dict)
    shown: tuple[ShownFor, ...] = ()
    amount: float = 1.0
    accepted: bool = False

    @property
    def frames(self) -> int:
        """From its first frame to its last."""
        moved = max((points[-1][0] for points in self.dials.values() if points), default=0)
        return max(1, moved + 1, *(one.at + one.frames for one in self.shown))


@dataclass(frozen=True)
class Lane:
    """What one part of a face does. lead: by how many frames all of it is seen early, late where negative; alone:
    whether a stretch of the part leaves what hangs on it as it is."""

    keys: Mapping[str, tuple[Key, ...]] = field(default_factory=dict)
    shows: tuple[AnchoredPin, ...] = ()
    gestures: tuple[Gesture, ...] = ()
    lead: int = 0
    alone: bool = False

    @property
    def is_empty(self) -> bool:
        """Whether it does nothing at all."""
        return not (any(self.keys.values()) or self.shows or self.gestures)


@dataclass(frozen=True)
class Amounts:
    """How much of gestures is seen: of all, and of those of a phrase by its line."""

    all: float = 1.0
    lines: Mapping[int, float] = field(default_factory=dict)

    def of(self, gesture: Gesture) -> float:
        """Return how much of one is seen."""
        return gesture.amount * self.all * self.lines.get(gesture.line, 1.0)


@dataclass(frozen=True)
class Where:
    """Where the sounds of a lane lie in a scene of so many frames."""

    clips: tuple[Clip, ...]
    frames: int

    def anchored(self, frame: int, lead: int) -> tuple[int, int]:
        """Return the frame and the sound's number of what is seen on a frame of the scene."""
        return anchor(frame + lead, self.clips)


@dataclass(frozen=True)
class PlacedKeys:
    """The keys of a dial in the scene, in order, one on a frame."""

    frames: tuple[int, ...]
    values: tuple[float, ...]
    eases: tuple[str, ...]

    def on(self, frames: Array) -> Array:
        """Return where the dial is on some frames."""
        if not self.frames:
            return np.zeros(len(frames))
        at, values = np.array(self.frames, float), np.array(self.values, float)
        before = np.clip(np.searchsorted(at, frames, side="right") - 1, 0, len(at) - 1)
        after = np.minimum(before + 1, len(at) - 1)
        wide = np.maximum(at[after] - at[before], 1e-9)
        share = np.clip((frames - at[before]) / wide, 0.0, 1.0) * (after > before)
        ease = np.array([EASES.index(one) for one in self.eases])[before]
        share = np.select([ease == 0, ease == 1], [smooth(share), share], 0.0)
        return np.asarray(values[before] + share * (values[after] - values[before]))


@dataclass(frozen=True)
class PlacedGesture:
    """A gesture in the scene, from a frame on, and how much of it is seen."""

    frame: int
    gesture: Gesture
    amount: float

    @property
    def end(self) -> int:
        """The first frame after it."""
        return self.frame + self.gesture.frames


@dataclass(frozen=True)
class PlacedLane:
    """A lane where its sounds lie in the scene. gestures: in order of their first frames."""

    lane: Lane
    frames: int
    keys: Mapping[str, PlacedKeys]
    shows: tuple[Pin, ...]
    gestures: tuple[PlacedGesture, ...]

    @property
    def dials(self) -> list[str]:
        """The dials that are turned somewhere."""
        own = [dial for dial, keys in self.keys.items() if keys.frames]
        return list(dict.fromkeys([*own, *(dial for one in self.gestures for dial in one.gesture.dials)]))

    def curve(self, dial: str, frames: range) -> Array:
        """Return (len(frames),) where a dial is on each frame."""
        at = np.arange(frames.start, frames.stop, dtype=float)
        known = self.keys.get(dial)
        found = known.on(at) if known else np.zeros(len(at))
        for one in self._near(frames):
            points = one.gesture.dials.get(dial)
            if points and one.amount:
                first, end = max(one.frame, frames.start), min(one.end, frames.stop)
                here = np.arange(first - one.frame, end - one.frame, dtype=float)
                found[first - frames.start : end - frames.start] += one.amount * _between(points, here)
        return found

    def drawings(self, frames: range) -> list[str | None]:
        """Return what is shown on each frame; None for the part's rest. What a person set lies over what a gesture
        shows."""
        names, shown = self._shown(frames)
        return [names[number] for number in shown.tolist()]

    def _shown(self, frames: range) -> tuple[list[str | None], NDArray[np.int64]]:
        """Names, the first of them None, and (len(frames),) the place of the one that is shown on each frame."""
        places: dict[str | None, int] = {None: 0}
        found = np.zeros(len(frames), np.int64)

        def fill(first: int, end: int, drawing: str) -> None:
            first, end = max(first, frames.start) - frames.start, min(end, frames.stop) - frames.start
            if end > first:
                found[first:end] = places.setdefault(drawing, len(places))

        for one in self._near(frames):
            for shown in one.gesture.shown if one.amount > 0 else ():
                fill(one.frame + shown.at, one.frame + shown.at + shown.frames, shown.drawing)
        for pin in self.shows:
            fill(pin.frame, pin.end, pin.drawing)
        return list(places), found

    def poses(self, frames: range) -> list[Pose]:
        """Return what the part does on each frame."""
        curves = {dial: np.round(self.curve(dial, frames), 4).tolist() for dial in self.dials}
        drawings = self.drawings(frames)
        return [
            Pose({dial: curve[n] for dial, curve in curves.items() if curve[n]}, drawings[n], self.lane.alone)
            for n in range(len(frames))
        ]

    def track(self, rest: str) -> tuple[Exposure, ...]:
        """Return all that is shown, as exposures over the whole scene; what a person set is pinned."""
        own, shown = self._shown(range(self.frames))
        names = [rest if one is None else one for one in own]
        alike = {name: place for place, name in reversed(list(enumerate(names)))}
        drawn = np.array([alike[name] for name in names])[shown]
        pinned = np.zeros(self.frames, np.int64)
        for number, pin in enumerate(self.shows, 1):
            pinned[pin.frame : pin.end] = number
        begins = np.flatnonzero((np.diff(drawn, prepend=-1) != 0) | (np.diff(pinned, prepend=-1) != 0)).tolist()
        return tuple(
            Exposure(first, end - first, names[drawn[first]], bool(pinned[first]), (), bool(pinned[first]))
            for first, end in zip(begins, [*begins[1:], self.frames], strict=True)
        )

    def between(self, frames: range) -> "PlacedLane":
        """Return the lane on some frames, counted from the first of them; keys on either side still count."""
        by = frames.start
        keys = {d: replace(own, frames=tuple(at - by for at in own.frames)) for d, own in self.keys.items()}
        cut = [(pin, max(pin.frame, by), min(pin.end, frames.stop)) for pin in self.shows]
        shows = tuple(Pin(a - by, b - a, pin.drawing, pin.chosen) for pin, a, b in cut if b > a)
        gestures = tuple(replace(one, frame=one.frame - by) for one in self._near(frames))
        return PlacedLane(self.lane, len(frames), keys, shows, gestures)

    def _near(self, frames: range) -> Iterable[PlacedGesture]:
        end = bisect_right(self.gestures, frames.stop - 1, key=lambda one: one.frame)
        return (one for one in self.gestures[:end] if one.end > frames.start)


def _between(points: Points, at: Array) -> Array:
    own = PlacedKeys(tuple(p[0] for p in points), tuple(p[1] for p in points), (SMOOTH,) * len(points))
    return own.on(at) * ((at >= points[0][0]) & (at <= points[-1][0]))


def place(lane: Lane, where: Where, amounts: Amounts = Amounts()) -> PlacedLane:
    """Return a lane in the scene. Of keys that a move of the sound brings to one frame the one that was set last
    counts."""
    keys = {dial: _placed_keys(own, where, lane.lead) for dial, own in lane.keys.items()}
    spans = spans_of(lane.gestures, where.clips, where.frames + abs(lane.lead))
    gestures = [
        PlacedGesture(span.start - lane.lead, one, amounts.of(one))
        for one, span in zip(lane.gestures, spans, strict=True)
        if span is not None
    ]
    gestures.sort(key=lambda one: (one.frame, one.gesture.id))
    return PlacedLane(lane, where.frames, keys, _placed_shows(lane, where), tuple(gestures))


def _placed_shows(lane: Lane, where: Where) -> tuple[Pin, ...]:
    if not lane.shows:
        return ()
    shown = place_pins(lane.shows, where.clips, where.frames + abs(lane.lead)).shown
    spans = ((pin, max(0, pin.frame - lane.lead), min(where.frames, pin.end - lane.lead)) for pin in shown)
    return tuple(Pin(first, end - first, pin.drawing, pin.chosen) for pin, first, end in spans if end > first)


def _placed_keys(keys: Sequence[Key], where: Where, lead: int) -> PlacedKeys:
    spans = spans_of(keys, where.clips, where.frames + abs(lead))
    there = {span.start - lead: key for key, span in zip(keys, spans, strict=True) if span is not None}
    own = sorted(there.items())
    return PlacedKeys(
        tuple(frame for frame, _ in own), tuple(key.value for _, key in own), tuple(key.ease for _, key in own)
    )
