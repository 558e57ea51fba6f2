"""A way: where what lies on a sound, or on the scene itself, lies afterwards.

Places are in frames, at the rate before and at the rate after; a sound is meant by its source_id, the scene by SCENE.
"""

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Protocol

from ..sound.anchors import SCENE
from ..timebase import nearest_frame


@dataclass(frozen=True)
class Leg:
    """A stretch of a sound, from first up to end in frames before, that lies on another from to_first up to to_end
    afterwards, evenly. source_id: the sound's, afterwards."""

    first: float
    end: float
    source_id: int
    to_first: float
    to_end: float

    def at(self, frame: float) -> float:
        """Return where a place of it lies afterwards; beyond its ends it goes on as evenly."""
        share = (frame - self.first) / (self.end - self.first)
        return self.to_first + share * (self.to_end - self.to_first)

    def within(self, first: float, end: float) -> "Leg | None":
        """Return what of it lies within a stretch before; None for nothing."""
        a, b = max(self.first, first), min(self.end, end)
        return Leg(a, b, self.source_id, self.at(a), self.at(b)) if b > a else None


class Way(Protocol):
    """From before to afterwards. before, after: frames per second."""

    @property
    def before(self) -> Fraction: ...

    @property
    def after(self) -> Fraction: ...

    def legs(self, source_id: int, first: float, end: float) -> Sequence[Leg]:
        """Return, in order, where the parts of a stretch lie afterwards; what is in none has no place."""


@dataclass(frozen=True)
class OtherRate:
    """The same sounds at another frame rate."""

    before: Fraction
    after: Fraction

    def legs(self, source_id: int, first: float, end: float) -> Sequence[Leg]:
        """Return one leg: everything stays where it is in time."""
        ratio = float(self.after / self.before)
        return [Leg(first, end, source_id, first * ratio, end * ratio)]


@dataclass(frozen=True)
class OtherSounds:
    """Another sound in the place of one, at the same rate. known: of every sound that becomes another, and of the
    scene, the legs in their order; what is not known stays where it is."""

    before: Fraction
    known: Mapping[int, Sequence[Leg]]

    @property
    def after(self) -> Fraction:
        """The rate stays."""
        return self.before

    def legs(self, source_id: int, first: float, end: float) -> Sequence[Leg]:
        """Return the parts of known legs, or one leg of what stays."""
        if source_id not in self.known:
            return [Leg(first, end, source_id, first, end)]
        return [part for leg in self.known[source_id] if (part := leg.within(first, end))]


@dataclass(frozen=True)
class OtherPlace:
    """Everything later in a scene, and every sound by another number, at the same rate. later: by how many frames;
    sources: for each number its other one."""

    before: Fraction
    later: int
    sources: Mapping[int, int]

    @property
    def after(self) -> Fraction:
        """The rate stays."""
        return self.before

    def legs(self, source_id: int, first: float, end: float) -> Sequence[Leg]:
        """Return one leg: the scene's frames are later, those of sounds the same."""
        if source_id == SCENE:
            return [Leg(first, end, SCENE, first + self.later, end + self.later)]
        return [Leg(first, end, self.sources.get(source_id, source_id), first, end)]


def nearest(place: float) -> int:
    """Return the frame nearest to a place in frames; of two as near the later."""
    return nearest_frame(Fraction(round(place * 1_000_000), 1_000_000))


def frame_of(way: Way, source_id: int, frame: int) -> tuple[int, int] | None:
    """Return the sound and the frame on which a frame lies afterwards; None where it has no place."""
    legs = way.legs(source_id, frame, frame + 1)
    if not legs:
        return None
    most = max(legs, key=lambda leg: leg.end - leg.first)
    return most.source_id, nearest(most.at(frame))


def span_of(way: Way, source_id: int, frame: int, frames: int, whole: bool) -> tuple[int, int, int] | None:
    """Return the sound, the first frame and how many frames there are of what lies on some frames; at least one.

    whole: whether all that lies between is covered with it, where its parts follow one another; else it goes with its
    longest part. None where none of it has a place.
    """
    legs = way.legs(source_id, frame, frame + frames)
    if not legs:
        return None
    most = max(legs, key=lambda leg: leg.end - leg.first)
    run = [leg for leg in legs if leg.source_id == most.source_id] if whole else _evenly(legs, most)
    if any(one.to_end > other.to_first + 1e-6 for one, other in itertools.pairwise(run)):
        run = [most]
    first = nearest(run[0].to_first)
    return most.source_id, first, max(1, nearest(run[-1].to_end) - first)


_SLACK = 0.5
"""In frames: parts that lie so near one another are one."""


def _evenly(legs: Sequence[Leg], most: Leg) -> list[Leg]:
    """The legs around one that follow one another without a gap before or afterwards."""
    at = legs.index(most)
    first, last = at, at
    while first and _meet(legs[first - 1], legs[first]):
        first -= 1
    while last + 1 < len(legs) and _meet(legs[last], legs[last + 1]):
        last += 1
    return list(legs[first : last + 1])


def _meet(one: Leg, other: Leg) -> bool:
    same = one.source_id == other.source_id
    return same and abs(other.to_first - one.to_end) <= _SLACK and abs(other.first - one.end) <= _SLACK


def seconds_of(way: Way, source_id: int, start: float, end: float) -> tuple[int, float, float] | None:
    """Return the sound and the seconds at which a stretch begins and ends afterwards; None where it has no place."""
    before, after = float(way.before), float(way.after)
    legs = way.legs(source_id, start * before, max(end, start + 1e-6) * before)
    if not legs:
        return None
    most = max(legs, key=lambda leg: leg.end - leg.first)
    run = _evenly(legs, most)
    first, last = run[0].at(max(start * before, run[0].first)), run[-1].at(min(end * before, run[-1].end))
    if last < first:
        first, last = most.to_first, most.to_end
    return most.source_id, round(first / after, 6), round(last / after, 6)
