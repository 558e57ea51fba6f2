"""How sure a reading is of each sound: goodness of pronunciation (Witt & Young 2000) through a logistic curve.

The goodness is the mean, over a phone's frames, of its log likelihood less that of the best phone in each frame.
The curve was fitted on synthesised speech of known timing, clean, in noise and with the wrong words, so that the
value stands for the chance that the sound's start lies within a frame at 24 fps.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..sound.features import Singles
from .align import Span
from .model import by_phone

WEIGHTS = np.array([4.22, 0.07, 0.87, 0.06, 0.38])
"""The curve's weights, fitted by bench/calibrating.py: constant; the sound's own goodness; the mean goodness of the
stretch around it; of the two beside it the worse; the logarithm of how many 10 ms it lasts."""

_STRETCH = 15


def goodness(scores: Singles, spans: Sequence[Span]) -> list[float]:
    """Return mean log likelihood ratio of each span's phone to the best phone, 0 or less. scores: (frames, states).

    A stretch of speech that is not written fits itself: 0.
    """
    heard = by_phone(scores)
    lost = heard - heard.max(axis=1, keepdims=True)
    known = lost.shape[1]
    return [float(lost[int(s.start) : int(s.end), s.phone].mean()) if s.phone < known else 0.0 for s in spans]


def evidence(scores: Singles, spans: Sequence[Span]) -> NDArray[np.float64]:
    """Return what the curve sees of each span: (spans, weights)."""
    own = np.array(goodness(scores, spans))
    size = min(_STRETCH, len(own))
    around = np.convolve(own, np.ones(size), "same") / np.convolve(np.ones(len(own)), np.ones(size), "same")
    beside = np.minimum(np.concatenate([own[:1], own[:-1]]), np.concatenate([own[1:], own[-1:]]))
    lasts = np.log([max(1.0, span.end - span.start) for span in spans])
    return np.stack([np.ones(len(own)), own, around, np.maximum(beside, -10), lasts], axis=1)


def path_confidence(scores: Singles, spans: Sequence[Span]) -> list[float]:
    """Return confidence 0..1 for each span of an alignment."""
    return [float(v) for v in 1.0 / (1.0 + np.exp(-(evidence(scores, spans) @ WEIGHTS)))]
