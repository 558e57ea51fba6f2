"""Where drawings lie in articulator space, measured from their pictures.

A mouth is taken apart into what can be told in any style, drawn in lines or filled: its silhouette, the ink of its
lines, and the regions the lines leave between them. Those on the rim are lips, those inside are the opening; in it what
is bright is teeth, what is dark is hollow, what is coloured is tongue. How wide and how open a mouth is counts against
the other drawings of its chart: the shut ones say how wide a mouth at rest is, the widest open one how far it goes.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from .shapes import Articulation

Bools = NDArray[np.bool_]
Array = NDArray[np.float64]

_SIDE = 256
_MARGIN = 4
_SOLID = 0.4
_UNLIKE = 0.16
_DARK, _BRIGHT, _PALE = 0.40, 0.74, 0.30
_LIGHT = np.array([0.299, 0.587, 0.114])
_FILLED, _THINNEST = 0.3, 1.5
_SHUT = 0.045
_DEEP = 0.065
"""What is dark and twice so high against the width of the mouth is no line but a hollow."""
_MIDDLE = (0.36, 0.64)

_WIDTHS = ((0.30, 0.43, 0.58, 0.67, 0.82, 1.00, 1.16, 1.45), (0.0, 0.05, 0.25, 0.28, 0.42, 0.50, 0.64, 0.95))
"""How wide a mouth is drawn against the one at rest, and the articulator's width that is."""
_ROUNDINGS = ((0.30, 0.44, 0.59, 0.68, 0.82, 0.95, 1.10), (1.0, 1.0, 0.76, 0.6, 0.3, 0.1, 0.0))
_PRESSES = ((0.35, 0.50, 0.75, 0.92), (1.0, 0.95, 0.5, 0.25))
"""How high a shut mouth is drawn against the fullest shut one, and how far its lips are pressed."""
_TONGUES = ((0.12, 0.25, 0.50), (0.0, 0.25, 0.85))
_UPPER, _LOWER = 0.175, 0.125
_FILLS, _HIDDEN = 0.42, 0.02
_NUDGE = 4
"""So many pixels a head of another canvas is moved about, at the scale it is measured at, to lie as the others do."""
_JAW = 0.84
"""How high the opening of a wide open mouth is against the width of the mouth at rest, where a chart has none."""


@dataclass(frozen=True)
class Parts:
    """What is measured of one drawing, in pixels of the chart's common scale. width, height: of the whole mouth; open
    and open_width: of its opening; upper, lower, tongue, hollow: how much of the opening's height each takes in its
    middle, 0 to 1; rows: whether a line parts upper and lower teeth."""

    width: float
    height: float
    open: float
    open_width: float
    upper: float
    lower: float
    tongue: float
    hollow: float
    rows: bool


def measured(pictures: Sequence[NDArray[np.uint8]]) -> list[Articulation]:
    """Return the place of each drawing of a chart, from pictures of (height, width, 4), red, green, blue and alpha 0 to
    255.

    Pictures of one size are taken to lie on one canvas, at one scale. Where most are one head, those of another canvas
    are laid on it, and measured around the mouth alone as the others are.
    """
    return placed(all_parts(_mouths(pictures)))


def placed(found: Sequence[Parts]) -> list[Articulation]:
    """Return articulators from what was measured of all drawings of a chart."""
    if not found:
        return []
    most = max(one.open for one in found)
    around = float(np.median([one.width for one in found]))
    shut = [one for one in found if one.open <= _SHUT * around and one.upper < _FILLS]
    rest = max(shut, key=lambda one: one.height).width if shut else around
    wide = most if len(found) >= 3 and most > 0.3 * rest else max(most, _JAW * rest)
    fullest = max((one.height for one in shut), default=1.0)
    return [_place(one, rest, wide, fullest, len(shut)) for one in found]


def _place(one: Parts, rest: float, wide: float, fullest: float, shuts: int) -> Articulation:
    jaw = min(1.0, one.open / wide)
    if one.open <= _SHUT * rest and one.upper < _FILLS:
        share = one.width / rest
        pressed = float(np.interp(one.height / fullest, *_PRESSES)) if shuts > 1 else 0.4
        rounding = float(np.interp(share, *_ROUNDINGS)) if share < 0.75 else 0.1
        return _rounded(0.02 * (pressed < 0.6), np.interp(share, *_WIDTHS), rounding, pressed, 0, 0, 0, 0)
    share = one.width / (rest * (1 - 0.05 * jaw))
    width, rounding = float(np.interp(share, *_WIDTHS)), float(np.interp(share, *_ROUNDINGS))
    height = one.open / rest
    upper = _teeth(one.upper, height, _UPPER)
    lower = _teeth(one.lower, height, _LOWER)
    tongue = float(np.interp(one.tongue - 0.2 * (one.upper > 0.6), *_TONGUES))
    if _is_tuck(one, jaw, share):
        return _rounded(0.1, width, 0.05, 0.3, 1.0, 0.85, 0, 0)
    if one.rows and one.upper + one.lower > 0.55:
        upper, lower = max(upper, 0.9), max(lower, 0.68)
    if one.tongue > 0.35 and one.upper > 0.15 and one.hollow < 0.2:
        upper, tongue = max(upper, 0.75), 1.0
    return _rounded(jaw, width, rounding, 0, 0, upper, lower, tongue)


def _teeth(share: float, height: float, whole: float) -> float:
    if share < 0.04:
        return 0.0
    amount = min(1.0, (share * height + _HIDDEN) / whole)
    return max(amount, 0.8) if share > _FILLS else amount


def _is_tuck(one: Parts, jaw: float, share: float) -> bool:
    """Nothing but upper teeth in a small opening, narrower than the mouth: they rest on the lower lip."""
    alone = one.upper + one.lower > 0.6 and one.hollow < 0.25 and one.tongue < 0.25
    narrow = one.open_width < 0.78 * one.width and share < 1.3
    return alone and not one.rows and jaw < 0.3 and share > 0.7 and (narrow or share < 1.12)


def _rounded(*values: float) -> Articulation:
    return tuple(round(float(min(1.0, max(0.0, value))), 3) for value in values)


def _mouths(pictures: Sequence[NDArray[np.uint8]]) -> list[tuple[Bools, Array]]:
    """Of each picture the mask of its drawing and its colours, 0 to 1, at one scale, cut to the mouth where all show
    the same head."""
    scale = min(2.0, _SIDE / max((_extent(p) for p in pictures), default=1))
    small = [_scaled(p, scale) for p in pictures]
    usual = Counter(one.shape for one in small).most_common(1)
    of_one = [one for one in small if one.shape == usual[0][0]]
    window = _what_changes(of_one)
    if window is not None and len(of_one) < len(small):
        like = np.median(of_one, axis=0)
        others = [n for n, one in enumerate(small) if one.shape != like.shape]
        for n in others:
            small[n] = _laid_on(like, window, pictures[n], scale)
        window = _reaching(like, window, [small[n] for n in others])
    mouths = [(_mask(one), np.asarray(one[:, :, :3], np.float64)) for one in small]
    return mouths if window is None else [_cut(mask, rgb, window) for mask, rgb in mouths]


def _laid_on(like: Array, window: tuple[slice, slice], picture: NDArray[np.uint8], scale: float) -> Array:
    """A head of another canvas, as wide as a scaled one and laid on its top, then where it is most alike outside the
    window in which heads differ."""
    left, top, right, _ = _box(_mask(like))
    own_left, _, own_right, _ = _box(_mask(_scaled(picture, scale)))
    own = _scaled(picture, scale * (right - left) / max(1, own_right - own_left))
    own_left, own_top, own_right, _ = _box(_mask(own))
    across, down = (left + right - own_left - own_right) // 2, top - own_top
    around = np.ones(like.shape[:2], bool)
    around[window] = False
    near = range(-_NUDGE, _NUDGE + 1)
    tries = (_moved(own, across + x, down + y, like.shape) for y in near for x in near)
    return min(tries, key=lambda laid: float(np.abs(laid - like)[around].sum()))


def _reaching(like: Array, window: tuple[slice, slice], laid: Sequence[Array]) -> tuple[slice, slice]:
    """The window in which heads differ, so large that it holds what begins in it of others too; lines that lie beside
    each other by a pixel are no difference."""
    reach = np.zeros(like.shape[:2], bool)
    reach[window] = True
    for one in laid:
        apart = ndimage.binary_opening(np.abs(one - like).max(axis=2) > _UNLIKE, np.ones((3, 3)))
        labels, _ = ndimage.label(apart)
        reach |= np.isin(labels, np.setdiff1d(labels[window], [0]))
    left, top, right, bottom = _box(reach)
    return slice(top, bottom), slice(left, right)


def _box(mask: Bools) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of what is set."""
    across, down = (np.flatnonzero(mask.any(axis=axis)) for axis in (0, 1))
    if not across.size:
        return 0, 0, mask.shape[1], mask.shape[0]
    return int(across[0]), int(down[0]), int(across[-1]) + 1, int(down[-1]) + 1


def _moved(values: Array, across: int, down: int, shape: tuple[int, ...]) -> Array:
    """A picture on a canvas of another shape, so many pixels farther right and down; blank where it does not reach."""
    laid = np.ones(shape)
    laid[:, :, 3] = 0
    height, width = values.shape[:2]
    rows = [row for row in range(shape[0]) if 0 <= row - down < height]
    columns = [column for column in range(shape[1]) if 0 <= column - across < width]
    if rows and columns:
        laid[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1] = values[
            rows[0] - down : rows[-1] + 1 - down, columns[0] - across : columns[-1] + 1 - across
        ]
    return laid


def solid_box(pixels: NDArray[np.uint8]) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of what is drawn in a picture, in pixels; all of it where nothing can be seen."""
    return _box(pixels[:, :, 3] > _SOLID * 255)


def is_ink(pixels: NDArray[np.uint8]) -> Bools:
    """Return where a picture is drawn in ink: what is solid and dark."""
    solid = pixels[:, :, 3] > _SOLID * 255
    return np.asarray(solid & (pixels[:, :, :3] @ (_LIGHT / 255) < _DARK))


def _extent(pixels: NDArray[np.uint8]) -> int:
    """How far a drawing reaches across its picture, in pixels."""
    left, top, right, bottom = solid_box(pixels)
    return max(right - left, bottom - top)


def _scaled(pixels: NDArray[np.uint8], scale: float) -> Array:
    height, width = (max(8, round(side * scale)) for side in pixels.shape[:2])
    image = Image.fromarray(pixels).convert("RGBa").resize((width, height), Image.Resampling.BOX)
    values = np.asarray(image, np.float64) / 255
    values = np.pad(values, ((_MARGIN, _MARGIN), (_MARGIN, _MARGIN), (0, 0)))
    alpha = values[:, :, 3:]
    colour = np.where(alpha > 0.02, values[:, :, :3] / np.maximum(alpha, 0.02), 1.0)
    return np.concatenate([np.clip(colour, 0, 1), alpha], axis=2)


def _mask(values: Array) -> Bools:
    """Where something is drawn: what is solid, or on a ground without holes what differs from it."""
    solid = np.asarray(values[:, :, 3] > _SOLID)
    inner = solid[_MARGIN:-_MARGIN, _MARGIN:-_MARGIN]
    edge = np.concatenate([inner[0], inner[-1], inner[:, 0], inner[:, -1]])
    if edge.mean() < 0.9:
        return solid
    rgb = values[_MARGIN:-_MARGIN, _MARGIN:-_MARGIN, :3]
    rim = np.concatenate([rgb[0], rgb[-1], rgb[:, 0], rgb[:, -1]])
    ground = np.median(rim, axis=0)
    unlike = np.abs(values[:, :, :3] - ground).max(axis=2) > _UNLIKE
    drawn = np.asarray(solid & unlike)
    light = values[:, :, :3] @ _LIGHT
    coloured = drawn & (light > _DARK)
    if coloured.sum() < _FILLED * drawn.sum():
        return drawn  # In lines alone, what is left blank is no white.
    return np.asarray(ndimage.binary_fill_holes(drawn))


def _what_changes(small: Sequence[Array]) -> tuple[slice, slice] | None:
    """Where drawings that show one head differ; None where they are mouths alone."""
    if len(small) < 3 or len({one.shape for one in small}) > 1:
        return None
    stack = np.array(small)
    flat = stack[..., :3] * stack[..., 3:] + (1 - stack[..., 3:])
    differs = (np.abs(flat - np.median(flat, axis=0)).max(axis=3) > _UNLIKE).any(axis=0)
    everywhere = np.logical_and.reduce([_mask(one) for one in small])
    same = everywhere & ~differs
    if same.sum() < 1.5 * differs.sum() or not differs.any():
        return None
    rows, columns = np.flatnonzero(differs.any(axis=1)), np.flatnonzero(differs.any(axis=0))
    return slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1)


def _cut(mask: Bools, rgb: Array, window: tuple[slice, slice]) -> tuple[Bools, Array]:
    """The mouth of a head: in the window where heads differ, what is not of the colour around it."""
    own = np.pad(rgb[window], ((2, 2), (2, 2), (0, 0)), mode="edge")
    rim = np.concatenate([own[0], own[-1], own[:, 0], own[:, -1]])
    ground = np.median(rim, axis=0)
    unlike = np.abs(own - ground).max(axis=2) > _UNLIKE
    return np.pad(unlike, 2), np.pad(own, ((2, 2), (2, 2), (0, 0)), mode="edge")


@dataclass(frozen=True)
class _Taken:
    """A mouth taken apart: whole, its silhouette without holes; deep, what is dark and no line; ink, its lines; cells,
    the regions of one colour between them, each with how much of the rim it takes, 0 to 1, and whether it is left blank
    or white."""

    mask: Bools
    rgb: Array
    light: Array
    whole: Bools
    deep: Bools
    ink: Bools
    line: float
    cells: tuple[tuple[Bools, float, bool], ...]

    @property
    def width(self) -> float:
        columns = np.flatnonzero(self.whole.any(axis=0))
        return float(columns[-1] - columns[0] + 1)

    @property
    def height(self) -> float:
        rows = np.flatnonzero(self.whole.any(axis=1))
        return float(rows[-1] - rows[0] + 1)


def all_parts(mouths: Sequence[tuple[Bools, Array]]) -> list[Parts]:
    """Return what each drawing of a chart shows. mouths: of each (height, width) where it is drawn, and its colours."""
    taken = [_taken(mask, rgb) for mask, rgb in mouths]
    lips = _has_lips([one for one in taken if one is not None])
    return [_parts(one, lips) for one in taken]


def _taken(mask: Bools, rgb: Array) -> _Taken | None:
    mask = _largest_pieces(mask)
    if not mask.any():
        return None
    sides = [np.flatnonzero(mask.any(axis=axis)) for axis in (1, 0)]
    near = tuple(slice(max(0, side[0] - _MARGIN), side[-1] + 1 + _MARGIN) for side in sides)
    mask, rgb = mask[near], rgb[near]
    whole = ndimage.binary_fill_holes(mask)
    light = np.where(mask, rgb @ _LIGHT, 1.0)
    width = float(np.ptp(np.flatnonzero(whole.any(axis=0))) + 1)
    dark = whole & mask & (light < _DARK)
    deep = thicker(dark, max(2.0, _DEEP * width))
    ink = dark & ~deep
    line = _line(ink)
    rim = whole & (ndimage.distance_transform_edt(whole) <= (line + 2.5 if ink.any() else 3.0)) & ~ink
    kinds = _colours(whole & ~ink & ~deep, mask, rgb)
    cells = []
    least = max(6.0, 0.002 * whole.sum())
    for kind in range(int(kinds.max()) + 1):
        labels, count = ndimage.label(kinds == kind)
        sizes = ndimage.sum_labels(np.ones_like(labels), labels, range(1, count + 1))
        for number in np.flatnonzero(sizes >= least) + 1:
            cell = labels == number
            if _thickest(cell) >= _THINNEST:
                share = float((cell & rim).sum() / max(1, rim.sum()))
                cells.append((cell, share, _is_paper(cell, mask, rgb, light)))
    return _Taken(mask, rgb, light, whole, deep, ink, line, tuple(cells))


def _colours(region: Bools, mask: Bools, rgb: Array) -> NDArray[np.int64]:
    """The number of its colour for each pixel of a region, 0 for what is left blank; -1 outside."""
    kinds = np.where(region, 0, -1)
    inside = region & mask
    if not inside.any():
        return kinds
    values = rgb[inside]
    bins, counts = np.unique((values * 10).round().astype(np.int64), axis=0, return_counts=True)
    found: list[Array] = []
    for number in np.argsort(counts)[::-1]:
        middle = bins[number] / 10
        if counts[number] >= 0.012 * len(values) and all(np.abs(middle - other).max() > 0.15 for other in found):
            found.append(middle)
    palette = np.array(found or [values.mean(axis=0)])
    nearest = np.abs(values[:, None, :] - palette[None]).max(axis=2).argmin(axis=1)
    kinds[inside] = nearest + 1
    return kinds


def _has_lips(taken: Sequence[_Taken]) -> bool:
    """Whether the drawings of a chart show lips: something coloured along the rim, or two halves with a seam."""
    coloured = [
        any(
            share > 0.5 and not paper and float(one.light[cell & one.mask].mean()) > _DARK
            for cell, share, paper in one.cells
        )
        for one in taken
    ]
    if any(coloured):
        return True
    flat = [one for one in taken if one.height < 0.35 * one.width]
    bare = [not one.cells and not one.deep.any() for one in flat]
    return bool(flat) and not any(bare) and any(sum(share > 0.2 for _, share, _ in one.cells) == 2 for one in flat)


def _parts(one: _Taken | None, lips: bool) -> Parts:
    if one is None:
        return Parts(1, 1, 0, 0, 0, 0, 0, 0, False)
    opening = one.deep.copy()
    for cell, share, paper in one.cells:
        if not lips or share < (0.1 if not paper else 0.2):
            opening |= cell
    if not opening.any():
        return Parts(one.width, one.height, 0, 0, 0, 0, 0, 0, False)
    reach = one.line / 2 + 1.5
    near = ndimage.distance_transform_edt(~opening) <= reach
    closed = ndimage.distance_transform_edt(near) > reach - 0.5
    opening = (ndimage.binary_fill_holes(closed) | opening) & one.whole
    return _inside(opening, one, _lined([cell for cell, _, _ in one.cells if (cell & opening).any()], opening, one))


def _lined(cells: Sequence[Bools], opening: Bools, one: _Taken) -> tuple[Bools, Bools]:
    """In an opening that is drawn in lines alone, what of it is teeth and what tongue: a band at the top, a band or a
    hump at the bottom. All of it blank is hollow."""
    teeth, tongue = np.zeros_like(opening), np.zeros_like(opening)
    blank = [cell for cell in cells if not (cell & one.mask).any()]
    if len(blank) < 2 or one.deep.any():
        return teeth, tongue
    rows = np.flatnonzero(opening.any(axis=1))
    across = float(np.ptp(np.flatnonzero(opening.any(axis=0))) + 1)
    high, middle = float(rows[-1] - rows[0] + 1), (rows[0] + rows[-1]) / 2
    for cell in blank:
        own, sides = np.flatnonzero(cell.any(axis=1)), np.flatnonzero(cell.any(axis=0))
        if own[-1] - own[0] + 1 > 0.62 * high:
            continue
        if (own[0] + own[-1]) / 2 < middle:
            teeth |= cell
        elif np.ptp(sides) + 1 < 0.75 * across:
            tongue |= cell
        elif len(blank) == 2 or own[-1] - own[0] + 1 < 0.4 * high:
            teeth |= cell
    return teeth, tongue


def _largest_pieces(mask: Bools) -> Bools:
    """The mask without specks and dimples beside the mouth."""
    labels, count = ndimage.label(mask, np.ones((3, 3)))
    if count <= 1:
        return mask
    sizes = ndimage.sum_labels(mask, labels, range(1, count + 1))
    filled = [ndimage.binary_fill_holes(labels == n + 1).sum() for n in range(count)]
    most = max(filled)
    kept = [n + 1 for n in range(count) if filled[n] >= 0.2 * most or sizes[n] >= 0.35 * sizes.max()]
    return np.asarray(np.isin(labels, kept))


def _is_paper(cell: Bools, mask: Bools, rgb: Array, light: Array) -> bool:
    """Whether a region is left blank, or white."""
    drawn = cell & mask
    if drawn.sum() < 0.3 * cell.sum():
        return True
    return float(light[drawn].mean()) > _BRIGHT and float(np.ptp(rgb[drawn].mean(axis=0))) < _PALE


def _thickest(cell: Bools) -> float:
    """How far the innermost pixel of a region is from its edge."""
    rows, columns = np.flatnonzero(cell.any(axis=1)), np.flatnonzero(cell.any(axis=0))
    own = np.pad(cell[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1], 1)
    return float(ndimage.distance_transform_edt(own).max())


def thicker(mask: Bools, thin: float) -> Bools:
    """Return what of a mask is thicker than a line: than twice so many pixels."""
    core: Bools = np.asarray(ndimage.distance_transform_edt(mask) > thin)
    if not core.any():
        return core
    near = ndimage.distance_transform_edt(~core) <= thin + 1
    return np.asarray(mask & near)


def _line(ink: Bools) -> float:
    """About how thick lines are, in pixels."""
    own = ndimage.distance_transform_edt(ink)[ink]
    return float(np.clip(2 * np.percentile(own, 90), 1.0, 9.0)) if own.size else 1.0


def _inside(opening: Bools, one: _Taken, lined: tuple[Bools, Bools]) -> Parts:
    mask, rgb, light = one.mask, one.rgb, one.light
    columns = np.flatnonzero(opening.any(axis=0))
    first, last = columns[0], columns[-1] + 1
    across = last - first
    middle = slice(first + int(_MIDDLE[0] * across), max(first + int(_MIDDLE[1] * across), first + 1) + 1)
    tall = [np.flatnonzero(column) for column in opening[:, first:last].T]
    high = float(np.percentile([rows[-1] - rows[0] + 1 for rows in tall if rows.size], 85))
    strip = opening[:, middle]
    saturated = rgb.max(axis=2) - rgb.min(axis=2)
    bright = (mask & (light > _BRIGHT) & (saturated < _PALE)) | lined[0]
    dark = (mask & (light < _DARK)) | ~mask & ~lined[0] & ~lined[1]
    warm = (mask & ~bright & ~dark & (rgb[:, :, 0] >= rgb[:, :, 2] - 0.02)) | lined[1]
    upper, lower, tongue, hollow, seams = [], [], [], [], 0
    for column in range(strip.shape[1]):
        rows = np.flatnonzero(strip[:, column])
        if rows.size < 3:
            continue
        own = slice(rows[0], rows[-1] + 1)
        at = middle.start + column
        teeth, hole, red = bright[own, at], dark[own, at], warm[own, at]
        size = len(teeth)
        top, bottom = _band(teeth), _band(teeth[::-1])
        if top >= size - 1:
            top, bottom = size, 0
        upper.append(top / size)
        lower.append(bottom / size)
        tongue.append(red.sum() / size)
        hollow.append(hole.sum() / size)
        seams += bool(top and bottom and top + bottom > 0.6 * size)
    count = max(1, len(upper))
    bands = (upper, lower, tongue, hollow)
    shares = [float(np.median(own)) if own else 0.0 for own in bands]
    seamed = seams > 0.5 * count
    return Parts(one.width, one.height, high, float(across), shares[0], shares[1], shares[2], shares[3], seamed)


def _band(bright: Bools) -> int:
    """How many pixels of teeth lie at the beginning, behind at most a line."""
    begin = next((n for n, one in enumerate(bright) if one), len(bright))
    if begin > max(3, 0.18 * len(bright)):
        return 0
    end = begin
    while end < len(bright) and bright[end]:
        end += 1
    return end if end - begin >= 2 else 0
