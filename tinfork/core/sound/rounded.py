"""Peaks that a recorder has rounded off: louder than it can hold, none of them cut off.

What saturates so bends as the hyperbolic tangent does, or nearly (a tape, a tube, a soft limiter); it is bent back.
Such a sound is told by how much of its loud part lies close under its peak.
"""

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float32]

_PIECE, _LOUD = 320, 0.6
_NEAR = 0.9
_SHARE = 0.06
"""Of 84 made lines a sound that saturates has 0.1 and more so near its peak, any other, shouts that were cut off and
drawn again too, 0.034 at most."""

_ROOM = 1.005


def straightened(samples: Samples) -> Samples:
    """Return a sound with its peaks as high as they were, its highest as high as before; the same where none is rounded
    off."""
    if not rounded(samples):
        return samples
    peak = np.abs(samples).max()
    bent = np.arctanh(samples / (_ROOM * peak))
    return np.asarray(bent * (peak / np.abs(bent).max()), np.float32)


def rounded(samples: Samples) -> bool:
    """Return whether the peaks of a sound are rounded off."""
    return share_near_peak(samples) > _SHARE


def share_near_peak(samples: Samples) -> float:
    """Return how much of the loud part of a sound lies close under its peak, 0 to 1."""
    pieces = np.abs(samples[: len(samples) // _PIECE * _PIECE].reshape(-1, _PIECE))
    level = np.sqrt((pieces**2).mean(axis=1))
    if not level.max(initial=0.0) > 0:
        return 0.0
    return float((pieces[level >= _LOUD * level.max()] > _NEAR * pieces.max()).mean())
