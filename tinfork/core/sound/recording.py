"""A recording as the engine hears it: 16 kHz mono."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import soxr
from numpy.typing import NDArray

from ..errors import SoundError
from ..limits import MIN_SOUND_SECONDS
from .clipped import restored
from .decode import open_sound

READ_RATE = 16_000
_FULL_SCALE_DB = 35.0

Samples = NDArray[np.float32]


@dataclass(frozen=True)
class Recording:
    """A sound as it was decoded for reading. samples: 16 kHz mono in -1..1; seconds: length; rate: the file's own
    sample rate; notes: sentences."""

    samples: Samples
    seconds: float
    rate: int
    notes: tuple[str, ...] = ()
    _loud: float = field(init=False, default=0.0)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_loud", _loud_rms(self.samples))

    @property
    def peak(self) -> float:
        """The largest magnitude, 0..1 and over where the file clips."""
        return float(np.abs(self.samples).max(initial=0.0))

    def level(self, start: float, end: float) -> float:
        """Return how loud a stretch is, 0 to 1: 1 at the loud end of this recording, 0 at 35 dB below it."""
        piece = self.samples[int(start * READ_RATE) : max(int(end * READ_RATE), int(start * READ_RATE) + 1)]
        rms = float(np.sqrt(np.mean(piece**2))) if len(piece) else 0.0
        if rms <= 0 or self._loud <= 0:
            return 0.0
        below = 20 * np.log10(self._loud / rms)
        return round(float(np.clip(1 - below / _FULL_SCALE_DB, 0, 1)), 3)

    def window(self, start: float, end: float) -> "Recording":
        """Return the stretch between two times, its level still measured against the whole."""
        first, last = int(start * READ_RATE), int(end * READ_RATE)
        piece = Recording(self.samples[first:last], (last - first) / READ_RATE, self.rate)
        object.__setattr__(piece, "_loud", self._loud)
        return piece


def _loud_rms(samples: Samples) -> float:
    """RMS of the loudest tenth of 25 ms pieces."""
    usable = samples[: len(samples) // 400 * 400].reshape(-1, 400)
    if not len(usable):
        return 0.0
    rms = np.sqrt((usable**2).mean(axis=1))
    return float(np.quantile(rms, 0.9))


def load(path: Path) -> Recording:
    """Decode a file for reading, its channels mixed. SoundError says what is wrong with it and what to do."""
    with open_sound(path) as source:
        frames = 0
        mono = []
        for block in source.blocks:
            frames += len(block)
            mono.append(restored(block.mean(axis=1), source.rate))
        seconds = frames / source.rate
        check_length(seconds)
        return Recording(resampled(mono, source.rate, READ_RATE), seconds, source.rate, tuple(source.notes))


def check_length(seconds: float) -> None:
    """SoundError when a sound is too short to be one."""
    if seconds < MIN_SOUND_SECONDS:
        raise SoundError("The file holds no sound to speak of; export or record it again.")


def resampled(blocks: Iterable[Samples], rate: int, to: int) -> Samples:
    """Return mono blocks at another rate, as one array."""
    stream = soxr.ResampleStream(rate, to, 1, dtype="float32")
    pieces = [stream.resample_chunk(block) for block in blocks]
    return np.concatenate([*pieces, stream.resample_chunk(np.zeros(0, np.float32), last=True)])
