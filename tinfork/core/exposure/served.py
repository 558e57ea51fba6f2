"""What each exposure is there for: the sounds it serves; and for each sound, where it is seen or why it is not."""

import functools
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ..mouths.chart import WEIGHTS, Chart
from ..mouths.shapes import CLOSURES, SHAPES
from .curves import Curves, Target
from .track import Exposure

_SHARE = 0.4
_NEIGHBOURS = 4
_ALIKE = 0.06
"""Drawings this near to what a sound asks for, weighted by how much it is seen, pass for its own."""

_NO_LIKENESS = 0.2
"""A drawing farther than this from a shape is no drawing of it, and only stands in."""

Array = NDArray[np.float64]
Ints = NDArray[np.int64]


class Fate(StrEnum):
    """What became of a sound's mouth."""

    SHOWN = "shown"
    MERGED = "merged"
    NO_DRAWING = "no drawing"
    PINNED = "pinned"
    KEPT = "kept"
    DIAL = "dial"
    NO_ROOM = "no room"
    BOTH = "dial and room"
    OUTWEIGHED = "outweighed"


REASONS = {
    Fate.PINNED: "A pinned drawing stands in its place.",
    Fate.KEPT: "What was there before an edit was kept; planned anew, it is seen.",
    Fate.DIAL: "Left out by the Detail dial; with more drawings it is shown.",
    Fate.NO_ROOM: "No room: its neighbours are seen more, and each must be held; with a hold of 1 it is seen.",
    Fate.BOTH: "No room at this dial: it is seen with a hold of 1 and the most drawings together.",
}
"""Why a sound is not seen, each the case where planning with that one thing changed shows it, in this order."""


@dataclass(frozen=True)
class Seen:
    """Where a sound is seen, or why not. sound: its number; frame: where its mouth, or what stands in for it, is
    seen, or None; other: the number of the sound it is merged with; reason: a sentence where it is not simply shown."""

    sound: int
    fate: Fate
    frame: int | None
    reason: str = ""
    other: int | None = None


def with_sounds(exposures: Sequence[Exposure], curves: Curves, chart: Chart, lead: Ints) -> tuple[Exposure, ...]:
    """Return the exposures with the numbers of the sounds each serves: those it shows most of, and the lips it closes
    for. lead: for each frame."""
    served: list[set[int]] = [set() for _ in exposures]
    closers = {shape: {chart.drawings[row].name for row in chart.closers(shape)} for shape in CLOSURES}
    for target, (first, shares) in zip(curves.targets, _cover(exposures, curves, lead), strict=True):
        longest = max(shares)
        for row, share in enumerate(shares, first):
            closes = target.shape in CLOSURES and exposures[row].drawing in closers[target.shape]
            if closes or share >= min(longest, _SHARE):
                served[row].add(target.sound)
    return tuple(
        Exposure(e.frame, e.frames, e.drawing, e.pinned, tuple(sorted(own)))
        for e, own in zip(exposures, served, strict=True)
    )


Others = Mapping[Fate, Callable[[], Sequence[Exposure]]]
"""For each of REASONS the track as it is planned with that one thing changed."""


def account(
    exposures: Sequence[Exposure],
    others: Others,
    curves: Curves,
    chart: Chart,
    lead: Ints,
    sounds: Collection[int] | None = None,
) -> list[Seen]:
    """Return for each sound in turn that has an aim: where it is seen, or why not. A diphthong is seen in its first
    half.

    others: what tells the reasons; planned only where it is asked. lead: for each frame. sounds: the numbers of those
    that are asked about, None for all.
    """
    judge = _Judge(curves, chart)
    answers: dict[int, Seen] = {}
    here = _cover(exposures, curves, lead)

    @functools.cache
    def planned(fate: Fate) -> tuple[Sequence[Exposure], list[tuple[int, list[float]]]]:
        track = others[fate]()
        return track, _cover(track, curves, lead)

    def elsewhere(number: int, fate: Fate) -> Sequence[Exposure]:
        track, cover = planned(fate)
        return _rows(track, cover[number])

    for number, target in enumerate(curves.targets):
        known = answers.get(target.sound)
        if (sounds is not None and target.sound not in sounds) or (known is not None and known.frame is not None):
            continue
        near = _rows(exposures, here[number])
        seen = judge.seen(number, near, functools.partial(elsewhere, number))
        if known is None or seen.frame is not None or known.fate is Fate.OUTWEIGHED:
            answers[target.sound] = seen
    return list(answers.values())


def _rows(exposures: Sequence[Exposure], cover: tuple[int, list[float]]) -> Sequence[Exposure]:
    first, shares = cover
    return exposures[first : first + len(shares)]


class _Judge:
    """Says what became of each aim."""

    def __init__(self, curves: Curves, chart: Chart) -> None:
        self._targets = curves.targets
        self._names = [drawing.name for drawing in chart.drawings]
        self._rows = {name: row for row, name in enumerate(self._names)}
        self._fits = {shape: _fits(shape, chart) for shape in {(t.shape, t.nucleus) for t in curves.targets}}
        self._nearest = {
            shape: min((_distance(chart, row, SHAPES[shape[0]].place), row) for row in rows) if rows else None
            for shape, rows in self._fits.items()
        }
        self._unlike = _unlikeness(curves.targets, chart)

    def seen(self, number: int, here: Sequence[Exposure], elsewhere: Callable[[Fate], Sequence[Exposure]]) -> Seen:
        """Return the aim of this number, given the exposures it touches, and those it touches in other tracks."""
        target = self._targets[number]
        fits = self._fits[target.shape, target.nucleus]
        frame = next((e.frame for e in here if self._rows.get(e.drawing) in fits), None)
        nearest = self._nearest[target.shape, target.nucleus]
        if nearest is None or nearest[0] > _NO_LIKENESS:
            stands_in = f"; “{self._names[nearest[1]]}” stands in" if nearest and frame is not None else ""
            return Seen(target.sound, Fate.NO_DRAWING, frame, f"The chart has no drawing for it{stands_in}.")
        if frame is not None:
            return Seen(target.sound, Fate.SHOWN, frame)
        if any(e.drawing not in self._rows for e in here if not e.pinned):
            return Seen(target.sound, Fate.NO_DRAWING, None, "A drawing that left the chart stands in its place.")
        known = [e for e in here if e.drawing in self._rows]
        alike = next((e for e in known if self._unlike[number, self._rows[e.drawing]] < _ALIKE), None)
        if alike:
            reason = "Its neighbour's mouth is alike and stands for both."
            return Seen(target.sound, Fate.MERGED, None, reason, self._other(number, alike))
        for fate, reason in REASONS.items():
            if fate is Fate.PINNED and not any(e.pinned for e in here):
                continue
            if any(self._rows.get(e.drawing) in fits for e in elsewhere(fate)):
                return Seen(target.sound, fate, None, reason)
        reason = "Its neighbours are seen more, whatever the dial and the hold; put it in by hand where it matters."
        return Seen(target.sound, Fate.OUTWEIGHED, None, reason)

    def _other(self, number: int, exposure: Exposure) -> int | None:
        """The sound nearest in time whose own mouth the exposure shows."""
        target, row = self._targets[number], self._rows[exposure.drawing]
        near = self._targets[max(0, number - _NEIGHBOURS) : number + _NEIGHBOURS + 1]
        shown = [t for t in near if t.sound != target.sound and row in self._fits[t.shape, t.nucleus]]
        return min(shown, key=lambda t: abs(t.start - target.start)).sound if shown else None


def _fits(shape: tuple[str, bool], chart: Chart) -> tuple[int, ...]:
    """The drawings that show an aim: those that close, those that open as far for a nucleus, or the nearest."""
    name, nucleus = shape
    if name in CLOSURES:
        return chart.closers(name)
    return chart.openers(name) if nucleus else (chart.nearest(SHAPES[name].place),)


def _distance(chart: Chart, row: int, place: Sequence[float]) -> float:
    return float((WEIGHTS * (np.array(chart.drawings[row].place) - np.array(place)) ** 2).sum())


def _unlikeness(targets: Sequence[Target], chart: Chart) -> Array:
    """(targets, drawings): how far each drawing is from each aim, weighted by how much the aim is seen."""
    if not targets:
        return np.empty((0, len(chart.drawings)))
    away = np.array([t.place for t in targets])[:, None, :] - chart.places()[None, :, :]
    unlike: Array = np.array([t.visible for t in targets])[:, None] * (WEIGHTS * away**2).sum(axis=2)
    return unlike


def _cover(exposures: Sequence[Exposure], curves: Curves, lead: Ints) -> list[tuple[int, list[float]]]:
    """For each aim the exposures it may be seen in, from the lead before it until it ends: the first one's place, and
    what part of the aim, shown early, each of them covers."""
    if not curves.targets:
        return []
    rate = float(curves.rate)
    start, end = (np.array([getattr(t, side) for t in curves.targets]) * rate for side in ("start", "end"))
    early = lead[np.clip(start.astype(np.int64) - curves.first, 0, len(lead) - 1)]
    begins = np.array([e.frame for e in exposures])
    over = np.append(begins[1:], exposures[-1].end)
    first = np.maximum(np.searchsorted(begins, np.maximum(0, start - early), side="right") - 1, 0)
    count = np.maximum(np.searchsorted(begins, end, side="left") - first, 1)
    which = np.repeat(np.arange(len(start)), count)
    row = np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count) + first[which]
    shown_from, shown_to = np.maximum(0.0, start - early), np.maximum(0.5, end - early)
    covered = np.minimum(shown_to[which], over[row]) - np.maximum(shown_from[which], begins[row])
    shares = np.round(np.maximum(0.0, covered) / np.maximum(shown_to - shown_from, 1e-9)[which], 6).tolist()
    bounds = [0, *np.cumsum(count).tolist()]
    return [(a, shares[bounds[i] : bounds[i + 1]]) for i, a in enumerate(first.tolist())]
