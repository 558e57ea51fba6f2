"""Mel-frequency cepstra and their first and second differences, as the acoustic model was trained on.

Method: Davis & Mermelstein 1980; the front end's constants (25 filters from 130 to 6800 Hz, 410-sample Hamming
window, 10 ms steps, sinusoidal lifter 22, orthonormal DCT-II) are stated in the model's own feat.params.
"""

import functools
import itertools
from collections.abc import Iterable

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from .denoise import Denoiser

SAMPLE_RATE = 16_000
STEP = 160
STEP_SECONDS = STEP / SAMPLE_RATE

_WINDOW, _FFT, _FILTERS, _CEPSTRA, _LIFTER = 410, 512, 25, 13, 22
_LOW_HZ, _HIGH_HZ = 130.0, 6800.0
_KNEE_HZ, _TOP_HZ = 5600.0, 7900.0
_BLOCK = 3000
_SILENCE_SHARE = 0.25
_DITHER_BELOW_LOUD = 10 ** (-55 / 20)
_LEAST_DITHER = 1.0
_LOUDEST_OVER_LOUD = 12.0

Singles = NDArray[np.float32]
Warp = float | NDArray[np.float64]
"""How much higher the formants of a voice lie than usual: of one voice, or on each frame."""


def _mel(hz: NDArray[np.float64] | float) -> NDArray[np.float64]:
    return np.asarray(2595.0 * np.log10(1.0 + np.asarray(hz) / 700.0))


@functools.cache
def _filterbank(warp: float) -> Singles:
    edges_mel = np.linspace(_mel(_LOW_HZ), _mel(_HIGH_HZ), _FILTERS + 2)
    edges = warped(700.0 * (10.0 ** (edges_mel / 2595.0) - 1.0), warp)
    bin_hz = SAMPLE_RATE / _FFT
    edges = np.round(edges / bin_hz) * bin_hz
    hz = np.arange(_FFT // 2 + 1) * bin_hz
    bank = np.zeros((_FFT // 2 + 1, _FILTERS), np.float32)
    for i in range(_FILTERS):
        low, peak, high = edges[i : i + 3]
        slope = np.minimum((hz - low) / max(bin_hz, peak - low), (high - hz) / max(bin_hz, high - peak))
        bank[:, i] = np.maximum(0.0, slope) * 2.0 / max(bin_hz, high - low)
    return bank


def mel_bands(pieces: Singles) -> Singles:
    """Return power in 25 bands, (pieces, 25), of pieces of up to 32 ms of 16 kHz sound, (pieces, samples)."""
    window = np.hanning(pieces.shape[1]).astype(np.float32)
    return np.asarray(np.abs(np.fft.rfft(pieces * window, _FFT, axis=1)) ** 2 @ _filterbank(1.0), np.float32)


def warped(hz: NDArray[np.float64], warp: float) -> NDArray[np.float64]:
    """Return where a voice has what the usual voice has at some frequencies: warp times as high, and from a knee on
    less, so that it ends below what can be heard (piecewise linear, Lee & Rose 1996)."""
    if warp * _HIGH_HZ <= _TOP_HZ:
        return np.asarray(hz * warp)
    knee = _KNEE_HZ / warp
    over = _KNEE_HZ + (hz - knee) * (_TOP_HZ - _KNEE_HZ) / (_HIGH_HZ - knee)
    return np.asarray(np.where(hz <= knee, hz * warp, over))


def _cosines() -> Singles:
    k, n = np.arange(_CEPSTRA)[:, None], np.arange(_FILTERS)[None, :]
    basis = np.cos(np.pi * k * (n + 0.5) / _FILTERS) * np.sqrt(2.0 / _FILTERS)
    basis[0] *= np.sqrt(0.5)
    lifter = 1.0 + _LIFTER / 2.0 * np.sin(np.pi * np.arange(_CEPSTRA) / _LIFTER)
    return np.asarray((basis * lifter[:, None]).T, np.float32)


_DCT = _cosines()
_HAMMING = np.hamming(_WINDOW).astype(np.float32)


def frame_total(samples: int) -> int:
    """Return how many 10 ms feature frames cover this many samples; at least one."""
    return max(1, -(-samples // STEP))


def cepstra(samples: Singles, warp: float = 1.0) -> Singles:
    """Return 13 cepstra for every 10 ms of 16 kHz mono sound in -1..1; shape (frames, 13).

    Frame t is centred on sample t*160 + 80, so that frame t stands for the time [t*10 ms, (t+1)*10 ms). warp: how much
    higher the formants of the voice lie than usual.
    """
    return cepstra_of(spectra(samples), warp)


def cepstra_of(power: Singles, warp: Warp) -> Singles:
    """Return the cepstra of spectra, as heard from a voice whose formants lie so much higher than usual, or from one
    such voice on each frame."""
    out = np.empty((len(power), _CEPSTRA), np.float32)
    for start, end in _pieces(len(power)):
        piece = power[start:end]
        for own, there in by_warp(warp, slice(start, end)):
            out[start:end][there] = np.log(np.maximum(piece[there] @ _filterbank(own), 1e-4)) @ _DCT
    return out


def by_warp(warp: Warp, frames: slice) -> list[tuple[float, NDArray[np.bool_] | slice]]:
    """Return the warps that count on some frames, each with which of them it counts on."""
    if isinstance(warp, float):
        return [(warp, slice(None))]
    return [(float(one), warp[frames] == one) for one in np.unique(warp[frames])]


def spectra(samples: Singles) -> Singles:
    """Return power in 257 bands of 31 Hz for every 10 ms, steady noise taken out; shape (frames, 257)."""
    total = frame_total(len(samples))
    scaled = _dithered(np.nan_to_num(samples.astype(np.float32)) * 32768.0)
    emphasised = np.empty_like(scaled)
    emphasised[:1] = scaled[:1]
    emphasised[1:] = scaled[1:] - 0.97 * scaled[:-1]
    left = _WINDOW // 2 - STEP // 2
    padded = np.pad(emphasised, (left, total * STEP + _WINDOW - len(samples)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW)[::STEP][:total]
    out = np.empty((total, _FFT // 2 + 1), np.float32)
    denoised = Denoiser()
    for start, end in _pieces(total):
        block = windows[start:end] * _HAMMING
        heard = scipy.fft.rfft(block, _FFT, axis=1)
        out[start:end] = denoised(heard.real**2 + heard.imag**2)
    return out


def _pieces(total: int) -> Iterable[tuple[int, int]]:
    """Even pieces of about half a minute: long enough to tell noise from speech, short enough to hold."""
    bounds = np.linspace(0, total, max(1, round(total / _BLOCK)) + 1).astype(int).tolist()
    return itertools.pairwise(bounds)


def _dithered(scaled: Singles) -> Singles:
    """The sound with a faint noise, the same every time: the model has never heard the perfect silence of a file."""
    pieces = scaled[: len(scaled) // STEP * STEP].reshape(-1, STEP)
    loud = float(np.sqrt(np.quantile((pieces**2).mean(axis=1), 0.95))) if len(pieces) else 0.0
    noise = np.random.default_rng(1).standard_normal(len(scaled), np.float32)
    return scaled + noise * np.float32(max(_LEAST_DITHER, loud * _DITHER_BELOW_LOUD))


def first_differences(static: Singles) -> Singles:
    """Return how cepstra change over 40 ms; (frames, 13)."""
    padded = np.pad(static, ((2, 2), (0, 0)), mode="edge")
    return np.asarray(padded[4:] - padded[:-4])


def with_differences(static: Singles, held: NDArray[np.bool_] | None = None) -> Singles:
    """Return mean-normalised cepstra with first and second differences; shape (frames, 3, 13).

    The mean counts silence for at most a quarter, whatever the share of it, as in the speech the model was trained on;
    and not at all what is held (see steady).
    """
    weights = _mean_weights(static[:, 0])
    if held is not None and not held.all():
        weights = np.where(held, np.float32(0), weights)
    centred = np.asarray(static - np.average(static, axis=0, weights=weights), np.float32)
    padded = np.pad(centred, ((3, 3), (0, 0)), mode="edge")
    n = len(static)
    first = first_differences(centred)
    second = (padded[6 : 6 + n] - padded[2 : 2 + n]) - (padded[4 : 4 + n] - padded[0:n])
    return np.stack([centred, first, second], axis=1)


def spoken_frames(loudness: Singles) -> NDArray[np.bool_]:
    """Return which frames are speech rather than silence, by their first cepstrum; also where there is little
    speech."""
    low, high = np.quantile(loudness, [0.02, 0.98])
    high = max(high, loudness.max() - _LOUDEST_OVER_LOUD)
    return np.asarray(loudness >= low + 0.4 * (high - low))


def _mean_weights(loudness: Singles) -> Singles:
    """Weights for the mean: 1 for frames of speech, less for silence where there is much of it."""
    spoken = spoken_frames(loudness)
    silent = len(spoken) - int(spoken.sum())
    share = _SILENCE_SHARE / (1 - _SILENCE_SHARE) * int(spoken.sum()) / max(1, silent)
    return np.where(spoken, 1.0, min(1.0, share)).astype(np.float32)
