"""A face whose parts move, as pictures: each piece is drawn once, and then laid where its part has it."""

import io
from collections.abc import Mapping
from functools import lru_cache

import numpy as np
from PIL import Image

from ..mouths.face import VIEW, Face, laid
from ..mouths.parts import MOUTH, Matrix, Pose
from ..mouths.raster import png

Poses = Mapping[str, Pose]
Cut = tuple[Image.Image, tuple[int, int]]
"""A picture, and where its corner lies in the whole."""

_FEWEST_KEPT, _MOST_PIXELS_KEPT = 12, 40_000_000
_MARGIN = 0.3
"""A piece is drawn so much beyond the picture's edge, in shares of its width, as it may be moved in from there."""


class Puppet:
    """A face in a picture of a size, in pixels. drawn: the mouth's drawings on their anchor, as SVG."""

    def __init__(self, face: Face, drawn: Mapping[str, str], size: tuple[int, int]) -> None:
        self._face, self._drawn, self._size = face, drawn, size
        self._scale = (size[0] / VIEW[2], size[1] / VIEW[3])
        most = max(_FEWEST_KEPT, _MOST_PIXELS_KEPT // (size[0] * size[1]))
        self._piece = lru_cache(most)(self._drawn_alone)
        self._run = lru_cache(most)(self._laid_together)

    def picture(self, drawing: str, after: str, share: float, poses: Poses) -> Image.Image:
        """Return the face with a drawing for a mouth, of which a share is another already, while its parts do
        something."""
        if share:
            return Image.blend(self.picture(drawing, "", 0.0, poses), self.picture(after, "", 0.0, poses), share)
        whole = Image.new("RGBA", self._size)
        for matrix, pieces in self._runs(drawing, poses):
            self._lay(whole, pieces, matrix)
        return whole

    def _runs(self, drawing: str, poses: Poses) -> list[tuple[Matrix, tuple[str, ...]]]:
        """What is seen, the lowest first; neighbours that lie alike are laid as one."""
        found: list[tuple[Matrix, tuple[str, ...]]] = []
        for piece, matrix in laid(self._face, poses):
            markup = self._mouth(drawing) if piece.part == MOUTH else piece.markup
            if found and found[-1][0] == matrix:
                found[-1] = (matrix, (*found[-1][1], markup))
            else:
                found.append((matrix, (markup,)))
        return found

    def _mouth(self, drawing: str) -> str:
        svg = self._drawn[drawing]
        return f'<g transform="{self._face.mouth_transform}">{svg}</g>' if svg else ""

    def _lay(self, whole: Image.Image, pieces: tuple[str, ...], matrix: Matrix) -> None:
        raster, corner = self._run(pieces)
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

    def _laid_together(self, pieces: tuple[str, ...]) -> Cut:
        """Pieces one over the other, as they lie at rest."""
        own = [self._piece(markup) for markup in pieces if markup]
        if len(own) == 1:
            return own[0]
        left = min((corner[0] for _, corner in own), default=0)
        top = min((corner[1] for _, corner in own), default=0)
        right = max((corner[0] + image.width for image, corner in own), default=1)
        bottom = max((corner[1] + image.height for image, corner in own), default=1)
        whole = Image.new("RGBA", (right - left, bottom - top))
        for image, corner in own:
            whole.alpha_composite(image, (corner[0] - left, corner[1] - top))
        return whole, (left, top)

    def _drawn_alone(self, markup: str) -> Cut:
        """A piece alone, cut to what is seen of it, and where its corner lies in the picture."""
        left, top = VIEW[:2]
        mx, my = round(_MARGIN * self._size[0]), round(_MARGIN * self._size[1])
        wide, high = self._size[0] + 2 * mx, self._size[1] + 2 * my
        box = (left - mx / self._scale[0], top - my / self._scale[1], wide / self._scale[0], high / self._scale[1])
        svg = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{" ".join(map(str, box))}">{markup}</svg>'
        image = Image.open(io.BytesIO(png(svg, wide))).convert("RGBA").resize((wide, high))
        seen = image.getbbox() or (0, 0, 1, 1)
        cut = (max(0, seen[0] - 2), max(0, seen[1] - 2), min(wide, seen[2] + 2), min(high, seen[3] + 2))
        return image.crop(cut), (cut[0] - mx, cut[1] - my)


_WAY = Image.Resampling.BILINEAR


def _back(to: Matrix, corner: tuple[int, int], own: tuple[int, int]) -> Matrix:
    """For pixels of a cut-out, where in the piece they come from."""
    a, b, c, d, e, f = to
    det = a * d - b * c
    if abs(det) < 1e-9:
        return (0.0, 0.0, -1e6, 0.0, 0.0, -1e6)
    ia, ib, ic, id_ = d / det, -c / det, -b / det, a / det
    x, y = corner[0] - e, corner[1] - f
    return (ia, ib, ia * x + ib * y - own[0], ic, id_, ic * x + id_ * y - own[1])
