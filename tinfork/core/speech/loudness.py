"""Sound in which no speech is found: one vowel for each swell of it, the brighter the wider; none in silence."""

import itertools

import numpy as np
from scipy.ndimage import uniform_filter1d

from ..sound.features import Singles
from ..sound.recording import READ_RATE, Recording
from .read import SILENT_LEVEL
from .reading import Sound

_SURE = 0.2
_OPEN_ABOVE_DB, _PIECE = 25.0, 320
_LEAST_DIP_DB = 3.0
_VOWEL_BY_BRIGHTNESS = ((500, "u"), (900, "o"), (1500, "ɑ"), (2300, "ɛ"), (8001, "i"))


def swells(recording: Recording) -> list[list[Sound]]:
    """Return the vowels, those without a pause between them together."""
    if recording.peak < SILENT_LEVEL:
        return []
    samples = recording.samples
    pieces = samples[: max(1, len(samples) // _PIECE) * _PIECE]
    pieces = np.pad(pieces, (0, -len(pieces) % _PIECE)).reshape(-1, _PIECE)
    levels = 10 * np.log10(uniform_filter1d((pieces**2).mean(axis=1), 3) + 1e-12)
    open_ = levels > levels.max() - _OPEN_ABOVE_DB
    found = []
    edges = np.flatnonzero(np.diff(np.concatenate([[False], open_, [False]]).astype(int)))
    for first, last in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        cuts = [first, *_dips(levels, first, last), last]
        found.append([_swell(recording, samples, a, b) for a, b in itertools.pairwise(cuts)])
    return found


def _dips(levels: Singles, first: int, last: int) -> list[int]:
    """Where the loudness dips between two swells."""
    cuts: list[int] = []
    peak, lowest, at = levels[first], levels[first], first
    for piece in range(first, last):
        if levels[piece] < lowest:
            lowest, at = levels[piece], piece
        elif min(peak, levels[piece]) - lowest >= _LEAST_DIP_DB and at > (cuts[-1] if cuts else first) + 2:
            cuts.append(at)
            peak = lowest = levels[piece]
        if levels[piece] > peak:
            peak = lowest = levels[piece]
    return [cut for cut in cuts if cut < last - 1]


def _swell(recording: Recording, samples: Singles, first: int, last: int) -> Sound:
    piece = samples[first * _PIECE : last * _PIECE]
    power = np.abs(np.fft.rfft(piece * np.hanning(len(piece)))) ** 2
    hz = np.fft.rfftfreq(len(piece), 1 / READ_RATE)
    centre = float((power * hz).sum() / (power.sum() + 1e-12))
    vowel = next(ipa for top, ipa in _VOWEL_BY_BRIGHTNESS if centre < top)
    start, end = (min(round(n * _PIECE / READ_RATE, 6), recording.seconds) for n in (first, last))
    return Sound(vowel, start, end, _SURE, 1, recording.level(start, end))
