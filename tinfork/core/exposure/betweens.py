"""Drawings between two others, where a mouth would leap: a chart's own, shown before a seam where there is room.

The drawing that comes is seen on its frame as before, and the one that goes is held for two frames at the least, so
that lips close and open when they did. What a person chose is never cut.
"""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..mouths.chart import WEIGHTS, Drawing
from ..mouths.shapes import Articulation
from .track import Exposure
from .verbs import Exposures

Array = NDArray[np.float64]

JAW_LEAPS, ROUNDING_LEAPS = 0.3, 0.6
"""A mouth leaps where its jaw, or how round it is, changes so much or more."""

_OPENER = 0.04
"""Where the jaw leaps, what lies between is so much more open than the more closed of the two."""

_BETWEEN = 0.75
"""A drawing lies between two if it is no farther from each than that share of how far they are apart."""

_LEAST = 2
_JAW, _ROUNDING = 0, 2


def with_betweens(
    exposures: Sequence[Exposure], over: Callable[[int], int], between: Callable[[str, str], str | None]
) -> Exposures:
    """Return exposures with drawings between. over: for the frame on which a seam lies, over how many frames one is
    shown before it, 0 for none; between: which drawing lies between two, None for none."""
    found: list[Exposure] = []
    for before, after in itertools.pairwise([*exposures, None]):
        assert before is not None
        count = min(over(after.frame), before.frames - _LEAST) if after else 0
        drawing = between(before.drawing, after.drawing) if after and count > 0 and not before.pinned else None
        if drawing is None:
            found.append(before)
            continue
        stays = before.frames - count
        found.append(replace(before, frames=stays))
        found.append(Exposure(before.frame + stays, count, drawing, False, before.sounds))
    return tuple(found)


def drawing_between(one: Articulation, other: Articulation, drawings: Sequence[Drawing]) -> str | None:
    """Return which of some drawings lies between two places: the nearest to their middle; None where they are near
    enough to be cut, or nothing lies there."""
    jaw, rounding = (abs(one[at] - other[at]) for at in (_JAW, _ROUNDING))
    if (jaw < JAW_LEAPS and rounding < ROUNDING_LEAPS) or not drawings:
        return None
    apart = _distance(np.array(one), np.array(other))
    places = np.array([drawing.place for drawing in drawings])
    from_one, from_other = _distance(places, np.array(one)), _distance(places, np.array(other))
    lies = (from_one <= _BETWEEN * apart) & (from_other <= _BETWEEN * apart)
    if jaw >= JAW_LEAPS:
        lies &= places[:, _JAW] >= min(one[_JAW], other[_JAW]) + _OPENER
    if not lies.any():
        return None
    middle = _distance(places, (np.array(one) + np.array(other)) / 2)
    return drawings[int(np.where(lies, middle, np.inf).argmin())].name


def _distance(places: Array, to: Array) -> Array:
    return np.asarray(np.sqrt((WEIGHTS * (places - to) ** 2).sum(axis=-1)))
