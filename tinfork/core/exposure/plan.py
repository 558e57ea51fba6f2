"""The planner: the fewest drawings that still read.

Every frame costs what the drawing shown is away from the curves; every change costs what the Detail dial says; every
event (lips that close, a vowel that opens) costs if it is not seen. The cheapest way through is found exactly. Deep in
silence the mouth rests for certain, and a pin is exact, so the track falls into stretches, each planned on its own.
"""

import itertools
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, fields, replace
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..mouths.chart import WEIGHTS, Chart
from ..mouths.shapes import CLOSURES, SHAPES
from .curves import Curves, led, runs
from .events import Event, events
from .path import PlannedStretch, cheapest
from .served import Fate, Seen, account, with_sounds
from .stillness import longest_still, said, still_costs
from .track import NOTHING, Exposure, Passage, Pin, Settings, check_pins, on_the_dial, rows_shown

CALM, EVEN, CRISP = 2.2, 0.8, 0.006
"""What a change of drawing costs at Detail 0, at its middle and at Detail 1; between them by even ratios."""

_REST_IN_SPEECH = 60.0
_SHUT_ON_A_VOWEL = 0.6
_SHORT_GAP_SECONDS = 0.20
_GAP_VISIBLE = 0.15

_HAIR = 1e-6

_KEPT = 6.0
"""What it costs on a frame to show another drawing than what was there before an edit that did not touch it: more than
whatever would be a little better, less than what must be seen (a closure, speech that is not shut up or frozen)."""

Array = NDArray[np.float64]
Bools = NDArray[np.bool_]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Dials:
    """The settings frame by frame, each (frames,). change: what a new drawing costs there; longest: for how many frames
    of speech one may be held (stillness.longest_still); free: whether one may begin there."""

    hold: Ints
    lead: Ints
    change: Array
    longest: Ints
    step: Ints
    free: Bools

    def settings_on(self, frame: int) -> Settings:
        """Return hold, lead and step on a frame."""
        return Settings(int(self.hold[frame]), int(self.lead[frame]), step=int(self.step[frame]))


@dataclass(frozen=True)
class Before:
    """What was there before an edit. exposures: drawings by their names in the chart, on any frames of the scene; open:
    the frames of the scene of which something has changed, where nothing is kept."""

    exposures: Sequence[Exposure]
    open: Sequence[range] = ()

    def rows(self, frames: range, chart: Chart) -> Ints:
        """Return (frames,) the row of the drawing to be kept on each of some frames, -1 where none is."""
        found = rows_shown(self.exposures, frames, [drawing.name for drawing in chart.drawings])
        for one in self.open:
            found[max(0, one.start - frames.start) : max(0, one.stop - frames.start)] = -1
        return found


def dials(frames: range, rate: Fraction, settings: Settings, passages: Iterable[Passage] = ()) -> Dials:
    """Return the settings on some frames of a track, and those of the passages that have their own; the later passage
    stands."""
    count = len(frames)
    hold, lead, step, longest = (np.empty(count, np.int64) for _ in range(4))
    change = np.empty(count)
    for begin, end, own in ((frames.start, frames.stop, settings), *((p.frame, p.end, p.settings) for p in passages)):
        here = slice(max(0, begin - frames.start), max(0, end - frames.start))
        hold[here], lead[here], step[here] = own.hold, own.lead, own.step
        change[here] = change_cost(own.detail)
        longest[here] = longest_still(rate, own.detail, own.hold)
    return Dials(hold, lead, change, longest, step, np.arange(frames.start, frames.stop) % step == 0)


def dials_on(at: Dials, frames: range) -> Dials:
    """Return the settings on some of the frames they are of."""
    here = slice(frames.start, frames.stop)
    return Dials(*(getattr(at, field.name)[here] for field in fields(at)))


def change_cost(detail: float) -> float:
    """Return what one change costs at a Detail of 0 to 1."""
    return on_the_dial(detail, CALM, EVEN, CRISP)


def plan(
    curves: Curves,
    chart: Chart,
    settings: Settings,
    pins: Iterable[Pin] = (),
    passages: Iterable[Passage] = (),
    before: Before | None = None,
) -> tuple[Exposure, ...]:
    """Return exposures that cover every frame of the curves once, are held at least as long as the settings say, and
    keep every pin, each with the sounds it serves. Frames are the scene's throughout.

    before: what was there stays wherever that is possible. Where there is less room than a hold beside a pin, its
    drawing is held; a track shorter than the hold is one exposure. TrackError when a pin does not fit.
    """
    own = tuple(passages)
    lead = dials(curves.frames, curves.rate, settings, own).lead
    return with_sounds(exposures(curves, chart, settings, pins, own, before), curves, chart, lead)


def exposures(
    curves: Curves,
    chart: Chart,
    settings: Settings,
    pins: Iterable[Pin] = (),
    passages: Iterable[Passage] = (),
    before: Before | None = None,
) -> tuple[Exposure, ...]:
    """Return what plan gives, without the sounds."""
    first_frame, frames = curves.first, len(curves.values)
    own = [Pin(pin.frame - first_frame, pin.frames, pin.drawing) for pin in pins]
    pinned = check_pins(own, frames, (d.name for d in chart.drawings))
    problem = _problem(curves, chart, dials(curves.frames, curves.rate, settings, passages))
    if before:
        _keep(problem.cost, before.rows(curves.frames, chart))
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


def _keep(cost: Array, rows: Ints) -> None:
    """Let what was there cost less than anything else. cost: (frames, drawings), changed in place; rows: (frames,)."""
    kept = np.flatnonzero(rows >= 0)
    was = cost[kept, rows[kept]]
    cost[kept] += _KEPT
    cost[kept, rows[kept]] = was


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
    """Return the frame of some at which one drawing best gives way to another, when nothing else is seen on them; the
    one after the last where the first is best throughout. Frames are the scene's; drawings by name."""
    cost = _problem(curves, chart, dials(curves.frames, curves.rate, settings, passages)).cost
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
    sounds: Collection[int] | None = None,
) -> list[Seen]:
    """Return for each sound that has an aim, or of these those asked about, where a planned track shows it or why it
    does not. Each reason is tried: planned once more with that one thing changed, the sound is seen."""
    own, pinned = tuple(passages), tuple(pins)

    def planned(pins: Sequence[Pin] = pinned, **changed: Any) -> tuple[Exposure, ...]:
        passages = [replace(one, settings=replace(one.settings, **changed)) for one in own]
        return exposures(curves, chart, replace(settings, **changed), pins, passages)

    others = {
        Fate.PINNED: lambda: planned(()),
        Fate.KEPT: planned,
        Fate.DIAL: lambda: planned(detail=1.0),
        Fate.NO_ROOM: lambda: planned(hold=1),
        Fate.BOTH: lambda: planned(hold=1, detail=1.0),
    }
    return account(track, others, curves, chart, dials(curves.frames, curves.rate, settings, own).lead, sounds)


@dataclass(frozen=True)
class _Problem:
    """cost: (frames, drawings); still: (frames, ages) as a Stretch has it; silent: (frames,) nobody
    speaks there; rests: (frames,) the mouth rests there for certain; rest: the row of that drawing.
    middles: (events,) the frame each belongs to."""

    cost: Array
    still: Array
    dials: Dials
    silent: Bools
    rests: Bools
    rest: int
    events: tuple[Event, ...]
    middles: Ints


def _problem(curves: Curves, chart: Chart, at: Dials) -> _Problem:
    frames = len(curves.values)
    source = led(curves.silent, at.lead)
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
    still = still_costs(said(curves, source).through(_gaps_without_rest(curves.silent, rests)), at.longest, at.hold)
    return _Problem(
        cost, still, at, curves.silent, rests, rest, found, np.array([event.middle for event in found], np.int64)
    )


def _gaps_without_rest(silent: Bools, rests: Bools) -> Bools:
    """The frames of silences that have no room for a rest: a mouth that is held through one is seen to stand still."""
    found = np.zeros(len(silent), bool)
    for first, last in runs(silent):
        found[first:last] = not rests[first:last].any()
    return found


def long_gap(hold: int, rate: Fraction) -> int:
    """Return from how many silent frames on between two sounds the mouth rests there."""
    return max(2 * hold, round(_SHORT_GAP_SECONDS * float(rate)))


def opening(settings: Settings) -> int:
    """Return how many frames before a phrase the mouth may leave its rest."""
    return settings.lead + max(1, settings.hold - 1) + settings.step - 1


def settling(settings: Settings) -> int:
    """Return how many frames after a phrase the mouth may take to come to rest."""
    return settings.hold + settings.step


def rest_in(silent: Bools, rate: Fraction, at: Dials, begins: bool = True, ends: bool = True) -> tuple[Bools, Bools]:
    """Return where the mouth rests for certain, and all of the silences long enough for it to: the mouth begins to open
    before a phrase and settles after it, each for a hold at least. A short gap is held or eased.

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
    for target, own in zip(curves.targets, curves.all_within, strict=True):
        if target.sound in nuclei:
            found[own.start : own.stop] = True
    return found


def _closing(curves: Curves, frames: int, at: Dials) -> Bools:
    """Frames on or near which lips close, for a chart whose only shut mouth is the one at rest."""
    found = np.zeros(frames, bool)
    for target, own in zip(curves.targets, curves.all_touched, strict=True):
        if target.shape in CLOSURES:
            hold = int(at.hold[min(own.start, frames - 1)])
            found[max(0, own.start - hold) : own.stop + hold] = True
    return found


def _stretches(problem: _Problem, chart: Chart, pins: Sequence[Pin]) -> Iterator[tuple[int, PlannedStretch]]:
    """All that is to be planned, each with its first frame."""
    starts, ends = {pin.end: pin for pin in pins}, {pin.frame: pin for pin in pins}
    at = problem.dials
    for start, end in _gaps(pins, len(problem.cost)):
        for first, last in _pieces(problem, start, end):
            before = starts.get(first) if first == start else None
            after = ends.get(last) if last == end else None
            inside = np.flatnonzero((problem.middles >= first) & (problem.middles < last))
            yield (
                first,
                PlannedStretch(
                    cost=_held_over(problem, chart, range(first, last), before, after),
                    change=np.where(at.free[first:last], at.change[first:last], np.inf),
                    hold=at.hold[first:last],
                    still=problem.still[first:last],
                    entry=_beside(chart, before, at.change[first]),
                    leaving=_beside(chart, after, at.change[last - 1]),
                    shown=_shown_before(chart, before),
                    events=tuple(_within(problem.events[number], first, last) for number in inside),
                ),
            )


def _held_over(problem: _Problem, chart: Chart, gap: range, before: Pin | None, after: Pin | None) -> Array:
    """The cost of a gap: where it has less room than a hold beside a pin, only what is pinned there may be shown, and
    at an edge of the scene on which nobody speaks only rest."""
    cost = problem.cost[gap.start : gap.stop]
    pinned = [pin for pin in (before, after) if pin]
    if len(cost) >= problem.dials.hold[gap.start] or not pinned:
        return cost
    rows = {chart.index(pin.drawing) for pin in pinned if pin.drawing != NOTHING}
    at_edge = gap.start == 0 or gap.stop == len(problem.cost)
    if at_edge and problem.silent[gap.start : gap.stop].all():
        rows = {problem.rest}
    found = np.full_like(cost, np.inf)
    some = sorted(rows) or slice(None)
    found[:, some] = np.minimum(cost[:, some], _REST_IN_SPEECH)
    if after and after.drawing != NOTHING:
        found[:, chart.index(after.drawing)] += _HAIR  # Of two that are as good what comes first is held.
    return found


def _shown_before(chart: Chart, pin: Pin | None) -> Ints:
    """(drawings,) for how many frames each was shown before a stretch begins: what is pinned there for so long."""
    found = np.zeros(len(chart.drawings), np.int64)
    if pin and pin.drawing != NOTHING:
        found[chart.index(pin.drawing)] = pin.frames
    return found


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
