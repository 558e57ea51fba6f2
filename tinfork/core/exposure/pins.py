"""How pins move with the sound they were set on: kept in its frames, shown where its clips lie (see sound.anchors)."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..errors import TrackError
from ..sound.anchors import SCENE, anchor, firsts_of, spans_of
from ..sound.arrangement import Clip
from .track import Pin, check_pin
from .windows import merged

_NOBODY = -1


@dataclass(frozen=True)
class AnchoredPin:
    """A pin with frame counted in its source_id, or in the scene where source_id is SCENE."""

    frame: int
    frames: int
    drawing: str
    source_id: int = SCENE
    chosen: bool = True


def anchor_pins(pins: Iterable[Pin], clips: Sequence[Clip]) -> tuple[AnchoredPin, ...]:
    """Return pins placed in the scene, bound to the clip that covers their first frame."""
    bound = ((pin, *anchor(pin.frame, clips)) for pin in pins)
    return tuple(AnchoredPin(frame, pin.frames, pin.drawing, source_id, pin.chosen) for pin, frame, source_id in bound)


@dataclass(frozen=True)
class CoveredPin:
    """A pin of which some is not seen, as a newer one lies on it. frame: its first frame in the scene now."""

    pin: AnchoredPin
    frame: int


@dataclass(frozen=True)
class PlacedPins:
    """Where pins lie in the scene now. shown: what is seen of them, in order and without overlap; covered: those that
    others lie on, in part or whole; hidden: those whose sound is cut away."""

    shown: tuple[Pin, ...] = ()
    covered: tuple[CoveredPin, ...] = ()
    hidden: tuple[AnchoredPin, ...] = ()

    def beginning(self, frames: range) -> tuple[Pin, ...]:
        """Return those of which the first frame that is seen is one of the frames."""
        first, end = (bisect_left(self.shown, edge, key=lambda pin: pin.frame) for edge in (frames.start, frames.stop))
        return self.shown[first:end]

    def near(self, frames: range) -> tuple[Pin, ...]:
        """Return those that are seen on some of the frames."""
        first = bisect_right(self.shown, frames.start, key=lambda pin: pin.end)
        return self.shown[first : bisect_left(self.shown, frames.stop, key=lambda pin: pin.frame)]


def place_pins(pins: Sequence[AnchoredPin], clips: Sequence[Clip], frames: int) -> PlacedPins:
    """Return the pins in a scene of this many frames. None of them changes: where a move of the sound brings two
    together, the one that was set later lies on the other."""
    spans = spans_of(pins, clips, frames)
    owner = _owners(spans, frames)
    seen = np.bincount(owner[owner != _NOBODY], minlength=len(pins))
    begins = np.flatnonzero(np.diff(owner, prepend=_NOBODY))
    shown = [
        Pin(first, end - first, pins[number].drawing, pins[number].chosen)
        for first, end, number in zip(begins.tolist(), begins[1:].tolist(), owner[begins].tolist(), strict=False)
        if number != _NOBODY
    ]
    lengths = [0 if span is None else len(span) for span in spans]
    hit = np.flatnonzero(seen < np.array(lengths, np.int64)).tolist()
    covered = [CoveredPin(pins[n], span.start) for n in hit if (span := spans[n]) is not None]
    hidden = [pin for pin, where in zip(pins, spans, strict=True) if where is None]
    return PlacedPins(tuple(shown), tuple(covered), tuple(hidden))


def _owners(spans: Sequence[range | None], frames: int) -> NDArray[np.int64]:
    """(frames + 1,) the number of what is seen on each frame: the one that was set last; _NOBODY for none."""
    owner = np.full(frames + 1, _NOBODY)
    for number, span in enumerate(spans):
        if span is not None:
            owner[span.start : span.stop] = number
    return owner


def set_pins(
    pins: Sequence[AnchoredPin], new: Sequence[Pin], clips: Sequence[Clip], frames: int, hold: int = 1
) -> tuple[AnchoredPin, ...]:
    """Return the pins with more, set by a person on frames of the scene: older ones give way where one lies on them,
    and all others stay as they are. hold: see less_pins. TrackError when one has no frame."""
    for pin in new:
        check_pin(pin)
    gone = [range(pin.frame, pin.end) for pin in new]
    return (*less_pins(pins, gone, clips, frames, hold), *anchor_pins(new, clips))


def less_pins(
    pins: Sequence[AnchoredPin], gone: Iterable[range], clips: Sequence[Clip], frames: int, hold: int = 1
) -> tuple[AnchoredPin, ...]:
    """Return the pins less what is seen of them on some frames of the scene. What is left of one in less frames than a
    hold, and than it had, is nobody's decision and goes with them."""
    ranges = merged(gone)
    begins, ends = np.array([(one.start, one.stop) for one in ranges], np.int64).reshape(-1, 2).T
    firsts, heard = firsts_of(pins, clips)
    afters = firsts + np.array([pin.frames for pin in pins], np.int64)
    touched = np.searchsorted(begins, afters, "left") > np.searchsorted(ends, firsts, "right")
    touched &= heard & (firsts >= 0) & (firsts < frames)
    kept: list[AnchoredPin] = []
    for pin, first, hit in zip(pins, firsts.tolist(), touched.tolist(), strict=True):
        left = _rests_of(pin, first - pin.frame, ranges) if hit else (pin,)
        kept += [own for own in left if own.frames >= min(hold, pin.frames)]
    return tuple(kept)


def _rests_of(pin: AnchoredPin, shift: int, gone: Sequence[range]) -> Iterable[AnchoredPin]:
    """What is left of a pin that lies so many frames later in the scene."""
    first, end = pin.frame + shift, pin.frame + shift + pin.frames
    for one in gone[bisect_right(gone, first, key=lambda one: one.stop) :]:
        if one.start >= end:
            break
        if one.start > first:
            yield replace(pin, frame=first - shift, frames=one.start - first)
        first = one.stop
    if first < end:
        yield replace(pin, frame=first - shift, frames=end - first)


def unset_pins(
    pins: Sequence[AnchoredPin], on: Iterable[int], clips: Sequence[Clip], frames: int
) -> tuple[AnchoredPin, ...]:
    """Return the pins less those that are seen on some frames of the scene, whole. TrackError when none is."""
    owner = _owners(spans_of(pins, clips, frames), frames)
    gone = {int(owner[frame]) for frame in on if 0 <= frame < frames} - {_NOBODY}
    if not gone:
        raise TrackError("There is no pin on this frame." if len(set(on)) == 1 else "Nothing is pinned here.")
    return tuple(pin for number, pin in enumerate(pins) if number not in gone)
