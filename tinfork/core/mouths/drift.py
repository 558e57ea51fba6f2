"""Drawings that would jump: what of a chart lies elsewhere than the others, is drawn larger, or in heavier lines.

An upper lip hardly moves, and mouths of one place are of one width; so what is unlike its chart in that was drawn or
laid so by mistake. Each finding carries what cures it.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from .draw import mouth_width
from .measure import is_ink, solid_box, thicker
from .picture import Picture
from .register import Registration
from .shapes import Articulation

Pixels = NDArray[np.uint8]

MOST_DRIFT = 3.5
"""So far off, in units, a drawing may lie before it is listed; a mouth at rest is 84 wide."""
MOST_SHUT_DRIFT = 10.0
"""So far up or down shut mouths may."""
MOST_SIZE = 1.25
MOST_WIDER = 12.0
MOST_LINE = 1.3

_SIDE = 420
_FEWEST = 4
_LINES = 0.4
_SHUT = 0.12
_HEAVIEST = 12.0
_ROUNDS = 12


@dataclass(frozen=True)
class Outline:
    """What of a picture is drawn, in its pixels: left, top, right; and how heavy its outline is, None where it has
    none."""

    left: float
    top: float
    right: float
    line: float | None

    def width(self, at: Registration) -> float:
        """Return how wide it is where it lies, in units."""
        return (self.right - self.left) * at.scale

    def middle(self, at: Registration) -> float:
        """Return how far right of the anchor its middle lies, in units."""
        return ((self.left + self.right) / 2 - at.x) * at.scale

    def edge(self, at: Registration) -> float:
        """Return how far below the anchor its upper edge lies, in units."""
        return (self.top - at.y) * at.scale

    def weight(self, at: Registration) -> float | None:
        """Return how heavy its lines are, in units."""
        return None if self.line is None else self.line * at.scale


@dataclass(frozen=True)
class DriftFinding:
    """A drawing that jumps beside the others. row: which drawing; kind: "place", "size" or "line". across, down: how
    far it lies off, in units; times: how many times as large it is drawn, or its lines as heavy. cure: where it
    should lie; for lines that are none of its place, where it lies."""

    row: int
    kind: str
    across: float
    down: float
    times: float
    cure: Registration


def outline(pixels: Pixels, scale: float) -> Outline:
    """Return the outline of a picture of (height, width, 4). scale: units a pixel."""
    left, top, right, _ = solid_box(pixels)
    small = min(1.0, _SIDE / max(pixels.shape[:2]))
    if small < 1:
        pixels = Picture("", pixels).scaled(small).pixels
    line = _into(pixels, _HEAVIEST / scale * small)
    return Outline(left, top, right, None if line is None else round(line / small, 2))


def _into(pixels: Pixels, most: float) -> float | None:
    """How far the ink of the outline reaches inwards, in pixels; None where most of the outline is none, or its ink has
    no end within so many."""
    ink = is_ink(pixels)
    whole = ndimage.binary_fill_holes(pixels[:, :, 3] > 100)
    depth = ndimage.gaussian_filter(ndimage.distance_transform_edt(whole), 1.5)
    rim = np.argwhere(whole & ~ndimage.binary_erosion(whole)).T.astype(np.float64)
    inwards = np.array([side[tuple(rim.astype(int))] for side in np.gradient(depth)])
    inwards /= np.maximum(np.hypot(*inwards), 1e-6)
    far = np.arange(0.0, most + 2, 0.5)
    along = rim[:, :, None] + inwards[:, :, None] * far
    inked = ndimage.map_coordinates(ink.astype(np.float64), along, order=1) > 0.5
    begins = inked[:, :4].any(axis=1)
    ends = np.where(inked, far, 0).max(axis=1, initial=0, where=np.cumsum(~inked, axis=1) <= 3)
    drawn = begins & (ends < most)
    if drawn.mean() < _LINES:
        return None
    return float(np.median(ends[drawn])) + 0.75


def findings(
    known: Sequence[Outline], places: Sequence[Articulation], lie: Sequence[Registration]
) -> list[DriftFinding]:
    """Return what would jump among the drawings of a chart, each with its cure. Of fewer than four nothing is known."""
    if len(known) < _FEWEST:
        return []
    pairs = list(zip(known, lie, strict=True))
    widths, middles, tops = (
        np.array([of(one, at) for one, at in pairs]) for of in (Outline.width, Outline.middle, Outline.edge)
    )
    expected = np.maximum(1.0, _fit([[1.0, mouth_width(place)] for place in places], widths))
    middles -= np.median(middles)
    tops -= _fit([[1.0, place[0], place[2]] for place in places], tops)
    usual = usual_line(known, places, lie)
    found: list[DriftFinding] = []
    for row, (one, at) in enumerate(pairs):
        shut, times = places[row][0] <= _SHUT, float(widths[row] / expected[row])
        if not 1 / MOST_SIZE <= times <= MOST_SIZE and abs(widths[row] - expected[row]) > MOST_WIDER:
            found.append(DriftFinding(row, "size", 0, 0, times, replace(at, scale=at.scale / times)))
            continue
        across, down = float(middles[row]), float(tops[row])
        if shut and abs(down) <= MOST_SHUT_DRIFT:  # Closed lips lie as each style has them.
            down = 0.0
        if np.hypot(across, down) > MOST_DRIFT:
            cured = replace(at, x=at.x + across / at.scale, y=at.y + down / at.scale)
            found.append(DriftFinding(row, "place", across, down, 1, cured))
        weight = one.weight(at)
        if usual and weight and not shut and not 1 / MOST_LINE <= weight / usual <= MOST_LINE:
            found.append(DriftFinding(row, "line", 0, 0, weight / usual, at))
    return found


def usual_line(known: Sequence[Outline], places: Sequence[Articulation], lie: Sequence[Registration]) -> float | None:
    """Return how heavy most lines of a chart are, in units; None where hardly any is drawn in lines."""
    pairs = [(one.weight(at), place) for one, at, place in zip(known, lie, places, strict=True)]
    heavy = [weight for weight, place in pairs if weight is not None and place[0] > _SHUT]
    return float(np.median(heavy)) if len(heavy) >= _FEWEST else None


def _fit(known: Sequence[Sequence[float]], values: NDArray[np.float64]) -> NDArray[np.float64]:
    """What values should be, by what is known of each, as most of them are: with least absolute differences, so that
    those that jumped do not count."""
    given = np.array(known)
    gentle = np.diag([1e-6] + [0.05] * (given.shape[1] - 1))
    weights = np.ones(len(values))
    for _ in range(_ROUNDS):
        weighted = given * weights[:, None]
        fit = np.linalg.solve(weighted.T @ given + gentle, weighted.T @ values)
        weights = 1 / np.maximum(0.3, np.abs(values - given @ fit))
    return np.asarray(given @ fit)


def reweighted(pixels: Pixels, line: float, by: float) -> Pixels:
    """Return a picture whose lines are so many pixels heavy, with lines so many heavier, or lighter where that is less
    than 0."""
    ink = is_ink(pixels)
    lines = ink & ~thicker(ink, max(2.0, line))
    grow = by > 0
    away, nearest = ndimage.distance_transform_edt(~lines if grow else lines, return_indices=True)
    share = np.clip(abs(by) / 2 - away + 1, 0, 1)
    share[lines == grow] = 0
    other = pixels[tuple(nearest)].astype(np.float64)
    mixed = pixels + (other - pixels) * share[:, :, None]
    return np.asarray(mixed.round(), np.uint8)
