"""What a viewer misses when it is not seen: lips that close on m b p f v, and the mouth's opening on every vowel.

An event is to be seen once, on a frame within its window; it may be seen a little beside it at a price, so that two of
them can be held one after the other where the sound gives too little time; and it may be missed, at a price that grows
with how long it sounds and how much it is heard. The plan weighs these prices against one another.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..mouths.chart import Chart
from ..mouths.shapes import CLOSURES, SHAPES
from .curves import Curves, Target

_CLOSURE_MISSED = 30.0
_NUCLEUS_MISSED = 9.0
_NEVER_PARTED = 20.0
_BESIDE = 9.0
_BESIDE_SECONDS = 0.1
_FULL_SECONDS = 0.08
_LONG_SECONDS, _LONG_MISSED = 0.1, 1.2
_LONGEST_SHARE = 8.0
_STRESS_SHARE = {0: 0.55, 1: 1.0, 2: 0.85}
_QUIETEST_SHARE = 0.5
_SLACK_WEIGHT = 0.4

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Event:
    """sound: its number in the reading; drawings: rows of the chart that show it; first, last: the frames where it may
    be seen; beside: for each of them what being seen there costs, 0 within its window; missed: what missing it costs.
    """

    sound: int
    drawings: Ints
    first: int
    last: int
    beside: tuple[float, ...]
    missed: float

    @property
    def middle(self) -> int:
        """The frame in the middle of those where seeing it costs nothing."""
        free = [self.first + i for i, cost in enumerate(self.beside) if cost == 0]
        return free[len(free) // 2]


def events(curves: Curves, chart: Chart, holds: Sequence[int], leads: Sequence[int]) -> tuple[Event, ...]:
    """The events of the curves' aims in order, their frames counted from the curves' first. holds, leads: for each
    frame. A chart with no drawing that closes has no closures.

    A vowel of two frames or more between two closures is two events: that the lips part for it at all, and that it is
    reached.
    """
    return tuple(_Finder(curves, chart, holds, leads).found())


class _Finder:
    def __init__(self, curves: Curves, chart: Chart, holds: Sequence[int], leads: Sequence[int]) -> None:
        self._curves, self._targets, self._frames = curves, curves.targets, len(curves.values)
        self._holds, self._leads = holds, leads
        self._closers = {shape: np.array(chart.closers(shape), np.int64) for shape in CLOSURES}
        self._parted = np.setdiff1d(np.arange(len(chart.drawings)), chart.shut())
        nuclei = {target.shape for target in curves.targets if target.nucleus}
        self._nearest = {name: np.array([chart.nearest(shape.place)], np.int64) for name, shape in SHAPES.items()}
        self._openers = {shape: np.array(chart.openers(shape), np.int64) for shape in nuclei}

    def found(self) -> Iterator[Event]:
        for number, target in enumerate(self._targets):
            touched = self._curves.touched(target)
            at = min(self._frames - 1, touched.start)
            if target.shape in CLOSURES:
                drawings = self._closers[target.shape]
                if len(drawings):
                    yield self._event(target, drawings, touched, 0, closure_missed(target), self._holds[at])
                continue
            # A lead of one frame is met within the sound itself; a longer one shows all of it earlier.
            early = max(0, self._leads[at] - 1)
            window = self._curves.within(target)
            if not len(window):
                continue  # Its middle lies before the first of these frames.
            if target.nucleus:
                if len(window) > 1 and len(self._parted) and self._between_closures(number):
                    yield self._event(target, self._parted, window, early, _NEVER_PARTED)
                yield self._event(target, self._openers[target.shape], window, early, nucleus_missed(target))
            elif target.seconds >= _LONG_SECONDS:
                yield self._event(target, self._nearest[target.shape], window, early, long_missed(target))

    def _event(self, target: Target, drawings: Ints, window: range, early: int, missed: float, slack: int = 0) -> Event:
        """The event of being seen within a window, some frames early; at a price, up to slack frames beside it."""
        final = self._frames - 1
        first, last = (min(max(0, frame - early), final) for frame in (window[0], window[-1]))
        least, most = max(0, first - slack), min(final, last + slack)
        beside = tuple(_BESIDE * max(0, first - frame, frame - last) for frame in range(least, most + 1))
        return Event(target.sound, drawings, least, most, beside, missed)

    def _between_closures(self, number: int) -> bool:
        own = [t for t in self._targets[number : number + 2] if t.sound == self._targets[number].sound]
        before = self._targets[number - 1 : number] if number else ()
        after = self._targets[number + len(own) : number + len(own) + 1]
        return _lips_close(before, own[0].start) and _lips_close(after, own[-1].end)


def _lips_close(beside: Sequence[Target], time: float) -> bool:
    """Whether the aim beside a vowel is a closure that comes right before it begins, or after it ends, at a time."""
    return any(one.shape in CLOSURES and max(one.start - time, time - one.end) < _BESIDE_SECONDS for one in beside)


def closure_missed(target: Target) -> float:
    """What it costs not to see the lips close."""
    return _CLOSURE_MISSED * target.visible


def long_missed(target: Target) -> float:
    """What it costs not to see another sound that lasts."""
    return _LONG_MISSED * target.visible * min(_LONGEST_SHARE, target.seconds / _LONG_SECONDS)


def nucleus_missed(target: Target) -> float:
    """What it costs not to see a vowel open: more, the longer, the louder and the more stressed it is."""
    long = min(_LONGEST_SHARE, target.seconds / _FULL_SECONDS)
    loud = _QUIETEST_SHARE + (1 - _QUIETEST_SHARE) * target.level
    slack = _SLACK_WEIGHT if target.shape == "ajar" else 1.0
    return _NUCLEUS_MISSED * long * loud * _STRESS_SHARE[target.stress] * slack
