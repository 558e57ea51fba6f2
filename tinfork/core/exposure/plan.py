"""The planner: the fewest drawings that still read, as one shortest path through frames x drawings.

Solved exactly by dynamic programming over (frame, drawing, age up to the hold). Closures and silence weigh so much
that they are met wherever a path exists; pins are exact, and what lies between two pins is planned on its own.
"""

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..mouths.chart import WEIGHTS, Chart
from ..mouths.shapes import SHAPES
from .closures import Closure, closures
from .curves import Curves
from .served import with_sounds
from .track import Exposure, Pin, Settings, check_pins

CALM, CRISP = 1.5, 0.006
"""What a change of drawing costs at Detail 0 and at Detail 1."""

_CLOSURE_MISSED, _MOUTH_IN_SILENCE = 1e4, 1e3
_SHORT_GAP_SECONDS = 0.20
_GAP_VISIBLE = 0.15

Array = NDArray[np.float64]


@dataclass(frozen=True)
class _Problem:
    """cost: (frames, drawings) of showing each drawing on each frame; change: cost of a new drawing."""

    cost: Array
    change: float
    hold: int


def plan(curves: Curves, chart: Chart, settings: Settings, pins: Iterable[Pin] = ()) -> tuple[Exposure, ...]:
    """Exposures that cover every frame once, hold at least settings.hold frames, and keep every pin to the frame.

    An exposure between two pins, or in a track shorter than the hold, is shorter where there is no room.
    TrackError when a pin does not fit.
    """
    frames = len(curves.values)
    pinned = check_pins(pins, frames, (d.name for d in chart.drawings))
    must = closures(curves.targets, chart, curves.rate, frames, settings.hold, settings.lead)
    must = _clear_of(pinned, must)
    problem = _Problem(_costs(curves, chart, settings, must), change_cost(settings.detail), settings.hold)
    exposures: list[Exposure] = []
    start = 0
    for number in range(len(pinned) + 1):
        before = pinned[number - 1] if number else None
        after = pinned[number] if number < len(pinned) else None
        end = after.frame if after else frames
        exposures += _fill(problem, chart, start, end, before, after)
        if after:
            exposures.append(Exposure(after.frame, after.frames, after.drawing, pinned=True))
            start = after.end
    return with_sounds(exposures, curves, chart, settings.lead)


def change_cost(detail: float) -> float:
    """What one change costs: geometric between CALM and CRISP."""
    return float(CALM * (CRISP / CALM) ** detail)


def _clear_of(pins: Sequence[Pin], must: list[Closure]) -> list[Closure]:
    """A closure under a pin gives way: a person's drawing stands."""
    return [c for c in must if not any(pin.frame <= c.frame < pin.end for pin in pins)]


def _costs(curves: Curves, chart: Chart, settings: Settings, must: list[Closure]) -> Array:
    frames = len(curves.values)
    source = _led(curves, settings.lead)
    values, visible, silent = curves.values[source], curves.visible[source].copy(), curves.silent[source]
    rest = chart.nearest(SHAPES["rest"].place)
    long_gap = max(2 * settings.hold, round(_SHORT_GAP_SECONDS * float(curves.rate)))
    forced = np.zeros(frames, bool)
    for first, last in _runs(silent):
        if last - first < long_gap and first > 0 and last < frames:
            visible[first:last] = _GAP_VISIBLE
        else:
            forced[first:last] = True
    away = values[:, None, :] - chart.places()[None, :, :]
    cost: Array = visible[:, None] * (WEIGHTS * away**2).sum(axis=2)
    for closure in must:
        forced[max(0, closure.frame - settings.hold + 1) : closure.frame + settings.hold] = False
    others = np.arange(len(chart.drawings)) != rest
    cost[np.ix_(forced, others)] += _MOUTH_IN_SILENCE
    for closure in must:
        wrong = np.ones(len(chart.drawings), bool)
        wrong[list(closure.drawings)] = False
        cost[closure.frame, wrong] += _CLOSURE_MISSED
    return cost


def _led(curves: Curves, lead: int) -> NDArray[np.int64]:
    """Which frame of the curves is shown on each frame: lead later, and one more where a phrase begins."""
    frames = len(curves.silent)
    source = np.minimum(np.arange(frames) + lead, frames - 1)
    if lead:
        following = np.minimum(source + 1, frames - 1)
        begins = curves.silent[source] & ~curves.silent[following]
        source[begins] = following[begins]
    return source


def _runs(mask: NDArray[np.bool_]) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(np.int8)))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def _fill(
    problem: _Problem, chart: Chart, start: int, end: int, before: Pin | None, after: Pin | None
) -> list[Exposure]:
    if end <= start:
        return []
    change = np.full((2, len(chart.drawings)), problem.change)
    for row, pin in enumerate((before, after)):
        if pin is None:
            change[row] = 0.0
        else:
            change[row, chart.index(pin.drawing)] = 0.0
    shown = shortest_path(problem.cost[start:end], problem.change, problem.hold, change[0], change[1])
    cuts = [0, *(np.flatnonzero(np.diff(shown)) + 1).tolist(), end - start]
    return [Exposure(start + a, b - a, chart.drawings[int(shown[a])].name) for a, b in itertools.pairwise(cuts)]


def shortest_path(cost: Array, change: float, hold: int, entry: Array, leaving: Array) -> NDArray[np.int64]:
    """The drawing on each frame that makes the sum of costs least, each run at least hold frames long.

    cost: (frames, drawings); entry and leaving: (drawings,) extra cost of being first and last. A stretch shorter
    than the hold is one run.
    """
    frames, drawings = cost.shape
    hold = min(hold, frames)
    ages = np.full((hold, drawings), np.inf)
    ages[0] = cost[0] + entry
    came_from = np.zeros((frames, drawings), np.int64)
    matured = np.zeros((frames, drawings), bool)
    for f in range(1, frames):
        free = ages[-1]
        best = int(free.argmin())
        offer = np.full(drawings, free[best] + change)
        origin = np.full(drawings, best)
        others = free.copy()
        others[best] = np.inf
        second = int(others.argmin())
        offer[best], origin[best] = others[second] + change, second
        came_from[f] = origin
        if hold == 1:
            matured[f] = free <= offer
            ages = np.where(matured[f], free, offer)[None, :] + cost[f]
            continue
        matured[f] = ages[-2] < free
        held = np.where(matured[f], ages[-2], free)
        ages = np.concatenate([offer[None, :], ages[:-2], held[None, :]]) + cost[f]
    return _trace(ages[-1] + leaving, came_from, matured, hold)


def _trace(final: Array, came_from: NDArray[np.int64], matured: NDArray[np.bool_], hold: int) -> NDArray[np.int64]:
    frames = len(came_from)
    shown = np.empty(frames, np.int64)
    drawing = int(final.argmin())
    age = hold
    for f in range(frames - 1, -1, -1):
        shown[f] = drawing
        if f == 0:
            break
        if hold == 1:
            drawing = drawing if matured[f, drawing] else int(came_from[f, drawing])
        elif age == hold:
            age = hold - 1 if matured[f, drawing] else hold
        elif age > 1:
            age -= 1
        else:
            drawing, age = int(came_from[f, drawing]), hold
    return shown
