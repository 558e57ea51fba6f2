"""How long somebody's throat is, told from how they sound: a mouse has formants above the usual ones, a giant below.

Vocal tract length normalisation (Lee & Rose 1996): of some factors by which the filters of the features are moved, the
one in whose features the sound is most like speech. Told without words: by the likelihood of the nearest Gaussian of
any phone.
"""

import functools
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from ..sound.features import Singles, cepstra_of, spoken_frames
from .model import AcousticModel
from .steady import held

_USUAL_STEP = 6
WARPS = tuple(round(1.08 ** (step - _USUAL_STEP), 3) for step in range(2 * _USUAL_STEP + 1))
USUAL = 1.0
ALIKE = 1.1
"""Voices whose formants lie no farther apart are read alike."""

_FIRST, _AS_WELL = (2, _USUAL_STEP, 10), 0.5
_MOST_FRAMES, _EVERY = 1500, 2
LEAST_FRAMES = 20
_ODD, _ODD_IN_NOISE = 0.02, 0.2
_CLEAN_DB, _NOISY_DB, _AUDIBLE_DB, _QUIET_SHARE = 30.0, 18.0, 60.0, 0.12


def warps_of(power: Singles, acoustic: AcousticModel, there: NDArray[np.bool_] | None = None) -> tuple[float, ...]:
    """Return by how much the formants of a voice lie higher than usual, one of WARPS, the usual for too little speech;
    after it what else may be.

    power: as features.spectra gives it; there: (frames,) where the voice is heard, if others are heard too.
    """
    static = cepstra_of(power, USUAL)
    chosen = spoken_frames(static[:, 0]) & ~held(static, acoustic.spread)
    frames = np.flatnonzero(chosen if there is None else chosen & there)
    if len(frames) < LEAST_FRAMES:
        return (USUAL,)
    spoken = power[frames[:: max(1, len(frames) // _MOST_FRAMES)]]
    odd = _odd_in_noise(power)

    @functools.cache
    def like(step: int) -> float:
        return acoustic.likeness(cepstra_of(spoken, WARPS[step]), _EVERY)

    def best_of(steps: Iterable[int]) -> int:
        there = (step for step in steps if 0 <= step < len(WARPS))
        return max(there, key=lambda step: like(step) - odd * abs(step - _USUAL_STEP))

    best = best_of(_FIRST)
    while (nearer := best_of((best, best - 2, best + 2))) != best:
        best = nearer
    best = best_of((best, best - 1, best + 1))
    others = (one for one in _FIRST if not 1 / ALIKE < WARPS[one] / WARPS[best] < ALIKE)
    return WARPS[best], *(WARPS[one] for one in others if like(one) > max(map(like, _FIRST)) - _AS_WELL)


def _odd_in_noise(power: Singles) -> float:
    """What a step away from the usual has to gain. In noise, where everything is more like the speech of a small throat
    than it is, more."""
    level = 10 * np.log10(power.sum(axis=1) + 1e-9)
    loud = float(np.quantile(level, 0.95))
    over = loud - float(np.quantile(level[level > loud - _AUDIBLE_DB], _QUIET_SHARE))
    noisy = (_CLEAN_DB - over) / (_CLEAN_DB - _NOISY_DB)
    return _ODD + (_ODD_IN_NOISE - _ODD) * min(1.0, max(0.0, noisy))
