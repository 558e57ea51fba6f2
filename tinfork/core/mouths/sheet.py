"""A sheet of drawings cut into its drawings: by a grid, or at the gaps between them."""

import numpy as np
from scipy import ndimage

from ..errors import ChartError
from ..limits import MAX_DRAWINGS
from .picture import Picture

_SOLID = 100
_GROUND = 24
_GAP = 0.012
_SPECK = 0.0004


def by_grid(sheet: Picture, columns: int, rows: int) -> list[Picture]:
    """Return the cells of a sheet, row by row, those that are empty left out. All are of one size, so that drawings
    stay where they lie in their cells. ChartError when there are none."""
    if not (columns >= 1 and rows >= 1 and columns * rows <= MAX_DRAWINGS):
        raise ChartError(f"A sheet is cut into 1 to {MAX_DRAWINGS} drawings; give how many there are across and down.")
    height, width = sheet.pixels.shape[0] // rows, sheet.pixels.shape[1] // columns
    if not height or not width:
        raise ChartError("The sheet is smaller than its grid; give how many drawings there are across and down.")
    drawn = _drawn(sheet)
    cells = [(row * height, column * width) for row in range(rows) for column in range(columns)]
    found = [(y, x) for y, x in cells if drawn[y : y + height, x : x + width].any()]
    return _named(sheet, [(y, x, y + height, x + width) for y, x in found])


def by_gaps(sheet: Picture) -> list[Picture]:
    """Return the drawings of a sheet that lie apart from each other, in the order one reads them, each cut close."""
    drawn = _drawn(sheet)
    reach = max(1, round(_GAP * max(drawn.shape)))
    near = ndimage.distance_transform_edt(~drawn) <= reach
    labels = ndimage.label(near)[0]
    least = _SPECK * drawn.size
    boxes = []
    for place in ndimage.find_objects(labels):
        own = drawn[place]
        if own.sum() >= least:
            rows, columns = np.flatnonzero(own.any(axis=1)), np.flatnonzero(own.any(axis=0))
            top, left = place[0].start, place[1].start
            boxes.append((top + rows[0], left + columns[0], top + rows[-1] + 1, left + columns[-1] + 1))
    if len(boxes) > MAX_DRAWINGS:
        raise ChartError(f"There are {len(boxes)} pieces on the sheet, more than {MAX_DRAWINGS}; cut it by a grid.")
    return _named(sheet, _in_reading_order(boxes))


def _drawn(sheet: Picture) -> np.ndarray:
    """Where something is drawn: what is solid, or on a ground without holes what differs from its corners."""
    pixels = sheet.pixels
    solid = pixels[:, :, 3] > _SOLID
    if not solid[[0, 0, -1, -1], [0, -1, 0, -1]].all():
        return np.asarray(solid)
    ground = np.median(pixels[[0, 0, -1, -1], [0, -1, 0, -1], :3], axis=0)
    return np.asarray(np.abs(pixels[:, :, :3].astype(np.int64) - ground).max(axis=2) > _GROUND)


def _in_reading_order(boxes: list[tuple[int, int, int, int]]) -> list[tuple[int, int, int, int]]:
    """From left to right in rows: what overlaps the row's first by half of its height is in its row."""
    left, found = sorted(boxes), list[tuple[int, int, int, int]]()
    while left:
        first = left[0]
        middle = (first[0] + first[2]) / 2
        row = [box for box in left if box[0] <= middle <= box[2] or first[0] <= (box[0] + box[2]) / 2 <= first[2]]
        found += sorted(row, key=lambda box: box[1])
        left = [box for box in left if box not in row]
    return found


def _named(sheet: Picture, boxes: list[tuple[int, int, int, int]]) -> list[Picture]:
    if not boxes:
        raise ChartError(f"Nothing can be seen on {sheet.name}; export the sheet with its layers switched on.")
    pixels = sheet.pixels
    return [
        Picture(f"{sheet.name} {number}", np.ascontiguousarray(pixels[y:bottom, x:right]))
        for number, (y, x, bottom, right) in enumerate(boxes, 1)
    ]
