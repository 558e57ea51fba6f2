"""A mouth track: exposures that cover every frame once, and the pins a person set in it."""

import zlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ..errors import TrackError
from ..limits import MAX_HOLD, MAX_LEAD, MAX_STEP
from .curves import runs

Cells = NDArray[np.int16]
Ints = NDArray[np.int64]

NOTHING = ""
"""The name of the empty drawing: no mouth is shown."""


@dataclass(frozen=True)
class Settings:
    """How mouths are planned. hold: least frames a drawing is shown; lead: frames the mouth comes early; detail: 0 calm
    to 1 crisp; step: on ones, twos or threes, drawings change only on frames that are a multiple of it.

    Raises TrackError when one is out of range.
    """

    hold: int = 2
    lead: int = 1
    detail: float = 0.5
    step: int = 1

    def __post_init__(self) -> None:
        if not 1 <= self.hold <= MAX_HOLD:
            raise TrackError(f"A hold is 1 to {MAX_HOLD} frames.")
        if not 0 <= self.lead <= MAX_LEAD:
            raise TrackError(f"A lead is 0 to {MAX_LEAD} frames.")
        if not 0.0 <= self.detail <= 1.0:
            raise TrackError("Detail goes from 0, the fewest drawings, to 1, the most.")
        if not 1 <= self.step <= MAX_STEP:
            raise TrackError(f"Drawings change on every frame, or on every 2nd to {MAX_STEP}th.")


@dataclass(frozen=True)
class Passage:
    """Settings of their own for frames frame to frame + frames. Raises TrackError where that is no frame."""

    frame: int
    frames: int
    settings: Settings

    def __post_init__(self) -> None:
        if self.frame < 0 or self.frames < 1:
            raise TrackError("A passage needs at least one frame, at or after the first.")

    @property
    def end(self) -> int:
        """The first frame after it."""
        return self.frame + self.frames


class Pin(Struct, frozen=True):
    """A drawing a person decided on for frames frame to frame + frames. chosen: whether they chose the drawing itself;
    else only when it is shown, and it goes with the mood its character is in."""

    frame: int
    frames: int
    drawing: str
    chosen: bool = True

    @property
    def end(self) -> int:
        """The first frame after it."""
        return self.frame + self.frames


@dataclass(frozen=True)
class Exposure:
    """A drawing shown from frame for frames. sounds: numbers of the reading's sounds it serves; chosen: as a Pin has
    it."""

    frame: int
    frames: int
    drawing: str
    pinned: bool = False
    sounds: tuple[int, ...] = ()
    chosen: bool = False

    @property
    def end(self) -> int:
        """The first frame after it."""
        return self.frame + self.frames


def on_the_dial(detail: float, calm: float, even: float, crisp: float) -> float:
    """Return what holds at a Detail of 0 to 1, given at its ends and in its middle; between them by even ratios."""
    return float(np.exp(np.interp(detail, (0.0, 0.5, 1.0), np.log((calm, even, crisp)))))


def rows_shown(exposures: Iterable[Exposure], frames: range, names: Sequence[str]) -> Ints:
    """Return (frames,) the place among some names of the drawing shown on each frame; -1 for another, or none."""
    known = {name: row for row, name in enumerate(names)}
    found = np.full(len(frames), -1)
    for e in exposures:
        found[max(0, e.frame - frames.start) : max(0, e.end - frames.start)] = known.get(e.drawing, -1)
    return found


def cut_to(exposures: Iterable[Exposure], frames: range) -> tuple[Exposure, ...]:
    """Return the exposures on some frames, cut to them."""
    seen = ((e, max(e.frame, frames.start), min(e.end, frames.stop)) for e in exposures)
    return tuple(replace(e, frame=first, frames=end - first) for e, first, end in seen if end > first)


class Track:
    """A whole mouth track, kept frame by frame so that a stretch of it is quickly put in another's place. cells:
    (frames,) the number of the drawing shown, times four; plus two where it is pinned; plus one where an exposure
    begins. What its exposures serve is not kept: sounds are numbered anew by every reading.

    >>> Track.of([Exposure(0, 4, "rest"), Exposure(4, 2, "open", pinned=True)]).cells.tolist()
    [1, 0, 0, 0, 7, 6]
    """

    def __init__(self, cells: Cells, drawings: Sequence[str]) -> None:
        self.cells, self.drawings = cells, tuple(drawings)

    @classmethod
    def of(cls, exposures: Sequence[Exposure], drawings: Sequence[str] = ()) -> "Track":
        """Return the track of exposures that follow one another. drawings: names that have numbers already."""
        names = list(dict.fromkeys([*drawings, *(e.drawing for e in exposures)]))
        number = {name: place for place, name in enumerate(names)}
        values = [4 * number[e.drawing] + 2 * e.pinned for e in exposures]
        lengths = [e.frames for e in exposures]
        cells = np.repeat(np.array(values, np.int16), lengths)
        cells[np.cumsum([0, *lengths[:-1]])[: len(lengths)]] += 1
        return cls(cells, names)

    def __len__(self) -> int:
        return len(self.cells)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Track) and self.exposures() == other.exposures()

    __hash__ = None  # type: ignore[assignment]

    def exposures(self, frames: range | None = None) -> tuple[Exposure, ...]:
        """Return the exposures, or those that are seen on some frames."""
        begins = np.flatnonzero(self.cells & 1)
        ends = np.append(begins[1:], len(self.cells))
        if frames is not None:
            first = int(np.searchsorted(ends, frames.start, side="right"))
            last = max(first, int(np.searchsorted(begins, frames.stop, side="left")))
            begins, ends = begins[first:last], ends[first:last]
        cells = self.cells[begins].tolist()
        rows = zip(begins.tolist(), ends.tolist(), cells, strict=True)
        return tuple(Exposure(a, b - a, self.drawings[cell >> 2], bool(cell & 2)) for a, b, cell in rows)

    def between(self, frames: range) -> tuple[Exposure, ...]:
        """Return the exposures on some frames, cut to them."""
        return cut_to(self.exposures(frames), frames)

    def with_fresh(self, fresh: Sequence[Exposure]) -> "Track":
        """Return the track with fresh exposures, which follow one another, in place of what was on their frames."""
        own = Track.of(fresh, self.drawings)
        first, last = fresh[0].frame, fresh[-1].end
        cells = np.concatenate([self.cells[:first], own.cells, self.cells[last:]])
        for edge in (first, last):
            if 0 < edge < len(cells):
                _mend(cells, edge)
        return Track(cells, own.drawings)

    def with_over(self, some: Iterable[Exposure]) -> "Track":
        """Return the track with some exposures, in order and without overlap, over what was on their frames."""
        own = list(some)
        names = list(dict.fromkeys([*self.drawings, *(e.drawing for e in own)]))
        number = {name: place for place, name in enumerate(names)}
        cells = self.cells.copy()
        for e in own:
            cells[e.frame : e.end] = 4 * number[e.drawing] + 2 * e.pinned
            cells[e.frame] += 1
        begins, ends = {e.frame for e in own}, {e.end for e in own}
        for edge in begins ^ ends:  # Where two of them meet, each begins.
            if 0 < edge < len(cells):
                _mend(cells, edge)
        return Track(cells, names)

    def of_length(self, frames: int, drawing: str) -> "Track":
        """Return the track cut to so many frames, or ended with a drawing where it is shorter."""
        if frames > len(self):
            return self.with_fresh([Exposure(len(self), frames - len(self), drawing)])
        return Track(self.cells[:frames], self.drawings)

    def packed(self) -> bytes:
        """Return a few bytes that unpacked takes back."""
        return zlib.compress(self.cells.astype("<i2").tobytes(), 1)

    @classmethod
    def unpacked(cls, data: bytes, drawings: Sequence[str]) -> "Track":
        """Return the track of what packed made of it."""
        return cls(np.frombuffer(zlib.decompress(data), "<i2"), drawings)


def _mend(cells: Cells, edge: int) -> None:
    """Let an exposure begin on a frame, unless the one before goes on there."""
    goes_on = (cells[edge - 1] | 1) == (cells[edge] | 1) and not cells[edge] & 2
    cells[edge] = (cells[edge] | 1) - (1 if goes_on else 0)


def differing(one: Track, other: Track) -> list[range]:
    """Return the frames on which two tracks show something else, or begin an exposure on another frame; what one has
    more than the other too."""
    number = {name: place for place, name in enumerate(dict.fromkeys([*one.drawings, *other.drawings]))}
    both = min(len(one), len(other))
    cells = []
    for track in (one, other):
        own = np.array([number[name] for name in track.drawings] or [0])
        cells.append((own[track.cells[:both] >> 2] << 2) + (track.cells[:both] & 3))
    found = [range(first, end) for first, end in runs(cells[0] != cells[1])]
    return [*found, range(both, max(len(one), len(other)))] if len(one) != len(other) else found


def check_pin(pin: Pin) -> None:
    """TrackError when a pin has no frame."""
    if pin.frames < 1 or pin.frame < 0:
        raise TrackError("A pin needs at least one frame, at or after the first.")


def check_pins(pins: Iterable[Pin], frames: int, drawings: Iterable[str]) -> tuple[Pin, ...]:
    """Return the pins in order, when they fit a track of this many frames and this chart. TrackError otherwise."""
    ordered = tuple(sorted(pins, key=lambda pin: pin.frame))
    known = set(drawings)
    end = 0
    for pin in ordered:
        if pin.frames < 1 or pin.frame < end or pin.end > frames:
            raise TrackError(f"The pin at frame {pin.frame} does not fit a track of {frames} frames.")
        if pin.drawing not in known and pin.drawing != NOTHING:
            raise TrackError(f"The chart has no drawing “{pin.drawing}”.")
        end = pin.end
    return ordered
