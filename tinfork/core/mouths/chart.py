"""A mouth chart: any number of drawings, each with a place in articulator space.

A drawing's name means nothing; the nearest drawing serves a shape the chart lacks.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import ChartError
from .shapes import SHAPES, Articulation

WEIGHTS = np.array([1.6, 0.9, 1.2, 1.0, 1.0, 0.35, 0.25, 0.5])
"""How much a difference in each articulator is seen."""

NEAR = 0.4
"""A drawing no farther than this passes for a shape; the thirteen shapes lie farther apart but for a few."""

_CLOSED_JAW = 0.15
_REACHED, _FURTHER, _WIDER = 0.9, 0.5, 0.3
_ROUND, _WIDE = 0.5, 0.8


@dataclass(frozen=True)
class Drawing:
    """A drawing of a chart, as planning knows it. name: the drawing's own; place: one value 0..1 per articulator."""

    name: str
    place: Articulation


@dataclass(frozen=True)
class Chart:
    """At least one drawing; names are unique."""

    drawings: tuple[Drawing, ...]

    def __post_init__(self) -> None:
        if not self.drawings:
            raise ChartError("A mouth chart has one drawing at least.")

    def places(self) -> NDArray[np.float64]:
        """Return (drawings, articulators)."""
        return np.array([d.place for d in self.drawings], np.float64)

    def index(self, name: str) -> int:
        """Return the row of a drawing. KeyError if there is none of that name."""
        return {d.name: i for i, d in enumerate(self.drawings)}[name]

    def nearest(self, place: Articulation) -> int:
        """Return the row of the drawing closest to a place."""
        return int((WEIGHTS * (self.places() - np.array(place)) ** 2).sum(axis=1).argmin())

    def stand_in(self, place: Articulation) -> int:
        """Return the row of the drawing that stands in for one at a place: the closest of those that are shut where
        that is shut, and of those that are open where that is open, if there are any."""
        closed = bool(place[0] <= _CLOSED_JAW)
        shut = set(self.shut())
        rows = [row for row in range(len(self.drawings)) if (row in shut) == closed] or list(range(len(self.drawings)))
        return min(rows, key=lambda row: distance(self.drawings[row].place, place))

    def nearest_shape(self, drawing: int) -> str:
        """Return the name of the shape a drawing is closest to."""
        return shape_at(self.drawings[drawing].place)

    def shape_of(self, name: str) -> str:
        """Return the name of the shape a drawing is closest to; "" where nothing is shown. KeyError if there is none of
        that name."""
        return self.nearest_shape(self.index(name)) if name else ""

    def closers(self, shape: str) -> tuple[int, ...]:
        """Return drawings that read as this closure: for press the lips shut, for tuck the lip under the teeth.

        Where a chart has no tuck, its shut mouths stand in; where it has neither, the answer is empty.
        """
        places = self.places()
        pressed = (places[:, 3] >= 0.6) & (places[:, 0] <= _CLOSED_JAW)
        shut = (places[:, 0] <= _CLOSED_JAW) & (places[:, 5] < 0.5)
        tucked = places[:, 4] >= 0.5
        order = (tucked, pressed, shut) if shape == "tuck" else (pressed, shut)
        return next((tuple(np.flatnonzero(mask).tolist()) for mask in order if mask.any()), ())

    def shut(self) -> tuple[int, ...]:
        """Return drawings with the lips or the lip and teeth together."""
        return tuple(sorted({*self.closers("press"), *self.closers("tuck")} | set(self._closed())))

    def openers(self, shape: str) -> tuple[int, ...]:
        """Return drawings in which a vowel that aims at a shape is reached: the one nearest to it, and all that are
        open nine tenths as far, or further, and as round or as wide where the shape is round or wide."""
        place = SHAPES[shape].place
        best = self.places()[self.nearest(place)]
        places = self.places()
        jaw, width, rounding = (places[:, i] for i in range(3))
        reached = (jaw >= _REACHED * min(place[0], best[0])) & (jaw <= place[0] + _FURTHER)
        if place[2] >= _ROUND:
            reached &= rounding >= _REACHED * min(place[2], best[2])
        else:
            reached &= rounding < _ROUND
        if place[1] >= _WIDE:
            reached &= width >= _REACHED * min(place[1], best[1])
        else:
            reached &= width <= max(place[1] + _WIDER, best[1])
        reached[list(self.shut())] = False
        reached[self.nearest(place)] = True
        return tuple(np.flatnonzero(reached).tolist())

    def _closed(self) -> list[int]:
        places = self.places()
        return np.flatnonzero((places[:, 0] <= _CLOSED_JAW) & (places[:, 5:7].max(axis=1) < 0.5)).tolist()


@dataclass(frozen=True)
class Covered:
    """What a chart has for a shape: the drawing nearest to it, how far off that is as it is seen, and whether it is
    near enough to pass for it."""

    shape: str
    drawing: str
    distance: float
    covered: bool


def distance(one: Articulation, other: Articulation) -> float:
    """Return how unlike two places look: 0 for alike, about 1 for a shut mouth and a wide open one."""
    away = np.array(one) - np.array(other)
    return float(np.sqrt((WEIGHTS * away**2).sum()))


def shape_at(place: Articulation) -> str:
    """Return the name of the shape a place is closest to."""
    return min(SHAPES, key=lambda name: distance(SHAPES[name].place, place))


def coverage(chart: Chart) -> tuple[Covered, ...]:
    """Return for each of the thirteen shapes what stands for it."""
    found = []
    for name, shape in SHAPES.items():
        drawing = chart.drawings[chart.nearest(shape.place)]
        away = distance(drawing.place, shape.place)
        found.append(Covered(name, drawing.name, round(away, 3), away <= NEAR))
    return tuple(found)


def built_in() -> Chart:
    """Return thirteen drawings, one for each shape, named after it."""
    return Chart(tuple(Drawing(shape.name, shape.place) for shape in SHAPES.values()))
