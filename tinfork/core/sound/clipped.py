"""Peaks that were too loud for what recorded them, drawn again.

Between the last sample before a peak that was cut off and the first after it a cubic goes on as the sound does there
(Hermite interpolation); where that stays below the cut, the cut stays.
"""

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float32]

_TOP_SHARE = 0.985
_LEAST_RUN, _LEAST_CUT = 3, 0.001
_MOST_SECONDS = 0.02


def clipped(samples: Samples) -> NDArray[np.bool_]:
    """Return (samples,) which of them are cut off; none where few are, as at the peaks of any sound."""
    magnitude = np.abs(samples)
    at_top = magnitude >= _TOP_SHARE * magnitude.max(initial=0.0)
    first, end = _runs(at_top)
    long = end - first >= _LEAST_RUN
    found = np.zeros(len(samples), bool)
    if magnitude.max(initial=0.0) > 0 and (end - first)[long].sum() >= _LEAST_CUT * len(samples):
        for a, b in zip(first[long].tolist(), end[long].tolist(), strict=True):
            found[a:b] = True
    return found


def restored(samples: Samples, rate: int) -> Samples:
    """Return the sound with its peaks drawn again; the same where nothing is cut off. rate: in Hz."""
    cut = clipped(samples)
    first, end = _runs(cut)
    known = (first >= 2) & (end + 2 <= len(samples)) & (end - first <= _MOST_SECONDS * rate)
    first, end = first[known], end[known]
    if not len(first):
        return samples
    out = samples.copy()
    sign = np.sign(samples[first])
    before, after = samples[first - 1], samples[end]
    rises, falls = before - samples[first - 2], samples[end + 1] - after
    steps = (end - first + 1).astype(np.float32)
    for k in range(int((end - first).max())):
        own = first + k < end
        t, long = np.float32(k + 1) / steps[own], steps[own]
        drawn = (
            (2 * t**3 - 3 * t**2 + 1) * before[own]
            + (t**3 - 2 * t**2 + t) * long * rises[own]
            + (3 * t**2 - 2 * t**3) * after[own]
            + (t**3 - t**2) * long * falls[own]
        )
        at = first[own] + k
        out[at] = sign[own] * np.maximum(sign[own] * drawn, np.abs(samples[at]))
    return out


def _runs(there: NDArray[np.bool_]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Where runs begin, and where they end."""
    edges = np.flatnonzero(np.diff(there.astype(np.int8), prepend=0, append=0))
    return edges[::2], edges[1::2]
