"""Sounds that are held: to a model that takes each moment for news, three seconds of one vowel say the same thing three
hundred times, and a little doubt about it would outweigh all the words beside.

So what stays as it is counts in full for its first moments only (as in variable frame rate analysis, Zhu & Alwan 2000),
and does not count where it is asked what the voice is like on the whole.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import binary_opening, uniform_filter1d

from ..sound.features import Singles, first_differences

_SMOOTH_FRAMES = 9
_STEADY = 0.75
_LEAST_FRAMES, _IN_FULL_FRAMES = 30, 10
_COUNTS = 0.15


def held(static: Singles, spread: Singles) -> NDArray[np.bool_]:
    """Return (frames,) where a sound stays as it is for long, but for its first and last moments. static: (frames,
    13) its cepstra; spread: the model's."""
    change = np.sqrt(((first_differences(static) / spread[1]) ** 2).mean(axis=1))
    still = binary_opening(uniform_filter1d(change, _SMOOTH_FRAMES) < _STEADY, np.ones(_LEAST_FRAMES))
    edges = np.flatnonzero(np.diff(still.astype(np.int8), prepend=0, append=0))
    for first, end in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        still[first : min(end, first + _IN_FULL_FRAMES)] = False
        still[max(first, end - _IN_FULL_FRAMES) : end] = False
    return np.asarray(still)


def counted_once(scores: Singles, there: NDArray[np.bool_]) -> Singles:
    """Return scores, (frames, states), in which the states differ less where a sound is held."""
    own = scores[there]
    best = own.max(axis=1, keepdims=True)
    scores[there] = best + _COUNTS * (own - best)
    return scores
