"""What a viewer misses when it is not seen: lips that close on m b p f v, and the mouth's opening on every vowel.

An event is to be seen once, on a frame within its window; it may be seen a little beside it at a price, so that two of
them can be held one after the other where the sound gives too little time; and it may be missed, at a price that grows
with how long it sounds and how much it is heard. The plan weighs these prices against one another.
"""

from collections.abc import Iterator, Sequence
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..mouths.chart import WEIGHTS, Chart
from ..mouths.shapes import CLOSURES, SHAPES, Articulation
from .curves import Curves, Target

_CLOSURE_MISSED, _NUCLEUS_MISSED, _NEVER_PARTED, _LONG_MISSED, _BEAT_MISSED = 30.0, 9.0, 20.0, 1.2, 0.7
"""Prices of what is never seen, in the plan's own money: the likeness of a frame. Weighed against changes and likeness
by script/bench mouths, on its tuning half."""

_BESIDE = 9.0
"""What each frame beside its window costs."""

_BESIDE_SECONDS, _PAUSE_SECONDS = 0.1, 0.1
"""A closure that is nearer to a vowel is right beside it; what is farther apart is parted by a pause."""

_FULL_SECONDS, _LONG_SECONDS, _LONGEST_SHARE = 0.08, 0.1, 8.0
"""A vowel of the first is worth its price, a longer one more in proportion, up to so many times; another sound from the
second on."""

_STRESS_SHARE = {0: 0.55, 1: 1.0, 2: 0.85}
_QUIETEST_SHARE, _SLACK_WEIGHT = 0.5, 0.4
"""Shares of a vowel's price: by its stress; of one that is hardly heard; of a mouth that is hardly open."""

_TOWARD = 0.6
"""A drawing goes toward what is said when it is at most so far from it as what is shown for the vowels."""

_TOLD_APART, _FAR_APART = 0.3, 0.7
"""From so far on two drawings are told apart; farther than the other is worth no more."""

Array = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Event:
    """What a viewer misses when it is not seen. sound: its number in the reading; drawings: rows of the chart that
    show it; first, last: the frames where it may be seen; beside: for each of them what being seen there costs, 0
    within its window; missed: what missing it costs."""

    sound: int
    drawings: Ints
    first: int
    last: int
    beside: tuple[float, ...]
    missed: float
    beat: bool = False

    @property
    def middle(self) -> int:
        """The frame in the middle of those where seeing it costs nothing."""
        free = [self.first + i for i, cost in enumerate(self.beside) if cost == 0]
        return free[len(free) // 2]


def events(curves: Curves, chart: Chart, holds: Sequence[int], leads: Sequence[int]) -> tuple[Event, ...]:
    """Return the events of the curves' aims in order, their frames counted from the curves' first. holds, leads: for
    each frame. A chart with no drawing that closes has no closures.

    A vowel of two frames or more between two closures is two events: that the lips part for it at all, and that it is
    reached.
    """
    return tuple(_Finder(curves, chart, holds, leads).events())


class _Finder:
    def __init__(self, curves: Curves, chart: Chart, holds: Sequence[int], leads: Sequence[int]) -> None:
        self._curves, self._targets, self._frames = curves, curves.targets, len(curves.values)
        self._holds, self._leads = holds, leads
        self._closers = {shape: np.array(chart.closers(shape), np.int64) for shape in CLOSURES}
        self._places = chart.places()
        self._found_toward: dict[tuple[AbstractSet[str], AbstractSet[str]], tuple[Ints, float]] = {}
        self._parted = np.setdiff1d(np.arange(len(chart.drawings)), chart.shut())
        nuclei = {target.shape for target in curves.targets if target.nucleus}
        self._nearest = {name: np.array([chart.nearest(shape.place)], np.int64) for name, shape in SHAPES.items()}
        self._openers = {shape: np.array(chart.openers(shape), np.int64) for shape in nuclei}

    def events(self) -> Iterator[Event]:
        beats = {between.start: (vowels, between) for vowels, between in beats_of(self._targets)}
        for number, target in enumerate(self._targets):
            if number in beats:
                yield from self._beat(*beats[number])
            touched = self._curves.all_touched[number]
            at = min(self._frames - 1, touched.start)
            if target.shape in CLOSURES:
                drawings = self._closers[target.shape]
                if len(drawings):
                    yield self._event(target, drawings, touched, 0, closure_missed(target), self._holds[at])
                continue
            # A lead of one frame is met within the sound itself; a longer one shows all of it earlier.
            early = max(0, self._leads[at] - 1)
            window = self._curves.all_within[number]
            if not len(window):
                continue  # Its middle lies before the first of these frames.
            if target.nucleus:
                if len(window) > 1 and len(self._parted) and self._between_closures(number):
                    yield self._event(target, self._parted, window, early, _NEVER_PARTED)
                yield self._event(target, self._openers[target.shape], window, early, nucleus_missed(target))
            elif target.seconds >= _LONG_SECONDS:
                yield self._event(target, self._nearest[target.shape], window, early, long_missed(target))

    def _beat(self, vowels: tuple[int, int], between: range) -> Iterator[Event]:
        """Yield the event that the mouth goes toward what is said between two vowels, where the chart has a drawing
        for it."""
        said, ends = ([self._targets[number] for number in some] for some in (between, vowels))
        if any(one.shape in CLOSURES and len(self._closers[one.shape]) for one in said):
            return  # Lips that close are a beat, and an event of their own.
        drawings, seen = self._toward(*({one.shape for one in some} for some in (said, ends)))
        frames = [frame for number in between for frame in self._curves.all_within[number]]
        if not len(drawings) or not frames:
            return
        one, other = ends
        apart = (other.start + other.end - one.start - one.end) / 2 * float(self._curves.rate)
        if apart < 2 * self._holds[min(self._frames - 1, frames[0])]:
            return  # There is no room to hold both a vowel and what comes after it.
        early = max(0, self._leads[min(self._frames - 1, frames[0])] - 1)
        window = range(min(frames), max(frames) + 1)
        yield replace(self._event(said[0], drawings, window, early, beat_missed(one, other, seen)), beat=True)

    def _toward(self, said: AbstractSet[str], vowels: AbstractSet[str]) -> tuple[Ints, float]:
        """The drawings that are nearer to one of some shapes than what is shown for either vowel, and told from it; and
        how far off the farthest of them is."""
        key = frozenset(said), frozenset(vowels)
        if key not in self._found_toward:
            shown = [int(self._nearest[shape][0]) for shape in vowels]
            apart = np.sqrt(np.min([self._away(self._places[row]) for row in shown], axis=0))
            found = np.zeros(len(self._places), bool)
            for shape in said:
                away = self._away(SHAPES[shape].place)
                found |= away <= _TOWARD * min(away[row] for row in shown)
            rows = np.flatnonzero(found & (apart >= _TOLD_APART))
            self._found_toward[key] = rows, float(apart[rows].max(initial=0.0))
        return self._found_toward[key]

    def _away(self, place: Articulation | Array) -> Array:
        return np.asarray((WEIGHTS * (self._places - np.array(place)) ** 2).sum(axis=1))

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


def beats_of(targets: Sequence[Target]) -> Iterator[tuple[tuple[int, int], range]]:
    """Yield the numbers of two vowels, and of what is said between them without a pause, wherever something is."""
    last: int | None = None
    for number, target in enumerate(targets):
        if number and target.start - targets[number - 1].end > _PAUSE_SECONDS:
            last = None
        if not target.nucleus:
            continue
        if last is not None:
            after = last + 1
            while after < number and targets[after].sound == targets[last].sound:
                after += 1
            if after < number:
                yield (last, number), range(after, number)
        last = number


def _lips_close(beside: Sequence[Target], time: float) -> bool:
    """Whether the aim beside a vowel is a closure that comes right before it begins, or after it ends, at a time."""
    return any(one.shape in CLOSURES and max(one.start - time, time - one.end) < _BESIDE_SECONDS for one in beside)


def closure_missed(target: Target) -> float:
    """Return what it costs not to see the lips close."""
    return _CLOSURE_MISSED * target.visible


def beat_missed(one: Target, other: Target, seen: float) -> float:
    """Return what it costs that the mouth stands still between two vowels: more, the more they are stressed and the
    farther what is between would be seen to move it."""
    stress = max(_STRESS_SHARE[one.stress], _STRESS_SHARE[other.stress])
    return _BEAT_MISSED * stress * min(_FAR_APART, seen) / _FAR_APART


def long_missed(target: Target) -> float:
    """Return what it costs not to see another sound that lasts."""
    return _LONG_MISSED * target.visible * min(_LONGEST_SHARE, target.seconds / _LONG_SECONDS)


def nucleus_missed(target: Target) -> float:
    """Return what it costs not to see a vowel open: more, the longer, the louder and the more stressed it is."""
    long = min(_LONGEST_SHARE, target.seconds / _FULL_SECONDS)
    loud = _QUIETEST_SHARE + (1 - _QUIETEST_SHARE) * target.level
    slack = _SLACK_WEIGHT if target.shape == "ajar" else 1.0
    return _NUCLEUS_MISSED * long * loud * _STRESS_SHARE[target.stress] * slack
