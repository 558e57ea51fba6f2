"""Shots as they are and as a cut has them, one strip over the other, as SVG."""

import itertools
from collections.abc import Sequence
from html import escape

from .recut import Recut

WIDE, TALL = 1160, 150
_ROW, _OLD, _NEW = 42, 6, 102


def strip_of(rows: Sequence[Recut]) -> str:
    """Return the inside of an SVG, WIDE x TALL: the shots now above, as the cut has them below, with what becomes
    what between them."""
    now = sorted((row for row in rows if row.was >= 0), key=lambda row: row.was)
    then = [row for row in rows if row.frames]
    scale = WIDE / max(1, sum(row.before for row in now), sum(row.frames for row in then))
    above = dict(zip(map(id, now), _spans([row.before for row in now], scale), strict=True))
    below = dict(zip(map(id, then), _spans([row.frames for row in then], scale), strict=True))
    parts = []
    for row in now:
        if id(row) in below:
            (a, b), (c, d) = above[id(row)], below[id(row)]
            points = f"{a:.1f},{_OLD + _ROW} {b:.1f},{_OLD + _ROW} {d:.1f},{_NEW} {c:.1f},{_NEW}"
            parts.append(f'<polygon class="map-same" points="{points}"/>')
    parts += [_box(row, above[id(row)], _OLD, "gone" if not row.frames else "same") for row in now]
    parts += [_box(row, below[id(row)], _NEW, "same" if row.was >= 0 else "new") for row in then]
    return "".join(parts)


def _spans(lengths: Sequence[int], scale: float) -> list[tuple[float, float]]:
    edges = [0.0, *itertools.accumulate(length * scale for length in lengths)]
    return list(itertools.pairwise(edges))


def _box(row: Recut, span: tuple[float, float], top: int, kind: str) -> str:
    first, end = span
    wide = max(1.0, end - first)
    letters = int(wide // 7.5)
    name = escape(row.name[:letters]) if letters > 2 else ""
    return (
        f'<rect class="map-{kind} strip-box" x="{first:.1f}" y="{top}" width="{wide:.1f}" height="{_ROW}">'
        f"<title>{escape(row.name)}</title></rect>"
        f'<text class="strip-name" x="{first + 4:.1f}" y="{top + 25}">{name}</text>'
    )
