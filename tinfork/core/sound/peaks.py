"""The peak pyramid: least and greatest sample of every stretch, coarser at each level, for drawing a waveform."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FINEST = 64
FACTOR = 4


@dataclass(frozen=True)
class Level:
    """values: (stretches, 2) int8, least and greatest in -127..127; samples: samples in a stretch."""

    samples: int
    values: NDArray[np.int8]


def pyramid(samples: NDArray[np.float32], finest: int = FINEST) -> list[Level]:
    """Levels from fine to coarse, each FACTOR times coarser than the last, until one has under 2000 stretches."""
    padded = np.pad(samples, (0, -len(samples) % finest)).reshape(-1, finest)
    low, high = padded.min(axis=1, initial=0), padded.max(axis=1, initial=0)
    levels = []
    size = finest
    while True:
        pair = np.clip(np.round(np.stack([low, high], axis=1) * 127), -127, 127)
        levels.append(Level(size, pair.astype(np.int8)))
        if len(low) < 2000:
            return levels
        extra = -len(low) % FACTOR
        low = np.pad(low, (0, extra)).reshape(-1, FACTOR).min(axis=1)
        high = np.pad(high, (0, extra)).reshape(-1, FACTOR).max(axis=1)
        size *= FACTOR


def pack(levels: list[Level]) -> bytes:
    """Levels as bytes: uint32 count; for each level uint32 samples, uint32 stretches; then all values, fine first."""
    header = np.array([len(levels), *(n for level in levels for n in (level.samples, len(level.values)))], "<u4")
    return header.tobytes() + b"".join(level.values.tobytes() for level in levels)
