"""Work on a long sound block by block, so that what it takes in memory does not grow with it."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float32]


def by_block(samples: Samples, work: Callable[[Samples], Samples], block: int, overlap: int) -> Samples:
    """Return what some work makes of a sound; block and overlap: in samples, each block is seen with so much of what
    lies beside it."""
    out = np.empty_like(samples)
    for start in range(0, len(samples), block):
        first, end = max(0, start - overlap), min(len(samples), start + block + overlap)
        out[start : start + block] = work(samples[first:end])[start - first : start - first + block]
    return out
