"""A room's echo, taken out before a voice is read: what can be told from what was said a little before.

Weighted prediction error (Nakatani, Yoshioka et al. 2010, as the package nara_wpe has it): in each band the echo is
predicted from the band's own past, but for the nearest 24 ms, which are the voice's. How much can be predicted where
the voice falls silent also tells a room from a dry recording. A vowel that is held can be predicted as well, and is no
echo: where what is said can be predicted better than what falls silent, all stays as it is.
"""

import numpy as np
import scipy.signal
from nara_wpe.wpe import wpe_v8
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from .blocks import by_block

Samples = NDArray[np.float32]
Spectra = NDArray[np.complex128]

_RATE = 16_000
_WINDOW, _HOP = 512, 128
_TAPS, _DELAY, _ROUNDS = 16, 3, 3
_LEAST_SECONDS, _TRIED_SECONDS, _BLOCK_SECONDS, _OVERLAP_SECONDS = 0.5, 10, 20, 1
_EVERY = 4
"""Of how many bands one is looked at to tell whether a room echoes: every sound that is read is asked."""

_AUDIBLE, _FLOOR = 1e-4, 1e-9
_RECENT_HOPS, _FALLEN = 38, 0.25
_ECHOES, _HELD, _OF_CHANCE = 0.12, 0.1, 0.35
"""From so much of the logarithm of power on that can be predicted where the voice falls silent a room echoes, unless
so much more can be where it does not; so many seconds divided by a sound's length of both are chance. Of made lines of
2 to 12 s: in rooms of 0.25 to 0.8 s 0.1 and more, nearly always over 0.15; dry or among others up to 0.15, of the
longer ones none over 0."""


def without_echo(samples: Samples) -> Samples:
    """Return a sound, 16 kHz, without the echo of a room, block by block, where there is one; else as it is."""
    if not echoes(samples):
        return samples
    return by_block(samples, _dried, _BLOCK_SECONDS * _RATE, _OVERLAP_SECONDS * _RATE)


def echoes(samples: Samples) -> bool:
    """Return whether a sound, 16 kHz, was recorded in a room that echoes, by where most is said in it."""
    piece = _fullest(samples, _TRIED_SECONDS * _RATE)
    if len(piece) < _LEAST_SECONDS * _RATE or not piece.any():
        return False
    heard = _spectra(piece)[::_EVERY]
    said, falling = _predicted(heard, _without_echo(heard))
    return falling > _ECHOES + _OF_CHANCE * _RATE / len(piece) and said <= falling + _HELD


def _predicted(heard: Spectra, left: Spectra) -> tuple[float, float]:
    """How much of the logarithm of power can be predicted: of all that is audible, and of where the voice falls
    silent."""
    power, rest = (np.abs(one[_DELAY:]) ** 2 for one in (heard, left))
    level = power.sum(axis=0)
    floor = _FLOOR * level.max()
    gone = (np.log(power + floor) - np.log(rest + floor)).mean(axis=0)
    audible = level > _AUDIBLE * np.quantile(level, 0.95)
    falling = audible & (_highest(level, _WINDOW // _HOP + 1) < _FALLEN * _highest(level, _RECENT_HOPS))
    return float(gone[audible].mean()), float(gone[falling].mean()) if falling.any() else 0.0


def _highest(level: NDArray[np.float64], hops: int) -> NDArray[np.float64]:
    """(frames,) the highest of so many up to each."""
    return np.asarray(maximum_filter1d(level, hops, origin=(hops - 1) // 2))


def _fullest(samples: Samples, length: int) -> Samples:
    """The stretch of a length of which most is loud."""
    if len(samples) <= length:
        return samples
    steps = samples[: len(samples) // _HOP * _HOP].reshape(-1, _HOP)
    level = np.sqrt((steps**2).mean(axis=1))
    loud = np.concatenate([[0], np.cumsum(level > 0.3 * np.quantile(level, 0.95))])
    span = length // _HOP
    at = int((loud[span:] - loud[:-span]).argmax()) * _HOP
    return samples[at : at + length]


def _dried(samples: Samples) -> Samples:
    if len(samples) < _LEAST_SECONDS * _RATE or not samples.any():
        return samples
    heard = _spectra(samples)
    left = _without_echo(heard)
    said, falling = _predicted(heard, left)
    if said > falling + _HELD:
        return samples
    _, found = scipy.signal.istft(left, _RATE, nperseg=_WINDOW, noverlap=_WINDOW - _HOP)
    return np.asarray(found[: len(samples)], np.float32)


def _spectra(samples: Samples) -> Spectra:
    return np.asarray(scipy.signal.stft(samples, _RATE, nperseg=_WINDOW, noverlap=_WINDOW - _HOP)[2])


def _without_echo(spectra: Spectra) -> Spectra:
    """(bins, frames) as they were, what is predicted of them taken out."""
    return np.asarray(wpe_v8(spectra[:, None], _TAPS, _DELAY, _ROUNDS, psd_context=1)[:, 0])
