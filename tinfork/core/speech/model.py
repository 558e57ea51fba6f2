"""The acoustic model: how well each 10 ms of sound fits each state of each phone.

Reads the phonetically tied mixture model that the PyPI package pocketsphinx carries: for each of 42 phones one
codebook of 3 streams x 128 diagonal Gaussians x 13 dimensions, and 3 states a phone that weigh its codebook.
Only the 126 context-independent states are used. Scores are natural log likelihoods.
"""

import functools
import struct
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pocketsphinx
from numpy.typing import NDArray

from ..sound.features import Singles, spoken_frames

STATES = 3
_LOG_BASE_SHIFTED = float(np.log(1.0001)) * 1024
_FAR = np.float32(-70.0)
"""What is farther than this below the nearest Gaussian of a frame is all the same: no likelihood is so small that it
takes a processor longer than others."""

_BLOCK = 32
_FRAMES_TO_TRUST = 100
_NO_SPEECH = ("SIL", "+NSN+", "+SPN+")


@dataclass(frozen=True)
class AcousticModel:
    """How likely sounds are in each state of each phone. phones: names in order; stay and leave: (phones, 3) log
    probabilities of a state's two ways on; spread: (3, 13), the standard deviation of speech in the model's own
    features; centres and widths: (phones * 3, 3, 13), the mean and the variance of each state."""

    phones: tuple[str, ...]
    stay: Singles
    leave: Singles
    spread: Singles
    centres: Singles
    widths: Singles
    _terms: Singles
    _of_speech: Singles
    _weights: Singles

    def index(self, phone: str) -> int:
        """Return the row of a phone. KeyError if the model has none of that name."""
        return _positions(self.phones)[phone]

    @property
    def speech_rows(self) -> list[int]:
        """The rows of all phones but silence and noise."""
        return [row for row, name in enumerate(self.phones) if name not in _NO_SPEECH]

    def fitted(self, features: Singles, held: NDArray[np.bool_] | None = None) -> Singles:
        """Return features stretched so that this recording's speech spreads as the model's does; (frames, 3, 13).

        Noise and a voice unlike the training voices flatten the features (Viikki & Laurila 1998, on normalising their
        variance); a recording of few frames is stretched less, as its own spread says less. What is held counts not.
        """
        there = spoken_frames(features[:, 0, 0])
        spoken = features[there if held is None else there & ~held]
        if not len(spoken):
            return features
        trust = len(spoken) / (len(spoken) + _FRAMES_TO_TRUST)
        stretch = 1 + trust * (self.spread / (spoken.std(axis=0) + 1e-3) - 1)
        return np.asarray(features * stretch, np.float32)

    def scores(self, features: Singles, progress: Callable[[float], None] = lambda share: None) -> Singles:
        """Return log likelihood of every frame in every state; (frames, 3, 13) -> (frames, phones*3).

        The features are fitted to the model first.
        """
        return self.scores_of(self.fitted(features), progress)

    def scores_of(self, features: Singles, progress: Callable[[float], None] = lambda share: None) -> Singles:
        """Return the log likelihood of every frame in every state, (frames, phones * 3), of features, (frames, 3,
        13), that are fitted to the model already. progress: called with the share that is done."""
        out = np.empty((len(features), len(self.phones), STATES), np.float32)
        # Memory that is asked for anew at every step takes longer to get than to fill.
        room = np.empty(len(self.phones) * _BLOCK * self._terms.shape[3], np.float32)
        for start in range(0, len(features), _BLOCK):
            block = features[start : start + _BLOCK]
            out[start : start + _BLOCK] = sum(self._stream(stream, block[:, stream], room) for stream in range(3))
            progress(start / len(features))
        return out.reshape(len(features), -1)

    def likeness(self, cepstra: Singles, every: int = 1) -> float:
        """Return how much what is heard on some frames is like speech, of any phone: the mean log likelihood of the
        nearest Gaussian of the cepstra alone, (frames, 13), once they lie and spread as the model's do. every: of how
        many frames one is looked at."""
        values = ((cepstra - cepstra.mean(axis=0)) * (self.spread[0] / (cepstra.std(axis=0) + 1e-3)))[::every]
        room = np.empty(len(self._of_speech) * _BLOCK * self._terms.shape[3], np.float32)
        blocks = (values[start : start + _BLOCK] for start in range(0, len(values), _BLOCK))
        return float(np.concatenate([_nearest(_logs(block, self._of_speech, room)) for block in blocks]).mean())

    def _stream(self, stream: int, values: Singles, room: Singles) -> Singles:
        """(frames, phones, 3) how well frames fit each state by one stream, (frames, 13)."""
        logs = _logs(values, self._terms[stream], room)
        peak = _nearest(logs)
        np.subtract(logs, peak[:, None], out=logs)
        np.clip(logs, _FAR, 0.0, out=logs)
        mixed = np.matmul(np.exp(logs, out=logs), self._weights[stream])
        return np.asarray((np.log(mixed) + peak[:, None]).transpose(1, 0, 2))


def _logs(values: Singles, terms: Singles, room: Singles) -> Singles:
    """(phones, frames, gaussians) log likelihood of some values, (frames, 13), in room that is there."""
    known = np.concatenate([values**2, values, np.ones((len(values), 1), np.float32)], axis=1)
    shape = (len(terms), len(values), terms.shape[2])
    return np.matmul(known, terms, out=room[: int(np.prod(shape))].reshape(shape))


def _nearest(logs: Singles) -> Singles:
    """(frames,) the log likelihood of the nearest Gaussian of any phone."""
    return np.asarray(logs.max(axis=0).max(axis=1))


@functools.cache
def _rows_of_speech(phones: tuple[str, ...]) -> list[int]:
    return [row for row, name in enumerate(phones) if name not in _NO_SPEECH]


@functools.cache
def _positions(phones: tuple[str, ...]) -> dict[str, int]:
    return {name: i for i, name in enumerate(phones)}


def _tensor(path: Path) -> NDArray[np.float32]:
    """A file of the s3 family: a text header, a byte-order mark, sizes, float32 values, a checksum."""
    data = path.read_bytes()
    start = data.index(b"endhdr\n") + 7 + 4
    if path.name == "transition_matrices":
        shape: tuple[int, ...] = struct.unpack_from("<3I", data, start)
        start += 16
    else:
        books, streams, gaussians, size = struct.unpack_from("<4I", data, start)
        shape = (books, streams, gaussians, size)
        start += 4 * (3 + streams) + 4
    return np.frombuffer(data, "<f4", int(np.prod(shape)), start).reshape(shape)


def _phone_names(path: Path) -> tuple[str, ...]:
    data = path.read_bytes()
    start = data.index(b"END FILE FORMAT DESCRIPTION\n") + 28
    start += -start % 4
    count = struct.unpack_from("<i", data, start)[0]
    names = data[start + 40 : start + 40 + 12 * count].split(b"\0")[:count]
    return tuple(name.decode("ascii") for name in names)


def _mixture_weights(path: Path, streams: int, gaussians: int, states: int) -> NDArray[np.float32]:
    """Quantised log weights of the first `states` states; (streams, gaussians, states), natural log."""
    data = path.read_bytes()
    offset = 0
    while length := struct.unpack_from("<i", data, offset)[0]:
        offset += 4 + length
    rows, columns = struct.unpack_from("<2i", data, offset + 4)
    if rows != gaussians:
        raise ValueError(f"{path.name}: {rows} rows of weights for {gaussians} Gaussians")
    raw = np.frombuffer(data, np.uint8, streams * rows * columns, offset + 12)
    kept = raw.reshape(streams, rows, columns)[:, :, :states].astype(np.float32)
    weights: Singles = np.multiply(kept, -_LOG_BASE_SHIFTED, dtype=np.float32)
    return weights


@functools.cache
def load(folder: Path | None = None) -> AcousticModel:
    """Return the model in a folder, or the English one that comes with the recogniser library."""
    folder = folder or Path(pocketsphinx.get_model_path("en-us/en-us"))
    phones = _phone_names(folder / "mdef")
    means, variances = _tensor(folder / "means"), np.maximum(_tensor(folder / "variances"), 1e-4)
    count, streams, gaussians = means.shape[:3]
    precision: Singles = np.reciprocal(variances, dtype=np.float32)
    constant = -0.5 * (np.log(2 * np.pi * variances) + means**2 * precision).sum(axis=3)
    weights = np.exp(_mixture_weights(folder / "sendump", streams, gaussians, count * STATES))
    weights /= weights.sum(axis=1, keepdims=True)
    moves = _tensor(folder / "transition_matrices")
    moves = np.log(np.maximum(moves / moves.sum(axis=2, keepdims=True), 1e-10))
    states = range(STATES)
    own = weights.reshape(streams, gaussians, count, STATES)
    centres, widths = _states(means, variances, own)
    terms = _terms(means, precision, constant)
    return AcousticModel(
        phones=phones,
        stay=moves[:, states, states].astype(np.float32),
        leave=moves[:, states, [k + 1 for k in states]].astype(np.float32),
        spread=_spread(means, variances, own, phones),
        centres=centres,
        widths=widths,
        _terms=terms,
        _of_speech=np.ascontiguousarray(terms[0, _rows_of_speech(phones)]),
        _weights=np.ascontiguousarray(own.transpose(0, 2, 1, 3), np.float32),
    )


def _spread(means: Singles, variances: Singles, weights: Singles, phones: tuple[str, ...]) -> Singles:
    """Standard deviation of speech over all its states, each as likely as any other; (streams, dimensions)."""
    rows = _rows_of_speech(phones)
    shares = weights[:, :, rows].transpose(0, 2, 1, 3).sum(axis=3)[..., None]
    shares /= shares.sum(axis=(1, 2), keepdims=True)
    centres, widths = means[rows].transpose(1, 0, 2, 3), variances[rows].transpose(1, 0, 2, 3)
    mean = (shares * centres).sum(axis=(1, 2), keepdims=True)
    return np.asarray(np.sqrt((shares * (widths + (centres - mean) ** 2)).sum(axis=(1, 2))), np.float32)


def _states(means: Singles, variances: Singles, weights: Singles) -> tuple[Singles, Singles]:
    """The mean and the variance of each state, its mixture taken as one Gaussian; (phones * 3, streams, dimensions)."""
    own = weights.transpose(2, 3, 0, 1)[..., None, :]
    centres = np.matmul(own, means[:, None])[..., 0, :]
    squares = np.matmul(own, (variances + means**2)[:, None])[..., 0, :]
    shape = (-1, *centres.shape[2:])
    return np.asarray(centres.reshape(shape)), np.asarray((squares - centres**2).reshape(shape))


def _terms(means: Singles, precision: Singles, constant: Singles) -> Singles:
    """The Gaussians as one product with (x squared, x, 1): (streams, phones, 2 * size + 1, gaussians)."""
    rows = np.concatenate([-0.5 * precision, means * precision, constant[..., None]], axis=3)
    return np.ascontiguousarray(rows.transpose(1, 0, 3, 2), np.float32)


def by_phone(scores: Singles) -> Singles:
    """Return (frames, phones) how well each phone fits, of its states the best one. scores: (frames, states)."""
    found: Singles = scores.reshape(len(scores), -1, STATES).max(axis=2)
    return found
