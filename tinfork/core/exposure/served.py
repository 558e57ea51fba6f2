"""What each exposure is there for: the sounds it serves; and for each sound, where it is seen or why it is not."""

import bisect
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..mouths.chart import Chart
from ..mouths.shapes import CLOSURES
from .curves import Curves, Target
from .track import Exposure

_SHARE = 0.4


@dataclass(frozen=True)
class Seen:
    """sound: its number; frame: where its mouth is seen, or None; reason: a sentence when it is left out."""

    sound: int
    frame: int | None
    reason: str


def with_sounds(exposures: Sequence[Exposure], curves: Curves, chart: Chart, lead: int) -> tuple[Exposure, ...]:
    """The exposures with the numbers of the sounds each serves."""
    served: list[set[int]] = [set() for _ in exposures]
    for target, rows in _overlaps(exposures, curves, lead):
        longest = max((share for _, share in rows), default=0.0)
        for row, share in rows:
            if share == longest or share >= _SHARE:
                served[row].add(target.sound)
        if target.shape in CLOSURES:
            closers = {chart.drawings[i].name for i in chart.closers(target.shape)}
            for row in _touching(exposures, target, curves, lead):
                if exposures[row].drawing in closers:
                    served[row].add(target.sound)
    return tuple(replace(e, sounds=tuple(sorted(own))) for e, own in zip(exposures, served, strict=True))


def account(exposures: Sequence[Exposure], curves: Curves, chart: Chart, lead: int) -> list[Seen]:
    """For each aim of the mouth in turn: the frame where its drawing is seen, or why it was left out."""
    answers = []
    for target in curves.targets:
        fits = {chart.drawings[i].name for i in chart.closers(target.shape)} if target.shape in CLOSURES else set()
        fits = fits or {chart.drawings[chart.nearest(tuple(target.place))].name}
        touching = _touching(exposures, target, curves, lead)
        seen = next((exposures[row].frame for row in touching if exposures[row].drawing in fits), None)
        answers.append(Seen(target.sound, seen, "" if seen is not None else _reason(exposures, touching)))
    return answers


def _reason(exposures: Sequence[Exposure], touching: list[int]) -> str:
    if any(exposures[row].pinned for row in touching):
        return "A pinned drawing stands in its place."
    return "Its neighbours are seen more; it is shorter than a drawing is held."


def _span(target: Target, curves: Curves, lead: int) -> tuple[float, float]:
    rate = float(curves.rate)
    return max(0.0, target.start * rate - lead), max(0.5, target.end * rate - lead)


def _overlaps(exposures: Sequence[Exposure], curves: Curves, lead: int) -> list[tuple[Target, list[tuple[int, float]]]]:
    """Each target with the exposures it overlaps once shifted by the lead, and what share of it each covers."""
    found = []
    first = 0
    for target in curves.targets:
        start, end = _span(target, curves, lead)
        while first > 0 and exposures[first].frame > start:
            first -= 1
        while first < len(exposures) - 1 and exposures[first].end <= start:
            first += 1
        rows = []
        row = first
        while row < len(exposures) and exposures[row].frame < end:
            covered = min(end, exposures[row].end) - max(start, exposures[row].frame)
            rows.append((row, round(max(0.0, covered) / max(end - start, 1e-9), 6)))
            row += 1
        found.append((target, rows))
    return found


def _touching(exposures: Sequence[Exposure], target: Target, curves: Curves, lead: int) -> list[int]:
    rate = float(curves.rate)
    start, end = target.start * rate - lead, target.end * rate
    return [row for row, e in _near(exposures, start) if e.frame < end and e.end > start]


def _near(exposures: Sequence[Exposure], start: float) -> list[tuple[int, Exposure]]:
    row = max(0, bisect.bisect_right(exposures, start, key=lambda e: e.frame) - 1)
    return list(enumerate(exposures[row : row + 12], row))
