"""The peak pyramid: least and greatest sample of every stretch, coarser at each level, for drawing a waveform."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FINEST = 64
FACTOR = 4

Samples = NDArray[np.float32]


@dataclass(frozen=True)
class Level:
    """A wave at one scale. values: (stretches, 2) int8, least and greatest in -127..127; samples: samples in a
    stretch."""

    samples: int
    values: NDArray[np.int8]


class Builder:
    """Peaks of a sound that comes in blocks; memory grows with the finest level only, two bytes for 64 samples."""

    def __init__(self) -> None:
        self._stretches: list[NDArray[np.int8]] = []
        self._rest = np.zeros(0, np.float32)

    def add(self, samples: Samples) -> None:
        """The next block of the 16 kHz signal."""
        joined = np.concatenate([self._rest, samples])
        whole = len(joined) // FINEST * FINEST
        self._rest = joined[whole:]
        self._stretches.append(_stretches(joined[:whole]))

    def levels(self) -> list[Level]:
        """Return levels from fine to coarse, each FACTOR times coarser than the last, until one has under 2000
        stretches."""
        rest = np.pad(self._rest, (0, -len(self._rest) % FINEST))
        values = np.concatenate([*self._stretches, _stretches(rest)])
        levels = [Level(FINEST, values)]
        while len(values) >= 2000:
            padded = np.pad(values, ((0, -len(values) % FACTOR), (0, 0))).reshape(-1, FACTOR, 2)
            values = np.stack([padded[:, :, 0].min(axis=1), padded[:, :, 1].max(axis=1)], axis=1)
            levels.append(Level(levels[-1].samples * FACTOR, values))
        return levels


def _stretches(samples: Samples) -> NDArray[np.int8]:
    rows = samples.reshape(-1, FINEST)
    pair = np.stack([rows.min(axis=1, initial=0), rows.max(axis=1, initial=0)], axis=1)
    return np.clip(np.round(pair * 127), -127, 127).astype(np.int8)


def pyramid(samples: Samples) -> list[Level]:
    """Return the levels of a sound that is there as a whole."""
    builder = Builder()
    builder.add(samples)
    return builder.levels()


def pack(levels: list[Level]) -> bytes:
    """Return levels as bytes: uint32 count; for each level uint32 samples, uint32 stretches; then all values, fine
    first."""
    header = np.array([len(levels), *(n for level in levels for n in (level.samples, len(level.values)))], "<u4")
    return header.tobytes() + b"".join(level.values.tobytes() for level in levels)


def coarse(packed: bytes, least: int) -> Level:
    """Return the coarsest of packed levels that has so many stretches, the finest where none has."""
    count = int(np.frombuffer(packed, "<u4", 1)[0])
    heads = np.frombuffer(packed, "<u4", 2 * count, 4).reshape(-1, 2)
    at, found = 4 + 8 * count, None
    for samples, stretches in heads.tolist():
        if found is None or stretches >= least:
            found = Level(samples, np.frombuffer(packed, np.int8, 2 * stretches, at).reshape(-1, 2))
        at += 2 * stretches
    if found is None:
        raise ValueError("There is no level.")
    return found
