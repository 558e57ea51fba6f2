"""How high and how loud a voice is: what accents are found by, and what is drawn under the waveform."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

STEP = 0.01
"""Seconds from one value to the next."""

_WINDOW, _LENGTH = 0.04, 2048
_LOWEST, _HIGHEST = 60.0, 600.0
_SURE, _BLOCK = 0.45, 2000
_CANDIDATES, _OCTAVE, _LEAP, _FORGOTTEN, _UNUSUAL = 5, 0.12, 0.35, 20, 0.15
"""Of so many periods in each frame one is taken; a longer one counts for so much less an octave, and a leap of one
costs so much (the cost of Boersma 1993), less by how many frames have no voice in between; what is an octave from the
voice's usual pitch counts for so much less."""

_SILENT = -60.0

Singles = NDArray[np.float32]


@dataclass(frozen=True, eq=False)
class Melody:
    """(n,) for each STEP from 0 on. pitch: Hz, 0 where no voice is; loudness: dB below full scale, at most 0."""

    pitch: Singles
    loudness: Singles

    def packed(self) -> bytes:
        """As it is kept."""
        return np.stack([self.pitch, self.loudness]).astype("<f2").tobytes()

    @classmethod
    def unpacked(cls, kept: bytes) -> "Melody":
        """Return what was kept."""
        pitch, loudness = np.frombuffer(kept, "<f2").astype(np.float32).reshape(2, -1)
        return cls(pitch, loudness)

    def between(self, start: float, end: float) -> "Melody":
        """Return what lies between two times, in seconds; one value at the least, if there is any."""
        first = min(max(0, round(start / STEP)), max(0, len(self.pitch) - 1))
        stop = max(first + 1, round(end / STEP))
        return Melody(self.pitch[first:stop], self.loudness[first:stop])


def melody_of(samples: Singles, rate: int) -> Melody:
    """Return the melody of a voice: pitch by autocorrelation (Boersma 1993: that of the sound over that of the window),
    loudness as the power in the same window. samples: (n,) mono, -1 to 1, at a rate in Hz."""
    width, hop = int(_WINDOW * rate), int(STEP * rate)
    count = max(1, len(samples) // hop)
    window = np.hanning(width).astype(np.float32)
    own = _correlation(window[None])[0]
    padded = np.pad(samples.astype(np.float32), (width // 2, width))
    least, most = int(rate / _HIGHEST), min(width - 1, int(rate / _LOWEST))
    strengths: Singles = np.full((count, _CANDIDATES), -9.0, np.float32)
    periods: Singles = np.ones((count, _CANDIDATES), np.float32)
    voiced, loudness = np.zeros(count, np.bool_), np.full(count, -120.0, np.float32)
    for first in range(0, count, _BLOCK):
        rows = np.arange(first, min(count, first + _BLOCK))
        frames = padded[rows[:, None] * hop + np.arange(width)]
        power = (frames**2).mean(axis=1)
        loudness[rows] = 10 * np.log10(power + 1e-12)
        found = _correlation((frames - frames.mean(axis=1, keepdims=True)) * window)
        clear = found[:, : most + 2] / np.maximum(own[: most + 2], 1e-3) / np.maximum(found[:, :1] / own[0], 1e-12)
        # Of peaks nearly as high the one of the shortest period: the others are its multiples.
        lags = np.arange(least, most + 1)
        weighed = clear[:, least : most + 1] - _OCTAVE * np.log2(lags / least)[None, :]
        peak = clear[:, least : most + 1] >= np.maximum(clear[:, least - 1 : most], clear[:, least + 1 : most + 2])
        weighed = np.where(peak, weighed, -9.0)
        best = np.argpartition(weighed, -_CANDIDATES, axis=1)[:, -_CANDIDATES:]
        strengths[rows] = np.take_along_axis(weighed, best, 1)
        periods[rows] = least + best
        sure = np.where(peak, clear[:, least : most + 1], 0.0).max(axis=1) > _SURE
        voiced[rows] = sure & (loudness[rows] > _SILENT)
    pitch = np.zeros(count, np.float32)
    there = np.flatnonzero(voiced)
    if len(there):
        pitch[there] = rate / _usual(strengths[there], periods[there], there)
    return Melody(_steady(pitch), loudness)


def _usual(strengths: Singles, periods: Singles, frames: NDArray[np.int64]) -> Singles:
    """As _along has them, rather about the pitch the voice has most."""
    middle = np.median(_along(strengths, periods, frames))
    unusual = np.abs(np.log2(periods / middle))
    return _along(np.asarray(strengths - _UNUSUAL * unusual, np.float32), periods, frames)


def _along(strengths: Singles, periods: Singles, frames: NDArray[np.int64]) -> Singles:
    """(n,) of the periods of each frame, (n, candidates), those that are strong and leap least, by dynamic programming
    over all of them: no voice leaps an octave from a hundredth of a second to the next."""
    octaves = np.log2(periods)
    costs = _LEAP * np.exp(-(np.diff(frames) - 1) / _FORGOTTEN)
    score, back = strengths[0].copy(), np.zeros(strengths.shape, np.int64)
    for at in range(1, len(frames)):
        ways = score[None, :] - costs[at - 1] * np.abs(octaves[at][:, None] - octaves[at - 1][None, :])
        back[at] = ways.argmax(axis=1)
        score = strengths[at] + ways.max(axis=1)
    way = np.empty(len(frames), np.int64)
    way[-1] = score.argmax()
    for at in range(len(frames) - 1, 0, -1):
        way[at - 1] = back[at, way[at]]
    return np.asarray(periods[np.arange(len(frames)), way])


def _correlation(frames: NDArray[np.float32]) -> NDArray[np.float64]:
    spectrum = np.fft.rfft(frames, _LENGTH)
    return np.fft.irfft(np.abs(spectrum) ** 2)


def _steady(pitch: Singles) -> Singles:
    """Pitch without leaps that last no longer than a few hundredths of a second."""
    padded = np.pad(pitch, 2, mode="edge")
    middle = np.median(np.lib.stride_tricks.sliding_window_view(padded, 5), axis=1)
    return np.where((pitch > 0) & (middle > 0), middle, 0.0).astype(np.float32)
