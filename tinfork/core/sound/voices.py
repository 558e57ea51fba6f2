"""Whose voice where, without a script: stretches of speech grouped by how they sound.

Speech is cut at pauses; every stretch is described by its spectral envelopes and its pitch. The two groups that gain
least by being told apart are joined, until the wanted count is left, or until telling any two apart says more than it
costs, by the Bayesian information criterion over Gaussians with full covariance (Chen & Gopalakrishnan 1998), and their
pitch. Pitch is the autocorrelation's (Rabiner 1977).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .features import STEP, STEP_SECONDS, cepstra

_PAUSE_SECONDS = 0.22
_LEAST_SECONDS = 0.25
_MOST_STRETCHES = 400
_CAUTION = 3.5
"""How much more telling voices apart must say than it costs: frames say the same several times over. By 60 made
conversations of one to three voices; see _PITCH_SCALE for pitch."""

_LONG_SECONDS = 4.0
"""How much of a voice is enough to know its pitch."""

_SURE_SECONDS = 2.0
"""Less than this is not taken for a voice of its own."""

_PITCH_SCALE = 0.11
"""By how much the mean logarithm of one voice's pitch differs from stretch to stretch: two semitones."""

_FLOOR = 1e-3
"""The least variance of a cepstrum, in units of the whole sound's: a few frames vary less than a voice does."""

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
    heard = [_voice_of(samples, envelope, loud, span) for span in spans]
    rows, pitch = [row for row, _ in heard], np.array([one for _, one in heard])
    pitch[np.isnan(pitch)] = np.nanmedian(pitch) if np.isfinite(pitch).any() else 0.0
    lengths = np.array([end - start for start, end in spans])
    joined = _join(_Voices.of(rows, pitch, lengths), count)
    labels = _without_specks(joined, rows, lengths) if count is None else [int(label) for label in joined]
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


def _voice_of(
    samples: Samples, envelope: Samples, loud: NDArray[np.bool_], span: tuple[float, float]
) -> tuple[Floats, float]:
    """Cepstra 1 to 12 of the loud frames of a stretch, (frames, 12), and its log pitch, NaN where it has none."""
    first, last = int(span[0] / STEP_SECONDS), int(span[1] / STEP_SECONDS)
    rows = envelope[first:last][loud[first:last]] if loud[first:last].any() else envelope[first:last]
    return rows[:, 1:13].astype(np.float64), _pitch(samples[first * STEP : last * STEP])


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


@dataclass(frozen=True)
class _Voices:
    """Groups of frames, a row each: frames, how many; sums (12,) and products (12, 12) of their cepstra; pitch, the
    mean of its logarithm; seconds, how long they last."""

    frames: Floats
    sums: Floats
    products: Floats
    pitch: Floats
    seconds: Floats

    @classmethod
    def of(cls, rows: Sequence[Floats], pitch: Floats, seconds: Floats) -> "_Voices":
        """Return each stretch as a group of its own; cepstra in units of how much they vary in the whole sound."""
        everything = np.concatenate(rows)
        middle, spread = everything.mean(axis=0), everything.std(axis=0) + 1e-6
        scaled = [(row - middle) / spread for row in rows]
        frames = np.array([float(len(row)) for row in scaled])
        sums, products = np.array([row.sum(axis=0) for row in scaled]), np.array([row.T @ row for row in scaled])
        return cls(frames, sums, products, pitch, seconds)

    def __getitem__(self, rows: Any) -> "_Voices":
        return _Voices(*(getattr(self, name)[rows] for name in self.__dataclass_fields__))

    def with_each(self, one: int) -> "_Voices":
        """Return each group joined with one of them."""
        seconds = self.seconds + self.seconds[one]
        pitch = (self.pitch * self.seconds + self.pitch[one] * self.seconds[one]) / seconds
        sums, products = self.sums + self.sums[one], self.products + self.products[one]
        return _Voices(self.frames + self.frames[one], sums, products, pitch, seconds)

    def joined(self, one: int, other: int) -> "_Voices":
        """Return the groups with one joined to another, which is left as it is."""
        both = self.with_each(other)[one]
        changed = {name: getattr(self, name).copy() for name in self.__dataclass_fields__}
        for name, values in changed.items():
            values[one] = getattr(both, name)
        return _Voices(**changed)

    @property
    def spreads(self) -> Floats:
        """The logarithm of how much room each group's cepstra take."""
        mean = self.sums / self.frames[:, None]
        covariance = self.products / self.frames[:, None, None] - mean[:, :, None] * mean[:, None, :]
        return np.asarray(np.linalg.slogdet(covariance + _FLOOR * np.eye(mean.shape[1]))[1])

    def apart(self, one: int) -> Floats:
        """Return how far each group is from one of them: below 0 where both are rather one voice."""
        both, of = self.with_each(one), self.sums.shape[1]
        free = 0.5 * (of + of * (of + 1) / 2) * np.log(both.frames)
        spreads = self.spreads
        gain = both.frames * both.spreads - self.frames * spreads - self.frames[one] * spreads[one]
        known = np.minimum(np.minimum(self.seconds, self.seconds[one]), _LONG_SECONDS)
        pitch = ((self.pitch - self.pitch[one]) / _PITCH_SCALE) ** 2 - 1
        apart: Floats = (0.5 * gain - _CAUTION * free) / np.sqrt(both.frames) + np.sqrt(known) * pitch
        return apart


def _join(voices: _Voices, count: int | None) -> NDArray[np.int64]:
    """A group label for every stretch."""
    total = len(voices.frames)
    labels, left = np.arange(total), list(range(total))
    apart = np.full((total, total), np.inf)
    for one in range(total):
        apart[one, :one] = voices[: one + 1].apart(one)[:one]
    apart = np.minimum(apart, apart.T)
    while len(left) > max(1, count or 1):
        one, other = (int(i) for i in np.unravel_index(int(apart.argmin()), apart.shape))
        if count is None and apart[one, other] > 0:
            break
        voices = voices.joined(one, other)
        left.remove(other)
        labels[labels == other] = one
        apart[other] = apart[:, other] = np.inf
        rest = [i for i in left if i != one]
        apart[one, rest] = apart[rest, one] = voices[[*rest, one]].apart(-1)[:-1]
    return labels


def _without_specks(labels: NDArray[np.int64], rows: Sequence[Floats], lengths: Floats) -> list[int]:
    """Groups too short to be sure of, given to the nearest group that is not."""
    total = {int(label): float(lengths[labels == label].sum()) for label in np.unique(labels)}
    large = [label for label, seconds in total.items() if seconds >= _SURE_SECONDS]
    if not large:
        return [0] * len(labels)
    spread = np.concatenate(rows).std(axis=0) + 1e-6
    means = np.array([row.mean(axis=0) for row in rows]) / spread
    centres = {label: means[labels == label].mean(axis=0) for label in large}

    def nearest(mean: Floats) -> int:
        return min(large, key=lambda label: float(((centres[label] - mean) ** 2).sum()))

    return [int(label) if label in centres else nearest(means[i]) for i, label in enumerate(labels)]
