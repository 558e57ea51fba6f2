"""Drawings of one chart laid on one point and brought to one size, so that none of them jumps on the face."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .face import VIEW
from .measure import solid_box
from .shapes import Articulation

WIDTH_AT_REST = 84.0
"""How wide a mouth at rest is, in the units of tinfork.core.mouths.draw."""


@dataclass(frozen=True)
class Registration:
    """Where a picture lies: x, y, the pixel of it that lies on the anchor; scale, units a pixel; turn, degrees."""

    x: float
    y: float
    scale: float
    turn: float = 0.0


def registered(pictures: Sequence[NDArray[np.uint8]], places: Sequence[Articulation]) -> list[Registration]:
    """Return where the pictures of a chart lie. Those of one size lie on one canvas, as they were drawn; of others the
    middle of the upper lip lies on the anchor. The mouth nearest to rest is made as wide as ours.
    """
    boxes = [solid_box(picture) for picture in pictures]
    if not boxes:
        return []
    rest = min(range(len(boxes)), key=lambda n: (places[n][0], places[n][3]))
    first, top, last, bottom = boxes[rest]
    scale = WIDTH_AT_REST / max(1, last - first)
    if len({picture.shape for picture in pictures}) == 1:
        return [Registration((first + last) / 2, (top + bottom) / 2, scale)] * len(pictures)
    lip = (bottom - top) / 2
    return [Registration((box[0] + box[2]) / 2, box[1] + lip, scale) for box in boxes]


def registered_heads(pictures: Sequence[NDArray[np.uint8]]) -> list[Registration]:
    """Return where whole heads lie: together they fill a face's view but for a margin, as they lie on their canvas; of
    canvases of other sizes each fills it alone."""
    boxes = [solid_box(picture) for picture in pictures]
    if len({picture.shape for picture in pictures}) == 1:
        firsts, lasts = np.array(boxes)[:, :2].min(axis=0), np.array(boxes)[:, 2:].max(axis=0)
        boxes = [(int(firsts[0]), int(firsts[1]), int(lasts[0]), int(lasts[1]))] * len(boxes)
    return [_filling(box) for box in boxes]


_FILLS = 0.88
"""Such a share of its picture a head fills: it needs a margin to move in."""


def _filling(box: tuple[int, int, int, int]) -> Registration:
    left, top, width, height = VIEW
    scale = _FILLS * min(width / (box[2] - box[0]), height / (box[3] - box[1]))
    middle = (box[0] + box[2]) / 2 - (left + width / 2) / scale, (box[1] + box[3]) / 2 - (top + height / 2) / scale
    return Registration(*middle, scale)


def markup(href: str, width: int, height: int, at: Registration, kind: str = "mouth") -> str:
    """Return a picture on its anchor as an SVG group of a class, in the units of tinfork.core.mouths.draw."""
    x, y = -at.x * at.scale, -at.y * at.scale
    turned = f' transform="rotate({at.turn:.2f})"' if at.turn else ""
    return (
        f'<g class="{kind}"{turned}><image href="{href}" x="{x:.2f}" y="{y:.2f}" width="{width * at.scale:.2f}" '
        f'height="{height * at.scale:.2f}"/></g>'
    )
