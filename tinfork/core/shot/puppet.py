"""A face whose parts move, as pictures: each piece is drawn once, and then laid where its part has it."""

import io
from collections.abc import Mapping

import numpy as np
from PIL import Image

from ..acting.parts import MOUTH, Matrix, Pose, matrices
from ..mouths.face import VIEW, Face, seen_pieces
from ..mouths.raster import png

Poses = Mapping[str, Pose]

_MARGIN = 0.3
"""A piece is drawn so much beyond the picture's edge, in shares of its width, as it may be moved in from there."""


class Puppet:
    """A face in a picture of a size, in pixels. drawn: the mouth's drawings on their anchor, as SVG."""

    def __init__(self, face: Face, drawn: Mapping[str, str], size: tuple[int, int]) -> None:
        self._face, self._drawn, self._size = face, drawn, size
        self._scale = (size[0] / VIEW[2], size[1] / VIEW[3])
        self._rasters: dict[str, tuple[Image.Image, tuple[int, int]]] = {}

    def picture(self, drawing: str, after: str, share: float, poses: Poses) -> Image.Image:
        """The face with a drawing for a mouth, of which a share is another already, while its parts do something."""
        placed = matrices(self._face.parts, poses)
        whole = Image.new("RGBA", self._size)
        for piece in seen_pieces(self._face, poses):
            matrix = placed.get(piece.part, placed[MOUTH])
            if piece.part != MOUTH:
                self._lay(whole, piece.markup, matrix)
            elif share:
                before, then = whole.copy(), whole
                self._lay(before, self._mouth(drawing), matrix)
                self._lay(then, self._mouth(after), matrix)
                whole = Image.blend(before, then, share)
            else:
                self._lay(whole, self._mouth(drawing), matrix)
        return whole

    def _mouth(self, drawing: str) -> str:
        svg = self._drawn[drawing]
        return f'<g transform="{self._face.mouth_transform}">{svg}</g>' if svg else ""

    def _lay(self, whole: Image.Image, markup: str, matrix: Matrix) -> None:
        if not markup:
            return
        raster, corner = self._raster(markup)
        to = self._in_pixels(matrix)
        corners = np.array([(x, y) for x in (0, raster.width) for y in (0, raster.height)], float) + corner
        moved = corners @ np.array([[to[0], to[1]], [to[2], to[3]]]) + (to[4], to[5])
        left, top = np.maximum(np.floor(moved.min(axis=0)).astype(int) - 1, 0).tolist()
        right, bottom = np.minimum(np.ceil(moved.max(axis=0)).astype(int) + 1, self._size).tolist()
        if right > left and bottom > top:
            back = _back(to, (left, top), corner)
            laid = raster.transform((right - left, bottom - top), Image.Transform.AFFINE, back, _WAY)
            whole.alpha_composite(laid, (left, top))

    def _in_pixels(self, m: Matrix) -> Matrix:
        """A matrix of the face's units as one of pixels."""
        (sx, sy), (left, top) = self._scale, VIEW[:2]
        a, b, c, d, e, f = m
        shift_x = a * left + c * top + e - left
        shift_y = b * left + d * top + f - top
        return (a, b * sy / sx, c * sx / sy, d, shift_x * sx, shift_y * sy)

    def _raster(self, markup: str) -> tuple[Image.Image, tuple[int, int]]:
        """A piece alone, cut to what is seen of it, and where its corner lies in the picture."""
        if markup not in self._rasters:
            left, top = VIEW[:2]
            mx, my = round(_MARGIN * self._size[0]), round(_MARGIN * self._size[1])
            wide, high = self._size[0] + 2 * mx, self._size[1] + 2 * my
            box = (left - mx / self._scale[0], top - my / self._scale[1], wide / self._scale[0], high / self._scale[1])
            svg = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{" ".join(map(str, box))}">{markup}</svg>'
            image = Image.open(io.BytesIO(png(svg, wide))).convert("RGBA").resize((wide, high))
            seen = image.getbbox() or (0, 0, 1, 1)
            cut = (max(0, seen[0] - 2), max(0, seen[1] - 2), min(wide, seen[2] + 2), min(high, seen[3] + 2))
            self._rasters[markup] = image.crop(cut), (cut[0] - mx, cut[1] - my)
        return self._rasters[markup]


_WAY = Image.Resampling.BICUBIC


def _back(to: Matrix, corner: tuple[int, int], own: tuple[int, int]) -> Matrix:
    """For pixels of a cut-out, where in the piece they come from."""
    a, b, c, d, e, f = to
    det = a * d - b * c
    if abs(det) < 1e-9:
        return (0.0, 0.0, -1e6, 0.0, 0.0, -1e6)
    ia, ib, ic, id_ = d / det, -c / det, -b / det, a / det
    x, y = corner[0] - e, corner[1] - f
    return (ia, ib, ia * x + ib * y - own[0], ic, id_, ic * x + id_ * y - own[1])
