"""Where a sound is no louder than its background for a while: there the search is drawn to silence.

A model of phones has no word for the hiss of a room: to it a long s, or any phone that fits a little better than
silence does, may last for minutes. Loudness knows better.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import binary_erosion, binary_opening, uniform_filter1d

from ..sound.features import Singles
from .model import STATES, AcousticModel

LEAST_RANGE = 0.6
"""How far the loudest moment stands above the quietest, in nats, where a sound has speech in it at all."""

_SMOOTH_HOPS = 6
_QUIET_SHARE = 0.2
_LEAST_FRAMES, _EDGE_FRAMES = 30, 10
_BONUS = 4.0


def _loudness(energy: Singles) -> NDArray[np.float64]:
    """Smoothed log energy for every hop; energy: as refine.bands gives it."""
    return np.asarray(uniform_filter1d(np.logaddexp.reduce(energy, axis=1), _SMOOTH_HOPS), np.float64)


def stands_out(energy: Singles) -> bool:
    """Return whether anything in a sound is louder than the rest, as speech is."""
    loudness = _loudness(energy)
    return bool(loudness.max() - np.quantile(loudness, 0.05) > LEAST_RANGE)


def drawn_to_silence(scores: Singles, energy: Singles, acoustic: AcousticModel) -> Singles:
    """Return scores in which silence fits better where the sound stays quiet; (frames, states). The sound must stand
    out."""
    loudness = _loudness(energy)[: 2 * len(scores)]
    by_frame = np.pad(loudness, (0, 2 * len(scores) - len(loudness)), mode="edge").reshape(-1, 2).mean(axis=1)
    low, high = np.quantile(by_frame, 0.05), by_frame.max()
    quiet = by_frame < low + _QUIET_SHARE * (high - low)
    long = binary_opening(quiet, np.ones(_LEAST_FRAMES))
    inside = binary_erosion(long, np.ones(2 * _EDGE_FRAMES + 1), border_value=1)
    first = acoustic.index("SIL") * STATES
    scores[inside, first : first + STATES] += _BONUS
    return scores
