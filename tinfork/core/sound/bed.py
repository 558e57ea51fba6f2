"""Music under a voice, taken out before the voice is read: tones that stay while the voice moves.

In spectra of an eighth of a second a tone of music is a line and speech a cloud; what a bin has for most of half a
second is the line (after Fitzgerald 2010, who tells tones from beats by medians; here a low quantile, so that a vowel
that is held is left alone). It is subtracted. Speech without a bed loses nothing: a bed is told by its moments without
speech, which are not far below it and have lines.
"""

import numpy as np
import scipy.signal
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from .blocks import by_block

Samples = NDArray[np.float32]

_RATE = 16_000
_WINDOW, _HOP = 2048, 256
_STAYS_SECONDS, _PERCENT = 0.35, 25
_EVERY = 2
_LEAST_GAIN = 0.1
_BINS_AT_ONCE = 64
_PIECE, _FFT, _BINS = 400, 512, slice(3, 110)
_QUIET_SHARE, _AUDIBLE_DB, _NEAR_DB = 0.12, 60.0, 26.0
_LINES = 0.87
_SPARSE_HOP, _TONES, _STAYING_SHARE = 512, slice(8, 500), 0.2
_STAYING, _LEVEL_DB = 0.55, 4.5
"""So much of the moments without speech stays where there is a bed, and it stays at its level, which spreads by less
than that: by 1 to 3 dB in made music 6 to 15 dB below speech, in rooms too. A vowel that rings on in a room falls: 6 to
14 dB."""

_SOME_BLOCKS = 12
_HAMMING = np.hamming(_PIECE).astype(np.float32)
_BLOCK_SECONDS, _OVERLAP_SECONDS = 30, 1


def without_bed(samples: Samples) -> Samples:
    """Return the sound, 16 kHz, without tones that stay, piece by piece, where there is a bed of them; else as it
    is."""
    if not has_bed(samples):
        return samples
    return by_block(samples, _without_lines, _BLOCK_SECONDS * _RATE, _OVERLAP_SECONDS * _RATE)


def has_bed(samples: Samples) -> bool:
    """Return whether the moments without speech have lines in their spectra, and are not far below speech."""
    if len(samples) < 4 * _WINDOW:
        return False
    windows = np.lib.stride_tricks.sliding_window_view(samples, _PIECE)[::_PIECE] * _HAMMING
    power = np.abs(np.fft.rfft(windows, _FFT, axis=1)[:, _BINS]) ** 2 + 1e-9
    level = 10 * np.log10(power.sum(axis=1))
    loud = float(np.quantile(level, 0.95))
    audible = level > loud - _AUDIBLE_DB
    low = float(np.quantile(level[audible], _QUIET_SHARE))
    quiet = power[audible & (level <= low)]
    lines = np.log(uniform_filter1d(quiet, 15, axis=1)) - np.log(quiet)
    return loud - low < _NEAR_DB and float(lines.mean()) > _LINES and _stays(samples)


def _stays(samples: Samples) -> bool:
    """Whether the moments without speech are what they were before and will be after: of music most of the power is, of
    people who talk a third, of noise two fifths."""
    _, _, spectra = scipy.signal.stft(_some(samples), _RATE, nperseg=_WINDOW, noverlap=_WINDOW - _SPARSE_HOP)
    there = np.abs(spectra[_TONES]).astype(np.float32)
    stays = _low_quantile(there, round(_STAYS_SECONDS * _RATE / _SPARSE_HOP) | 1)
    power = (there**2).sum(axis=0)
    level = 10 * np.log10(power + 1e-12)
    audible = level > np.quantile(level, 0.95) - _AUDIBLE_DB
    quiet = audible & (level <= np.quantile(level[audible], _STAYING_SHARE))
    share = float(np.median((stays[:, quiet] ** 2).sum(axis=0) / power[quiet]))
    return share > _STAYING and float(level[quiet].std()) < _LEVEL_DB


def _some(samples: Samples) -> Samples:
    """Two minutes of a sound, from all over it."""
    block = 10 * _RATE
    if len(samples) <= _SOME_BLOCKS * block:
        return samples
    begins = np.linspace(0, len(samples) - block, _SOME_BLOCKS).astype(int).tolist()
    return np.concatenate([samples[begin : begin + block] for begin in begins])


def _without_lines(samples: Samples) -> Samples:
    _, _, spectra = scipy.signal.stft(samples, _RATE, nperseg=_WINDOW, noverlap=_WINDOW - _HOP)
    there = np.abs(spectra)
    stays = _low_quantile(there[:, ::_EVERY].astype(np.float32), round(_STAYS_SECONDS * _RATE / _HOP / _EVERY) | 1)
    stays = stays.repeat(_EVERY, axis=1)[:, : there.shape[1]]
    gain = np.maximum(_LEAST_GAIN, 1 - stays / (there + 1e-9))
    _, cleaned = scipy.signal.istft(spectra * gain, _RATE, nperseg=_WINDOW, noverlap=_WINDOW - _HOP)
    return np.asarray(cleaned[: len(samples)], np.float32)


def _low_quantile(there: Samples, span: int) -> Samples:
    """(bins, frames) what a bin has for all but a share of so many frames around each. By partition: a third of the
    time of a running filter."""
    around = np.pad(there, ((0, 0), (span // 2, span // 2)), mode="symmetric")
    windows = np.lib.stride_tricks.sliding_window_view(around, span, axis=1)
    out, least = np.empty_like(there), span * _PERCENT // 100
    for first in range(0, len(there), _BINS_AT_ONCE):
        piece = windows[first : first + _BINS_AT_ONCE]
        out[first : first + _BINS_AT_ONCE] = np.partition(piece, least, axis=-1)[..., least]
    return out
