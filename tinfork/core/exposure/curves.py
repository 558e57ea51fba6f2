"""Articulation: what each articulator does over time, sampled once a frame.

Dominance blending (Cohen & Massaro 1993): z(t) = sum D_i(t) T_i / sum D_i(t), where a sound's dominance D_i falls
off exponentially either side of its span, so that rounding spreads into its neighbours as it does in life.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ..mouths.shapes import CLOSURES, SHAPES, shapes_of
from ..speech.reading import Sound
from ..timebase import frame_count

_REACH_SECONDS = 0.30
_ONSET, _OFFSET = 45.0, 38.0
_REST_STRENGTH = 0.5
_QUICK = {"press": 1.9, "tuck": 1.7, "tip": 1.3, "teeth": 1.2, "lift": 1.2, "push": 1.1, "purse": 0.8, "round": 0.85}
_REST_RATE = 25.0

Array = NDArray[np.float64]
Stretches = Sequence[tuple[float, float]]


@dataclass(frozen=True)
class Target:
    """One aim of the mouth: the sound it serves (its number in the reading), when, at what place."""

    sound: int
    shape: str
    start: float
    end: float
    place: Array
    visible: float


@dataclass(frozen=True)
class Curves:
    """values: (frames, articulators) 0..1; visible: (frames,) weight of being right; silent: (frames,) bool."""

    rate: Fraction
    values: Array
    visible: Array
    silent: NDArray[np.bool_]
    targets: tuple[Target, ...]


def targets_of(sounds: Iterable[Sound], allowed: Stretches | None = None) -> tuple[Target, ...]:
    """The aims of a run of sounds in order; a diphthong has two. Stress and loudness open the jaw further. A sound that
    lasts no time has none: its word was not said.

    allowed: the only stretches (start, end) in seconds where the mouth may move; sounds outside have no aim.
    """
    found = []
    for number, sound in enumerate(sounds):
        if sound.end <= sound.start:
            continue
        if allowed is not None and not any(start <= (sound.start + sound.end) / 2 < end for start, end in allowed):
            continue
        shapes = shapes_of(sound.ipa)
        edges = np.linspace(sound.start, sound.end, len(shapes) + 1)
        for shape, start, end in zip(shapes, edges[:-1], edges[1:], strict=True):
            place = np.array(SHAPES[shape].place)
            if shape not in CLOSURES:
                place[0] *= _jaw_scale(sound)
            found.append(Target(number, shape, float(start), float(end), place, SHAPES[shape].visible))
    return tuple(found)


def _jaw_scale(sound: Sound) -> float:
    stressed = {0: 0.85, 1: 1.0, 2: 0.95}[sound.stress]
    return stressed * (0.6 + 0.4 * min(1.0, sound.level * 1.1))


def curves(sounds: Iterable[Sound], seconds: float, rate: Fraction, allowed: Stretches | None = None) -> Curves:
    """Sample the mouth at the middle of each frame of a sound of this length. allowed: as targets_of has it."""
    frames = frame_count(seconds, rate)
    times: Array = (np.arange(frames, dtype=np.float64) + 0.5) / float(rate)
    targets = targets_of(sounds, allowed)
    size = len(SHAPES["rest"].place)
    weight, total, seen = np.zeros(frames), np.zeros((frames, size)), np.zeros(frames)
    silent = np.ones(frames, bool)
    for target in targets:
        first = max(0, int((target.start - _REACH_SECONDS) * rate))
        last = min(frames, int((target.end + _REACH_SECONDS) * rate) + 1)
        t = times[first:last]
        away = np.where(t < target.start, (target.start - t) * _ONSET, np.maximum(0, t - target.end) * _OFFSET)
        dominance = (0.3 + target.visible) * np.exp(-away * _QUICK.get(target.shape, 1.0))
        weight[first:last] += dominance
        total[first:last] += dominance[:, None] * target.place
        _raise(seen, times, target, rate)
        silent[max(0, int(target.start * rate)) : int(np.ceil(target.end * rate))] = False
    rest = np.array(SHAPES["rest"].place)
    idle = _rest_dominance(targets, times)
    values = (total + idle[:, None] * rest) / (weight + idle)[:, None]
    seen = np.where(silent, SHAPES["rest"].visible, seen)
    return Curves(rate, values, np.maximum(seen, 0.05), silent, targets)


def _raise(seen: Array, times: Array, target: Target, rate: Fraction) -> None:
    first, last = max(0, int(target.start * rate)), int(np.ceil(target.end * rate))
    seen[first:last] = np.maximum(seen[first:last], target.visible)


def _rest_dominance(targets: tuple[Target, ...], times: Array) -> Array:
    """How strongly the mouth is drawn to rest: grows with the distance from the nearest sound."""
    if not targets:
        return np.ones(len(times))
    starts, ends = np.array([t.start for t in targets]), np.array([t.end for t in targets])
    after = np.searchsorted(starts, times)
    until = np.where(after < len(starts), starts[np.minimum(after, len(starts) - 1)] - times, np.inf)
    since = np.where(after > 0, times - ends[np.maximum(after - 1, 0)], np.inf)
    nearest = np.maximum(0.0, np.minimum(since, until))
    return _REST_STRENGTH * (1 - np.exp(-nearest * _REST_RATE)) + 1e-6
