"""The features of a voice moved to where the model has them, by what was already read of it.

Constrained maximum likelihood linear regression (Gales 1998): one affine map for each stream of the features, under
which what is heard is most likely where it was read. A prior holds it near no change, the more the less was read
(as Goronzy & Kompe 1999 do), so that a short line cannot bend it far.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .align import Span
from .features import Array
from .model import STATES, AcousticModel

_PRIOR_FRAMES = 150.0
_ROUNDS = 4
_LEAST_FRAMES = 60

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def adapted(features: Array, scores: Array, spans: Sequence[Span], acoustic: AcousticModel) -> Array:
    """Features, (frames, 3, 13), as acoustic.fitted gives them, moved to where the model has what was read; the same
    where too little was. scores: (frames, model states); spans: what was read, each with a phone of the model."""
    frames, states = _read(scores, [span for span in spans if span.phone < len(acoustic.phones)])
    if len(frames) < _LEAST_FRAMES:
        return features
    out = np.empty_like(features)
    for stream in range(features.shape[1]):
        means, variances = acoustic.centres[states, stream], acoustic.widths[states, stream]
        move = _regression(features[frames, stream].astype(float), means, variances)
        out[:, stream] = features[:, stream] @ move[:, :-1].T + move[:, -1]
    return out


def _read(scores: Array, spans: Sequence[Span]) -> tuple[Ints, Ints]:
    """The frames that were read, and the model state of each."""
    frames, states = [np.empty(0, np.int64)], [np.empty(0, np.int64)]
    for span in spans:
        first, end = int(span.start), int(span.end)
        if end - first >= STATES:
            frames.append(np.arange(first, end))
            own = scores[first:end, span.phone * STATES : (span.phone + 1) * STATES]
            states.append(span.phone * STATES + _parted(own))
    return np.concatenate(frames), np.concatenate(states)


def _parted(scores: Array) -> Ints:
    """(frames,) which of its three states a phone is in, each for a frame at least, where that is likeliest."""
    total = len(scores)
    sums = np.concatenate([np.zeros((1, STATES)), np.cumsum(scores, axis=0)])
    # To leave the first state at i gains sums[i, 0] - sums[i, 1]; the best i before each j is known in one pass.
    leaving = sums[1 : total - 1, 0] - sums[1 : total - 1, 1]
    best = np.maximum.accumulate(leaving)
    at = np.maximum.accumulate(np.where(leaving >= best, np.arange(1, total - 1), 0))
    second = sums[2:total, 1] - sums[2:total, 2]
    end = int((best + second).argmax())
    found = np.full(total, 2)
    found[: end + 2] = 1
    found[: at[end]] = 0
    return found


def _regression(seen: Floats, means: Floats, variances: Floats) -> Floats:
    """(dimensions, dimensions + 1) the affine map under which what was seen, (frames, dimensions), is likeliest."""
    count, size = seen.shape
    known = np.concatenate([seen, np.ones((count, 1))], axis=1)
    near = np.diag(np.append(seen.var(axis=0) + 1e-3, 1.0))
    inverses, sums = [], []
    for row in range(size):
        weight = 1 / variances[:, row]
        prior = _PRIOR_FRAMES * weight.mean() * near
        inverses.append(np.linalg.inv((known * weight[:, None]).T @ known + prior))
        sums.append((weight * means[:, row]) @ known + prior[row])
    move = np.eye(size, size + 1)
    beta = count + _PRIOR_FRAMES
    for _ in range(_ROUNDS):
        for row in range(size):
            # The row of cofactors, but for a factor that the root takes up.
            turn = np.append(np.linalg.inv(move[:, :-1])[:, row], 0.0)
            inverse, total = inverses[row], sums[row]
            square, across = turn @ inverse @ turn, turn @ inverse @ total
            root = np.sqrt(across**2 + 4 * square * beta)
            ways = ((root - across) / (2 * square), (-root - across) / (2 * square))
            gain = max(ways, key=lambda way: beta * np.log(abs(way * square + across) + 1e-12) - way**2 * square / 2)
            move[row] = (gain * turn + total) @ inverse
    return move
