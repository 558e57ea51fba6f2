"""Which frames must be planned anew after a change: so few that the rest of the track stays as it was, to the frame.

Where the mouth rests for certain, for as long as a drawing is held, what comes before and what comes after are planned
apart; and so they are where a pin lies. So a track may be planned between two such places alone, and equals one planned
as a whole.
"""

import itertools
import math
from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ..speech.reading import Sound
from ..timebase import frames_touched
from .curves import REACH_SECONDS, runs
from .plan import dials, long_gap, opening, rest_in, settling
from .track import Passage, Pin, Settings

Bools = NDArray[np.bool_]

_AROUND_SECONDS = 2.0

_SAME_FRAMES, _SAME_LEVEL = 0.25, 0.2
"""A sound that begins and ends within so much of a frame of where it did, about as loud, is the same to a viewer."""


@dataclass(frozen=True)
class Known:
    """What is known of some frames of a track of so many. silent: for each of them whether no sound touches it."""

    frames: range
    silent: Bools
    of: int

    @property
    def all_before(self) -> bool:
        """Whether they begin where the track does."""
        return self.frames.start <= 0

    @property
    def all_after(self) -> bool:
        """Whether they end where the track does."""
        return self.frames.stop >= self.of


def window(
    changed: range,
    known: Known,
    rate: Fraction,
    settings: Settings,
    pins: Iterable[Pin] = (),
    passages: Sequence[Passage] = (),
) -> tuple[int | None, int | None]:
    """Return the first frame to be planned anew, and the one after the last, when something of these frames has
    changed; None for one that lies outside what is known. pins: as they lie now; a window never begins or ends inside
    of one. One that begins or ends beside a pin is planned with what is around it (see around).

    A rest before the change ends the window where it was as certain before it, has been held, and is so far that no
    sound of the change has a say in what lies beyond; so does one after it. Where passages have settings of their own,
    a place is as far off as any of them asks.
    """
    near = [one for one in passages if one.frame < known.frames.stop and one.end > known.frames.start]
    at = dials(known.frames, rate, settings, near)
    rests, _ = rest_in(known.silent, rate, at, known.all_before, known.all_after)
    own = list(pins)
    for pin in own:
        rests[max(0, pin.frame - known.frames.start) : max(0, pin.end - known.frames.start)] = False
    found = [(first + known.frames.start, last + known.frames.start) for first, last in runs(rests)]
    every = [settings, *(passage.settings for passage in near)]
    hold, lead = max(one.hold for one in every), max(one.lead for one in every)
    opens, settles = max(map(opening, every)), max(map(settling, every))
    far, pause = math.ceil(REACH_SECONDS * float(rate)) + lead + 1, long_gap(hold, rate)
    before = changed.start - max(opens + hold, far, pause - min(map(settling, every)))
    after = changed.stop + max(settles + hold, far, pause - min(map(opening, every)))
    lefts = [min(before, last - hold) for first, last in found if first <= min(before, last - hold)]
    rights = [max(after, first + hold) for first, last in found if last >= max(after, first + hold)]
    lefts += [pin.end for pin in own if pin.end <= changed.start - far and pin.end > known.frames.start]
    rights += [pin.frame for pin in own if pin.frame >= changed.stop + far and pin.frame < known.frames.stop]
    left = max(lefts) if lefts else 0 if known.all_before else None
    right = min(rights) if rights else known.of if known.all_after else None
    return left, right


def around(frames: range, pins: Iterable[Pin], rate: Fraction, of: int) -> range:
    """Return what is to be planned so that some frames of a track of so many are as they should be: they alone, or
    where they begin or end beside a pin, also what lies around it, of which the rest is then left away. No pin is
    cut."""
    own = list(pins)
    begins = any(pin.end == frames.start for pin in own)
    ends = any(pin.frame == frames.stop for pin in own)
    if not begins and not ends:
        return frames
    far = math.ceil(_AROUND_SECONDS * float(rate))
    first = max(0, frames.start - far) if begins else frames.start
    last = min(of, frames.stop + far) if ends else frames.stop
    for pin in own:
        first = pin.frame if pin.frame < first < pin.end else first
        last = pin.end if pin.frame < last < pin.end else last
    return range(first, last)


def heard_otherwise(before: Sequence[Sound], after: Sequence[Sound], rate: Fraction) -> list[range]:
    """Return the frames touched by each sound that is in one of two rows of sounds and not in the other. One that was
    moved by less than is seen, as every reading moves them, is the same."""
    return [
        frames_touched(sound.start, sound.end, rate)
        for one, other in ((before, after), (after, before))
        for sound in _missing(one, other, _SAME_FRAMES / float(rate))
    ]


def _missing(sounds: Sequence[Sound], among: Sequence[Sound], near: float) -> Iterator[Sound]:
    """Those of some sounds, all in order, that have none like them among others."""
    others = [other for other in among if other.end > other.start]
    for sound in sounds:
        first = bisect_left(others, sound.start - near, key=lambda other: other.start)
        last = bisect_right(others, sound.start + near, key=lambda other: other.start)
        if sound.end > sound.start and not any(_alike(sound, other, near) for other in others[first:last]):
            yield sound


def _alike(one: Sound, other: Sound, near: float) -> bool:
    same = one.ipa == other.ipa and one.stress == other.stress
    return same and abs(one.end - other.end) <= near and abs(one.level - other.level) <= _SAME_LEVEL


def pairs(ranges: Iterable[range]) -> list[list[int]]:
    """Return ranges of frames as plain JSON values: first, and the one after the last."""
    return [[one.start, one.stop] for one in ranges]


def merged(ranges: Iterable[range]) -> list[range]:
    """Return ranges of frames in order, those that touch or overlap as one; empty ones left out."""
    found: list[range] = []
    for one in sorted((r for r in ranges if len(r)), key=lambda r: r.start):
        if found and one.start <= found[-1].stop:
            found[-1] = range(found[-1].start, max(found[-1].stop, one.stop))
        else:
            found.append(one)
    return found


def without(ranges: Iterable[range], gone: range) -> list[range]:
    """Return ranges of frames less those of another."""
    parts = ((range(r.start, min(r.stop, gone.start)), range(max(r.start, gone.stop), r.stop)) for r in ranges)
    return merged(itertools.chain.from_iterable(parts))
