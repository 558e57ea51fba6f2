"""Which frames must be planned anew after a change: so few that the rest of the track stays as it was, to the frame.

Where the mouth rests for certain, for as long as a drawing is held, what comes before and what comes after are planned
apart. So a track may be planned between two such places alone, and equals one planned as a whole.
"""

import itertools
import math
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from .curves import REACH_SECONDS, runs
from .plan import dials, long_gap, opening, rest_in, settling
from .track import Pin, Settings

Bools = NDArray[np.bool_]


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
    changed: range, known: Known, rate: Fraction, settings: Settings, pins: Iterable[Pin] = ()
) -> tuple[int | None, int | None]:
    """The first frame to be planned anew, and the one after the last, when something of these frames has changed; None
    for one that lies outside what is known. pins: as they lie now; a window never begins or ends inside of one.

    A rest before the change ends the window where it was as certain before it, has been held, and is so far that no
    sound of the change has a say in what lies beyond; so does one after it.
    """
    rests, _ = rest_in(known.silent, rate, dials(known.frames, settings), known.all_before, known.all_after)
    for pin in pins:
        rests[max(0, pin.frame - known.frames.start) : max(0, pin.end - known.frames.start)] = False
    found = [(first + known.frames.start, last + known.frames.start) for first, last in runs(rests)]
    opens, settles = opening(settings), settling(settings)
    far, pause = math.ceil(REACH_SECONDS * float(rate)) + settings.lead + 1, long_gap(settings.hold, rate)
    before = changed.start - max(opens + settings.hold, far, pause - settles)
    after = changed.stop + max(settles + settings.hold, far, pause - opens)
    hold = settings.hold
    lefts = [min(before, last - hold) for first, last in found if first <= min(before, last - hold)]
    rights = [max(after, first + hold) for first, last in found if last >= max(after, first + hold)]
    left = lefts[-1] if lefts else 0 if known.all_before else None
    right = rights[0] if rights else known.of if known.all_after else None
    return left, right


def pairs(ranges: Iterable[range]) -> list[list[int]]:
    """Ranges of frames as plain JSON values: first, and the one after the last."""
    return [[one.start, one.stop] for one in ranges]


def merged(ranges: Iterable[range]) -> list[range]:
    """Ranges of frames in order, those that touch or overlap as one; empty ones left out."""
    found: list[range] = []
    for one in sorted((r for r in ranges if len(r)), key=lambda r: r.start):
        if found and one.start <= found[-1].stop:
            found[-1] = range(found[-1].start, max(found[-1].stop, one.stop))
        else:
            found.append(one)
    return found


def without(ranges: Iterable[range], gone: range) -> list[range]:
    """Ranges of frames less those of another."""
    parts = ((range(r.start, min(r.stop, gone.start)), range(max(r.start, gone.stop), r.stop)) for r in ranges)
    return merged(itertools.chain.from_iterable(parts))
