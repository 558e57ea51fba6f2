"""The planner: the fewest drawings that still read.

Every frame costs what the drawing shown is away from the curves; every change costs what the Detail dial says; every
event (lips that close, a vowel that opens) costs if it is not seen. The cheapest way through is found exactly. Deep in
silence the mouth rests for certain, and a pin is exact, so the track falls into stretches, each planned on its own.
"""

import itertools
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ..mouths.chart import WEIGHTS, Chart
from ..mouths.shapes import CLOSURES, SHAPES
from .curves import Curves, runs
from .events import Event, events
from .path import Stretch, cheapest
from .served import Seen, account, with_sounds
from .track import NOTHING, Exposure, Passage, Pin, Settings, check_pins

CALM, EVEN, CRISP = 2.2, 0.8, 0.006
"""What a change of drawing costs at Detail 0, at its middle and at Detail 1; between them by even ratios."""

_REST_IN_SPEECH = 60.0
_SHUT_ON_A_VOWEL = 0.6
_SHORT_GAP_SECONDS = 0.20
_GAP_VISIBLE = 0.15

Array = NDArray[np.float64]
Bools = NDArray[np.bool_]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Dials:
    """The settings frame by frame, each (frames,). change: what a new drawing costs there; free: whether one may begin
    there."""

    hold: Ints
    lead: Ints
    change: Array
    step: Ints
    free: Bools

    def settings_on(self, frame: int) -> Settings:
        """Hold, lead and step on a frame."""
        return Settings(int(self.hold[frame]), int(self.lead[frame]), step=int(self.step[frame]))


def dials(frames: range, settings: Settings, passages: Iterable[Passage] = ()) -> Dials:
    """The settings on some frames of a track, and those of the passages that have their own; the later passage
    stands."""
    count = len(frames)
    hold, lead, step = (np.empty(count, np.int64) for _ in range(3))
    change = np.empty(count)
    for begin, end, own in ((frames.start, frames.stop, settings), *((p.frame, p.end, p.settings) for p in passages)):
        here = slice(max(0, begin - frames.start), max(0, end - frames.start))
        hold[here], lead[here], step[here] = own.hold, own.lead, own.step
        change[here] = change_cost(own.detail)
    return Dials(hold, lead, change, step, np.arange(frames.start, frames.stop) % step == 0)


def change_cost(detail: float) -> float:
    """What one change costs at a Detail of 0 to 1."""
    return float(np.exp(np.interp(detail, (0.0, 0.5, 1.0), np.log((CALM, EVEN, CRISP)))))


def plan(
    curves: Curves, chart: Chart, settings: Settings, pins: Iterable[Pin] = (), passages: Iterable[Passage] = ()
) -> tuple[Exposure, ...]:
    """Exposures that cover every frame of the curves once, are held at least as long as the settings say, and keep
    every pin, each with the sounds it serves. Frames are the scene's throughout.

    An exposure between two pins, or in a track shorter than the hold, is shorter where there is no room.
    TrackError when a pin does not fit.
    """
    own = tuple(passages)
    lead = dials(curves.frames, settings, own).lead
    return with_sounds(exposures(curves, chart, settings, pins, own), curves, chart, lead)


def exposures(
    curves: Curves, chart: Chart, settings: Settings, pins: Iterable[Pin] = (), passages: Iterable[Passage] = ()
) -> tuple[Exposure, ...]:
    """What plan gives, without the sounds."""
    first_frame, frames = curves.first, len(curves.values)
    own = [Pin(pin.frame - first_frame, pin.frames, pin.drawing) for pin in pins]
    pinned = check_pins(own, frames, (d.name for d in chart.drawings))
    problem = _problem(curves, chart, dials(curves.frames, settings, passages))
    shown = np.full(frames, problem.rest)
    stretches = list(_stretches(problem, chart, pinned))
    for first, drawings in zip(
        (first for first, _ in stretches), cheapest([stretch for _, stretch in stretches]), strict=True
    ):
        shown[first : first + len(drawings)] = drawings
    found = [exposure for first, last in _gaps(pinned, frames) for exposure in _runs_of(shown, first, last, chart)]
    found += [Exposure(pin.frame, pin.frames, pin.drawing, pinned=True) for pin in pinned]
    found.sort(key=lambda exposure: exposure.frame)
    return tuple(Exposure(e.frame + first_frame, e.frames, e.drawing, e.pinned) for e in found)


def _gaps(pins: Sequence[Pin], frames: int) -> list[tuple[int, int]]:
    """What lies before, between and after the pins."""
    starts, ends = [0, *(pin.end for pin in pins)], [*(pin.frame for pin in pins), frames]
    return [(start, end) for start, end in zip(starts, ends, strict=True) if start < end]


def _runs_of(shown: Ints, first: int, last: int, chart: Chart) -> list[Exposure]:
    cuts = [first, *(np.flatnonzero(np.diff(shown[first:last])) + first + 1).tolist(), last]
    return [Exposure(a, b - a, chart.drawings[int(shown[a])].name) for a, b in itertools.pairwise(cuts)]


def meeting(
    curves: Curves,
    chart: Chart,
    settings: Settings,
    frames: range,
    drawings: tuple[str, str],
    passages: Iterable[Passage] = (),
) -> int:
    """The frame of some at which one drawing best gives way to another, when nothing else is seen on them; the one
    after the last where the first is best throughout. Frames are the scene's; drawings by name."""
    cost = _problem(curves, chart, dials(curves.frames, settings, passages)).cost
    here = slice(frames.start - curves.first, frames.stop - curves.first)
    rows = [np.minimum(cost[here, chart.index(name)], _REST_IN_SPEECH) for name in drawings]
    first, second = (np.concatenate([[0.0], np.cumsum(row)]) for row in rows)
    return frames.start + int((first + second[-1] - second).argmin())


def explain(
    track: Sequence[Exposure],
    curves: Curves,
    chart: Chart,
    settings: Settings,
    pins: Iterable[Pin] = (),
    passages: Iterable[Passage] = (),
) -> list[Seen]:
    """For each sound that has an aim, where a planned track shows it or why it does not. What the Detail dial took away
    is told from what there is no room for by planning once more at the crispest."""
    own = tuple(passages)
    crispest = (replace(p, settings=replace(p.settings, detail=1.0)) for p in own)
    crisp = plan(curves, chart, replace(settings, detail=1.0), pins, crispest)
    return account(track, crisp, curves, chart, dials(curves.frames, settings, own).lead)


@dataclass(frozen=True)
class _Problem:
    """cost: (frames, drawings); rests: (frames,) the mouth rests there for certain; rest: the row of that drawing.
    middles: (events,) the frame each belongs to."""

    cost: Array
    dials: Dials
    rests: Bools
    rest: int
    events: tuple[Event, ...]
    middles: Ints


def _problem(curves: Curves, chart: Chart, at: Dials) -> _Problem:
    frames = len(curves.values)
    source = _led(curves.silent, at.lead)
    values, visible = curves.values[source], curves.visible[source].copy()
    rest = chart.nearest(SHAPES["rest"].place)
    rests, pauses = rest_in(curves.silent, curves.rate, at)
    visible[curves.silent & ~pauses] = _GAP_VISIBLE
    away = values[:, None, :] - chart.places()[None, :, :]
    cost: Array = visible[:, None] * (WEIGHTS * away**2).sum(axis=2)
    shut = np.array(chart.shut(), np.int64)
    if len(shut) < len(chart.drawings):
        cost[np.ix_(_vowels(curves, frames), shut)] += _SHUT_ON_A_VOWEL
        if rest in shut:
            speaking = ~pauses
            if len(shut) == 1:
                speaking &= ~_closing(curves, frames, at)
            cost[speaking, rest] += _REST_IN_SPEECH
    others = np.arange(len(chart.drawings)) != rest
    cost[np.ix_(rests, others)] = np.inf
    found = events(curves, chart, at.hold.tolist(), at.lead.tolist())
    return _Problem(cost, at, rests, rest, found, np.array([event.middle for event in found], np.int64))


def _led(silent: Bools, lead: Ints) -> Ints:
    """Which frame of the curves is shown on each frame: lead later, and one more where a phrase begins. Rest does not
    come early: the end of a phrase is shown until it is over, and a phrase shorter than the lead is not passed over."""
    frames = len(silent)
    numbers = np.arange(frames)
    source = np.minimum(numbers + lead, frames - 1)
    following = np.minimum(source + 1, frames - 1)
    begins = silent[source] & ~silent[following] & (lead > 0)
    source[begins] = following[begins]
    ends = ~silent & silent[source]
    still_sounding = np.minimum.accumulate(np.where(silent, numbers, frames)[::-1])[::-1] - 1
    source[ends] = still_sounding[ends]
    latest = np.maximum.accumulate(np.where(silent, -1, numbers))
    passed = silent & silent[source] & (latest[source] > numbers)
    source[passed] = latest[source[passed]]
    return np.maximum.accumulate(source)


def long_gap(hold: int, rate: Fraction) -> int:
    """From how many silent frames on between two sounds the mouth rests there."""
    return max(2 * hold, round(_SHORT_GAP_SECONDS * float(rate)))


def opening(settings: Settings) -> int:
    """How many frames before a phrase the mouth may leave its rest."""
    return settings.lead + max(1, settings.hold - 1) + settings.step - 1


def settling(settings: Settings) -> int:
    """How many frames after a phrase the mouth may take to come to rest."""
    return settings.hold + settings.step


def rest_in(silent: Bools, rate: Fraction, at: Dials, begins: bool = True, ends: bool = True) -> tuple[Bools, Bools]:
    """Where the mouth rests for certain, and all of the silences long enough for it to: the mouth begins to open before
    a phrase and settles after it, each for a hold at least. A short gap is held or eased.

    silent: (frames,); begins, ends: whether nothing sounds before the first of these frames and after the last. Where
    that is not so, what is said is certain all the same.
    """
    frames = len(silent)
    rests, pauses = np.zeros(frames, bool), np.zeros(frames, bool)
    for first, last in runs(silent):
        hold = int(at.hold[first])
        after_sound, before_sound = first > 0 or not begins, last < frames or not ends
        if after_sound and before_sound and last - first < long_gap(hold, rate):
            continue
        pauses[first:last] = True
        opens = opening(at.settings_on(last - 1)) if before_sound else 0
        settles = settling(at.settings_on(first)) if after_sound else 0
        if after_sound and not before_sound and last - first < settles + hold - 2:
            continue  # A mouth that closes on the last frame of speech may leave no room for a rest that is held.
        rests[first + settles : max(first + settles, last - opens)] = True
    return rests, pauses


def _vowels(curves: Curves, frames: int) -> Bools:
    """Frames in whose middle a vowel sounds."""
    found = np.zeros(frames, bool)
    nuclei = {target.sound for target in curves.targets if target.nucleus}
    for target in curves.targets:
        if target.sound in nuclei:
            own = curves.within(target)
            found[own.start : own.stop] = True
    return found


def _closing(curves: Curves, frames: int, at: Dials) -> Bools:
    """Frames on or near which lips close, for a chart whose only shut mouth is the one at rest."""
    found = np.zeros(frames, bool)
    for target in curves.targets:
        if target.shape in CLOSURES:
            own = curves.touched(target)
            hold = int(at.hold[min(own.start, frames - 1)])
            found[max(0, own.start - hold) : own.stop + hold] = True
    return found


def _stretches(problem: _Problem, chart: Chart, pins: Sequence[Pin]) -> Iterator[tuple[int, Stretch]]:
    """All that is to be planned, each with its first frame."""
    starts, ends = {pin.end: pin for pin in pins}, {pin.frame: pin for pin in pins}
    at = problem.dials
    for start, end in _gaps(pins, len(problem.cost)):
        for first, last in _pieces(problem, start, end):
            entry = _beside(chart, starts.get(first) if first == start else None, at.change[first])
            leaving = _beside(chart, ends.get(last) if last == end else None, at.change[last - 1])
            inside = np.flatnonzero((problem.middles >= first) & (problem.middles < last))
            own = tuple(_within(problem.events[number], first, last) for number in inside)
            change = np.where(at.free[first:last], at.change[first:last], np.inf)
            yield first, Stretch(problem.cost[first:last], change, at.hold[first:last], entry, leaving, own)


def _pieces(problem: _Problem, start: int, end: int) -> list[tuple[int, int]]:
    """Stretches that can be planned on their own: where the mouth rests for certain for as long as it must be held, one
    ends and another begins, each with so much of the rest as to know that it is held."""
    hold = int(problem.dials.hold[start:end].max())
    found = []
    first = start
    for a, b in runs(problem.rests[start:end]):
        if b - a >= hold:
            if start + a > first:
                found.append((first, start + a + hold))
            first = start + b - hold
    found.append((first, end))
    return found


def _beside(chart: Chart, pin: Pin | None, change: float) -> Array:
    """What each drawing costs at the end of a stretch: nothing, or beside a pin a change, save for the pin's own."""
    if pin is None:
        return np.zeros(len(chart.drawings))
    costs = np.full(len(chart.drawings), change)
    if pin.drawing != NOTHING:
        costs[chart.index(pin.drawing)] = 0.0
    return costs


def _within(event: Event, first: int, last: int) -> Event:
    """The event as a stretch has it: only the frames inside, counted from its first."""
    begin, end = max(event.first, first), min(event.last, last - 1)
    beside = event.beside[begin - event.first : end - event.first + 1]
    return replace(event, first=begin - first, last=end - first, beside=beside)
