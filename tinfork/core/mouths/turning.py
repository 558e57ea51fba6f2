"""A head that turns: what lies on it slides over it, as on a ball about the head's upright axis that is seen from far
off (an orthographic rotation).

Lengths are units of a face's picture (tinfork.core.mouths.face.VIEW). A head that faces all the way to a side is
turned by less than a right angle, so that what is drawn to be seen from the front still reads.
"""

import math
from collections.abc import Mapping

from .parts import EDGE, FACING, HEAD, NEAR, ON, PLAIN, Matrix, Pose, Relief, times

_MOST_TURNED = 55.0
_ROUND = 110.0
"""How strongly a head is curved: so far from the axis to the side its skin would lie at half a right angle."""

_COMES = 18.0
"""So far before the middle what is on the near side is seen whole."""

_OUTLINE = 1.4
_GONE = 0.06


def turned(facing: float) -> float:
    """Return by how many degrees a head is turned that faces some degrees to the right."""
    return _MOST_TURNED * math.sin(math.radians(facing))


def slid(relief: Relief, axis: float, facing: float) -> Matrix:
    """Return where a piece is drawn on a head about an axis that faces some degrees to the right of the picture; all
    on one line for one that is not seen.

    >>> [round(value, 1) for value in slid(Relief(0.0, 100.0), 0.0, 90.0)]
    [0.6, 0.0, 0.0, 1.0, 81.9, 0.0]
    """
    angle, aside = math.radians(turned(facing)), relief.x - axis
    x = axis + aside * math.cos(angle) + relief.z * math.sin(angle)
    before = relief.z * math.cos(angle) - aside * math.sin(angle)
    wide, pivot = 1.0, relief.x
    if relief.way == ON:
        wide = math.cos(angle) - aside / _ROUND * math.sin(angle)
    elif relief.way == NEAR:
        wide = min(1.0, before / _COMES)
    elif relief.way == EDGE:
        edge = axis + _OUTLINE * aside
        wide = (x - edge) / (relief.x - edge)
        x, pivot = edge, edge
    if wide < _GONE:
        return (0.0, 0.0, 0.0, 1.0, x, 0.0)
    return (wide, 0.0, 0.0, 1.0, x - wide * pivot, 0.0)


def facing_of(poses: Mapping[str, Pose]) -> float:
    """Return where a head faces, in degrees to the right, by what the parts do."""
    head = poses.get(HEAD)
    return head.dials.get(FACING, 0.0) if head else 0.0


def on_head(relief: Relief, axis: float, facing: float, head: Matrix, part: Matrix) -> Matrix:
    """Return where a piece of a part is drawn on a head that faces somewhere. head, part: where these are."""
    slide = slid(relief, axis, facing)
    return part if slide == PLAIN else times(times(times(head, slide), inverse(head)), part)


def inverse(matrix: Matrix) -> Matrix:
    """Return the matrix that undoes one. ZeroDivisionError where it lays all on a line."""
    a, b, c, d, e, f = matrix
    area = a * d - b * c
    return (d / area, -b / area, -c / area, a / area, (c * f - d * e) / area, (b * e - a * f) / area)
