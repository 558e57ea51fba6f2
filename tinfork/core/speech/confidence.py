"""How sure a reading is of each sound: goodness of pronunciation (Witt & Young 2000) through a logistic curve.

The goodness is the mean, over a phone's frames, of its log likelihood less that of the best phone in each frame.
The curve was fitted on synthesised speech of known timing, clean, in noise and with the wrong words, so that the
value stands for the chance that the sound's start lies within a frame at 24 fps.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .align import Span
from .features import Array
from .model import STATES

OFFSET, OWN, AROUND = 5.2, 0.11, 1.39
"""The curve's weights: constant, the sound's own goodness, the mean goodness of the stretch around it."""

_STRETCH = 15


def goodness(scores: Array, spans: Sequence[Span]) -> list[float]:
    """Mean log likelihood ratio of each span's phone to the best phone, 0 or less. scores: (frames, states)."""
    by_phone = scores.reshape(len(scores), -1, STATES).max(axis=2)
    lost = by_phone - by_phone.max(axis=1, keepdims=True)
    return [float(lost[int(s.start) : int(s.end), s.phone].mean()) for s in spans]


def evidence(scores: Array, spans: Sequence[Span]) -> NDArray[np.float64]:
    """Each span's own goodness and the mean of the stretch of spans around it; (spans, 2)."""
    own = np.array(goodness(scores, spans))
    size = min(_STRETCH, len(own))
    around = np.convolve(own, np.ones(size), "same") / np.convolve(np.ones(len(own)), np.ones(size), "same")
    return np.stack([own, around], axis=1)


def path_confidence(scores: Array, spans: Sequence[Span]) -> list[float]:
    """Confidence 0..1 for each span of an alignment."""
    own, around = evidence(scores, spans).T
    return [float(v) for v in 1.0 / (1.0 + np.exp(-(OFFSET + OWN * own + AROUND * around)))]
