"""A pass: one dial or switch recorded live, and what few keys follow it."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..errors import ActingError
from ..exposure.easing import smooth
from ..limits import MAX_PASS_FRAMES
from .lanes import SMOOTH, STRAIGHT

Array = NDArray[np.float64]
Sample = tuple[float, float]

Fitted = list[tuple[int, float, str]]
"""Keys: frame, value, ease."""


def on_frames(samples: Sequence[Sample], frames: range, late: float) -> Array:
    """Return (len(frames),) where a hand had a dial on each frame. samples: frame of the sound as it was heard, not
    a whole number, and value, in order; late: by how many frames the hand comes after the sound. ActingError for
    what is no pass."""
    if not frames or len(frames) > MAX_PASS_FRAMES:
        raise ActingError(f"A pass is up to {MAX_PASS_FRAMES:,} frames long; set in and out around less.")
    own = [(at, value) for at, value in samples if np.isfinite(at) and np.isfinite(value)]
    if len(own) < 2:
        raise ActingError("Nothing was recorded; play, and move the dial while it plays.")
    own.sort(key=lambda one: one[0])
    at = np.array([one[0] for one in own]) - late
    values = np.array([one[1] for one in own])
    return np.asarray(np.interp(np.arange(frames.start, frames.stop), at, values))


def smoothed(values: Array, frames: int) -> Array:
    """Return values with the hand's tremble taken out: a mean over so many frames to either side, the ends held."""
    if frames < 1:
        return values
    window = np.hanning(2 * frames + 3)[1:-1]
    padded = np.pad(values, frames, mode="edge")
    return np.asarray(np.convolve(padded, window / window.sum(), mode="valid"))


def fitted(values: Array, first: int, allowed: float) -> tuple[Fitted, float]:
    """Return few keys that follow values, one for each frame from first on, and by how much they miss them at the most:
    no more than allowed, but for rounding."""
    begins = [0, *_turns(values, allowed), len(values) - 1]
    ends = {at: values[at] for at in begins}
    eases: dict[int, str] = {}
    todo = list(pairwise(begins))
    while todo:
        begin, end = todo.pop()
        ease, missed = _best(values[begin : end + 1])
        eases[begin] = ease
        if end - begin > 1 and missed.max() > allowed:
            cut = begin + 1 + int(np.argmax(missed[1:-1]))
            ends[cut] = values[cut]
            todo += [(begin, cut), (cut, end)]
    keys = [(n, round(float(ends[n]), 3), eases.get(n, SMOOTH)) for n in sorted(ends)]
    found = [(first + n, value, ease) for n, value, ease in keys]
    return found, _missed(values, keys)


def _best(own: Array) -> tuple[str, Array]:
    """How a dial best goes from the first of some values to the last, and by how much it misses each."""
    if len(own) < 2:
        return SMOOTH, np.zeros(len(own))
    share = np.linspace(0.0, 1.0, len(own))
    ways = {SMOOTH: smooth(share), STRAIGHT: share}
    missed = {ease: np.abs(own[0] + way * (own[-1] - own[0]) - own) for ease, way in ways.items()}
    ease = min(missed, key=lambda one: float(missed[one].max()))
    return ease, missed[ease]


def _turns(values: Array, allowed: float) -> list[int]:
    """Where values turn round and go back by more than is allowed, but for the first and the last of them."""
    found, way, extreme = list[int](), 0, 0
    for at in range(1, len(values)):
        by = values[at] - values[extreme]
        if way == 0:
            way = int(np.sign(by)) if abs(by) > allowed else 0
            extreme = at if way else extreme
        elif by * way >= 0:
            extreme = at
        elif abs(by) > allowed:
            found.append(extreme)
            way, extreme = -way, at
    return [at for at in found if 0 < at < len(values) - 1]


def _missed(values: Array, keys: Fitted) -> float:
    worst = 0.0
    for (begin, one, ease), (end, other, _) in pairwise(keys):
        share = np.linspace(0.0, 1.0, end - begin + 1)
        way = smooth(share) if ease == SMOOTH else share
        worst = max(worst, float(np.abs(one + way * (other - one) - values[begin : end + 1]).max()))
    return worst
