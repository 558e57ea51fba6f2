"""The features of a voice moved to where the model has them, by what was already read of it.

Constrained maximum likelihood linear regression (Gales 1998): one affine map for each stream of the features, under
which what is heard is most likely where it was read. A prior holds it near no change, the more the less was read
(as Goronzy & Kompe 1999 do), so that a short line cannot bend it far.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..sound.features import Singles
from .align import Span
from .model import STATES, AcousticModel

_PRIOR_FRAMES = 150.0
_ROUNDS = 4
_LEAST_FRAMES = 60

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def adapted(features: Singles, scores: Singles, spans: Sequence[Span], acoustic: AcousticModel) -> Singles:
    """Return features, (frames, 3, 13), as acoustic.fitted gives them, moved to where the model has what was read; the
    same where too little was. scores: (frames, model states); spans: what was read, each with a phone of the model."""
    frames, states = _read(scores, [span for span in spans if span.phone < len(acoustic.phones)])
    if len(frames) < _LEAST_FRAMES:
        return features
    seen = features[frames].astype(float).transpose(1, 0, 2)
    means, variances = (known[states].astype(float).transpose(1, 0, 2) for known in (acoustic.centres, acoustic.widths))
    move = _regression(seen, means, variances)
    return np.asarray(np.einsum("tsd,srd->tsr", features, move[:, :, :-1]) + move[:, :, -1], np.float32)


def _read(scores: Singles, spans: Sequence[Span]) -> tuple[Ints, Ints]:
    """The frames that were read, and the model state of each."""
    frames, states = [np.empty(0, np.int64)], [np.empty(0, np.int64)]
    for span in spans:
        first, end = int(span.start), int(span.end)
        if end - first >= STATES:
            frames.append(np.arange(first, end))
            own = scores[first:end, span.phone * STATES : (span.phone + 1) * STATES]
            states.append(span.phone * STATES + _parted(own))
    return np.concatenate(frames), np.concatenate(states)


def _parted(scores: Singles) -> Ints:
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
    """(streams, dimensions, dimensions + 1) for each stream the affine map under which what was seen, (streams, frames,
    dimensions), is likeliest; means and variances: of the states it was seen in, in the same shape."""
    streams, count, size = seen.shape
    known = np.concatenate([seen, np.ones((streams, count, 1))], axis=2)
    near = np.concatenate([seen.var(axis=1) + 1e-3, np.ones((streams, 1))], axis=1)[:, :, None] * np.eye(size + 1)
    weights = (1 / variances).transpose(2, 0, 1)
    priors = _PRIOR_FRAMES * weights.mean(axis=2)[..., None, None] * near
    squares = np.array([(known * weight[..., None]).transpose(0, 2, 1) @ known for weight in weights])
    inverses = np.linalg.inv(squares + priors)
    sums = ((weights * means.transpose(2, 0, 1))[:, :, None] @ known)[:, :, 0]
    move = np.tile(np.eye(size, size + 1), (streams, 1, 1))
    beta = count + _PRIOR_FRAMES
    for row in [*range(size)] * _ROUNDS:
        inverse, total = inverses[row], sums[row] + priors[row, :, row]
        # The row of cofactors, but for a factor that the root takes up.
        turn = np.zeros((streams, 1, size + 1))
        turn[:, 0, :-1] = np.linalg.inv(move[:, :, :-1])[:, :, row]
        turned = turn @ inverse
        square, across = (turned * turn).sum(axis=2), (turned[:, 0] * total).sum(axis=1)[:, None]
        root = np.sqrt(across**2 + 4 * square * beta)
        ways = np.stack([root - across, -root - across]) / (2 * square)
        gains = beta * np.log(np.abs(ways * square + across) + 1e-12) - ways**2 * square / 2
        way = np.where(gains[0] >= gains[1], ways[0], ways[1])
        move[:, row] = way * turned[:, 0] + (total[:, None] @ inverse)[:, 0]
    return move
