"""Whose voice where, without a script: stretches of speech grouped by how they sound.

Speech is cut at pauses; every stretch is described by its mean spectral envelope and its pitch; stretches are joined
bottom-up by average linkage (Sokal & Michener 1958) until the wanted count is left, or until the closest two groups
are farther apart than one voice is from itself. Pitch is the autocorrelation's (Rabiner 1977).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .features import STEP, STEP_SECONDS, cepstra

_PAUSE_SECONDS = 0.22
_LEAST_SECONDS = 0.25
_MOST_STRETCHES = 400
_ONE_VOICE = 0.75
_LONG_SECONDS = 4.0
_SURE_SECONDS = 2.0
_PITCH_SCALE = 0.11
_LOW_HZ, _HIGH_HZ = 65.0, 420.0
_WINDOW = 640

Floats = NDArray[np.float64]
Samples = NDArray[np.float32]


@dataclass(frozen=True)
class VoiceStretch:
    """Speech without a pause, in seconds; voice: the number of its group, 0 for the first heard."""

    start: float
    end: float
    voice: int


def stretches(samples: Samples) -> list[tuple[float, float]]:
    """Return where there is speech in a 16 kHz signal: (start, end) in seconds, cut at pauses."""
    loud = _loud(samples)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], loud, [False]]).astype(np.int8)))
    found: list[tuple[float, float]] = []
    for start, end in (edges.reshape(-1, 2) / 100).tolist():
        if found and start - found[-1][1] < _PAUSE_SECONDS:
            found[-1] = (found[-1][0], end)
        else:
            found.append((start, end))
    return [(start, end) for start, end in found if end - start >= 0.06]


def group(samples: Samples, count: int | None = None) -> list[VoiceStretch]:
    """Return stretches of speech in order, grouped into count voices, or as many as there seem to be."""
    spans = [span for span in stretches(samples) if span[1] - span[0] >= _LEAST_SECONDS][:_MOST_STRETCHES]
    if not spans:
        return []
    envelope, loud = cepstra(samples), _loud(samples)
    described = np.array([_describe(samples, envelope, loud, span) for span in spans])
    pitch = described[:, -1]
    pitch[np.isnan(pitch)] = np.nanmedian(pitch) if np.isfinite(pitch).any() else 0.0
    lengths = np.array([end - start for start, end in spans])
    labels = _join(described, lengths, count)
    order = {label: number for number, label in enumerate(dict.fromkeys(labels))}
    return [VoiceStretch(start, end, order[label]) for (start, end), label in zip(spans, labels, strict=True)]


def _loud(samples: Samples) -> NDArray[np.bool_]:
    """For every 10 ms whether it is speech: above the middle between the quiet and the loud, in dB."""
    total = len(samples) // STEP
    if not total:
        return np.zeros(0, bool)
    power = (samples[: total * STEP].reshape(-1, STEP) ** 2).mean(axis=1)
    db = np.maximum(10 * np.log10(power + 1e-12), -90.0)
    low, high = np.quantile(db, [0.05, 0.95])
    if high < -60:
        return np.zeros(total, bool)
    return np.asarray(db > max(low + 0.4 * (high - low), high - 35))


def _describe(samples: Samples, envelope: Samples, loud: NDArray[np.bool_], span: tuple[float, float]) -> Floats:
    """Mean cepstra 1 to 12 of the loud frames, in units that make voices comparable, then log pitch."""
    first, last = int(span[0] / STEP_SECONDS), int(span[1] / STEP_SECONDS)
    rows = envelope[first:last][loud[first:last]] if loud[first:last].any() else envelope[first:last]
    mean = rows[:, 1:13].mean(axis=0) / (envelope[:, 1:13].std(axis=0) + 1e-6)
    return np.concatenate([mean, [_pitch(samples[first * STEP : last * STEP]) / _PITCH_SCALE]])


def _pitch(samples: Samples) -> float:
    """The median natural logarithm of the pitch in Hz over voiced windows; NaN where fewer than three are voiced."""
    low, high = int(16_000 / _HIGH_HZ), int(16_000 / _LOW_HZ)
    found = []
    for start in range(0, len(samples) - _WINDOW, _WINDOW // 2):
        piece = samples[start : start + _WINDOW] - samples[start : start + _WINDOW].mean()
        spectrum = np.fft.rfft(piece * np.hanning(_WINDOW), 2 * _WINDOW)
        lags = np.fft.irfft(np.abs(spectrum) ** 2)
        best = low + int(lags[low:high].argmax())
        if lags[0] > 0 and lags[best] > 0.45 * lags[0]:
            found.append(np.log(16_000 / best))
    return float(np.median(found)) if len(found) >= 3 else float("nan")


def _join(described: Floats, lengths: Floats, count: int | None) -> list[int]:
    """A group label for every stretch. Long stretches count more, up to a length that says all there is to say."""
    apart = np.sqrt(((described[:, None, :] - described[None, :, :]) ** 2).mean(axis=2))
    np.fill_diagonal(apart, np.inf)
    weights = np.minimum(lengths, _LONG_SECONDS)
    labels = np.arange(len(described))
    left = len(described)
    while left > max(1, count or 1):
        one, other = (int(i) for i in np.unravel_index(int(apart.argmin()), apart.shape))
        if count is None and apart[one, other] > _ONE_VOICE:
            break
        both = weights[one] + weights[other]
        apart[one] = apart[:, one] = (apart[one] * weights[one] + apart[other] * weights[other]) / both
        apart[other] = apart[:, other] = apart[one, one] = np.inf
        weights[one] = both
        labels[labels == other] = one
        left -= 1
    return _without_specks(labels, described, lengths) if count is None else [int(label) for label in labels]


def _without_specks(labels: NDArray[np.int64], described: Floats, lengths: Floats) -> list[int]:
    """Groups too short to be sure of, given to the nearest group that is not."""
    total = {int(label): float(lengths[labels == label].sum()) for label in np.unique(labels)}
    large = [label for label, seconds in total.items() if seconds >= _SURE_SECONDS]
    if not large:
        return [0] * len(labels)
    centres = {label: described[labels == label].mean(axis=0) for label in large}

    def nearest(row: Floats) -> int:
        return min(large, key=lambda label: float(((centres[label] - row) ** 2).sum()))

    return [int(label) if label in centres else nearest(described[i]) for i, label in enumerate(labels)]
