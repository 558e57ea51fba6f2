"""Steady noise taken out of power spectra before they are described: a Wiener filter.

The signal-to-noise ratio of each bin follows its own past (decision-directed, Ephraim & Malah 1984); the noise is told
from the lowest values of the smoothed spectrum (after Martin 2001), taken anew in every piece of the sound. Not from
the merely low ones: those are the tails of words in a room that echoes.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

Singles = NDArray[np.float32]

_QUANTILE, _QUANTILE_TO_MEAN = 0.01, 1.7
_SMOOTH_FRAMES, _SMOOTH_BINS = 9, 5
_LAG = 0.9
_LEAST_GAIN = 0.1


class Denoiser:
    """Takes the pieces of one sound in order."""

    def __init__(self) -> None:
        self._before: Singles | None = None

    def __call__(self, power: Singles) -> Singles:
        """The same spectra with steady noise taken out; power: (frames, bins)."""
        noise = _noise(power)
        before = np.ones(power.shape[1], np.float32) if self._before is None else self._before
        ratios = power / (noise + np.float32(1e-9))
        priors = np.maximum(ratios - 1, 0)
        priors *= 1 - _LAG
        gains = np.empty_like(power)
        before = before * np.float32(_LAG)
        for prior, gain, ratio in zip(priors, gains, ratios, strict=True):
            np.add(prior, before, out=prior)
            np.add(prior, 1, out=gain)
            np.divide(prior, gain, out=gain)
            np.maximum(gain, _LEAST_GAIN, out=gain)
            np.multiply(gain, gain, out=gain)
            np.multiply(gain, ratio, out=before)
            np.multiply(before, _LAG, out=before)
        self._before = before / np.float32(_LAG)
        return np.asarray(power * gains)


def _noise(power: Singles) -> Singles:
    smooth = uniform_filter1d(uniform_filter1d(power, _SMOOTH_FRAMES, axis=0), _SMOOTH_BINS, axis=1)
    return np.asarray(np.quantile(smooth, _QUANTILE, axis=0) * _QUANTILE_TO_MEAN, np.float32)
