"""Both versions of a sound, one over the other, with what is the same drawn from one to the other: as SVG."""

from collections.abc import Sequence

import numpy as np

from ..sound.peaks import Level
from .following import ANEW, GONE, NEW, SAME, SPEED, Stretch

WIDE, TALL = 1160.0, 230.0
_WAVE, _OLD, _NEW = 32.0, 36.0, 194.0
_ABOVE, _BELOW = 72.0, 158.0


def drawn(old: Level, new: Level, seconds: tuple[float, float], stretches: Sequence[Stretch]) -> str:
    """Return the inside of an SVG, WIDE x TALL; its parts have a class for what a stretch is. seconds: how long both
    are."""
    scale = WIDE / max(*seconds, 0.1)
    parts = [_band(one, scale) for one in stretches]
    parts += [_wave(old, _OLD, seconds[0] * scale), _wave(new, _NEW, seconds[1] * scale)]
    return "".join(parts)


def _band(one: Stretch, scale: float) -> str:
    a, b, c, d = (round(edge * scale, 1) for edge in (one.first, one.end, one.to, one.to_end))
    top, low = _OLD - _WAVE, _NEW + _WAVE
    if one.kind == GONE:
        return f'<rect class="map-{GONE}" x="{a}" y="{top}" width="{max(1.0, b - a):.1f}" height="{_ABOVE - top}"/>'
    if one.kind == NEW:
        return f'<rect class="map-{NEW}" x="{c}" y="{_BELOW}" width="{max(1.0, d - c):.1f}" height="{low - _BELOW}"/>'
    kind = one.kind if one.kind in (SAME, SPEED, ANEW) else SAME
    points = f"{a},{top} {b},{top} {b},{_ABOVE} {d},{_BELOW} {d},{low} {c},{low} {c},{_BELOW} {a},{_ABOVE}"
    return f'<polygon class="map-{kind}" points="{points}"/>'


def _wave(level: Level, middle: float, wide: float) -> str:
    """A waveform as one path around its peaks."""
    values = level.values.astype(np.float64)
    count = min(len(values), int(max(2.0, wide)))
    edges = np.linspace(0, len(values), count + 1).astype(int)
    low = np.minimum.reduceat(values[:, 0], edges[:-1])
    high = np.maximum.reduceat(values[:, 1], edges[:-1])
    most = max(1.0, float(np.abs(values).max(initial=1.0)))
    x = np.linspace(0, wide, count)
    up = [f"{a:.1f},{middle - b / most * _WAVE:.1f}" for a, b in zip(x, high, strict=True)]
    down = [f"{a:.1f},{middle - b / most * _WAVE:.1f}" for a, b in zip(x[::-1], low[::-1], strict=True)]
    return f'<path class="map-wave" d="M{" L".join([*up, *down])}Z"/>'
