"""Other people who talk behind a voice: told from noise by what is heard between the words.

There noise stays as it is, but for its loudness; talk changes its colour from moment to moment, and has pitch (the
autocorrelation's, Rabiner 1977).
"""

import numpy as np
from numpy.typing import NDArray

from .features import mel_bands

Samples = NDArray[np.float32]
Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]

_PIECE, _BANDS = 320, 20
_LAGS = slice(38, 246)
_FEWEST, _MOST = 8, 400
_CHANGES, _PITCH = 1.0, 0.3
"""Of made lines, seven in a sound: talk at 5 to 20 dB changes by 1.29 to 1.41 and has pitch of 0.38 to 0.46; steady and
swelling noise by up to 0.72, up to 0.23."""


def others_talk(samples: Samples, between: Flags) -> bool:
    """Return whether people talk in the moments between the words. samples: 16 kHz; between: (pieces of 20 ms,) which
    these are."""
    at = np.flatnonzero(between)
    at = at[(at > 0) & (at < len(samples) // _PIECE - 1)]
    if len(at) < _FEWEST:
        return False
    at = at[:: -(-len(at) // _MOST)]
    windows = np.stack([samples[one * _PIECE - _PIECE : one * _PIECE + 2 * _PIECE] for one in at.tolist()])
    bands = np.log(mel_bands(windows[:, _PIECE : 2 * _PIECE])[:, :_BANDS] + 1e-9)
    colour = bands - bands.mean(axis=1, keepdims=True)
    return float(colour.std(axis=0).mean()) > _CHANGES and float(np.median(_pitch(windows))) > _PITCH


def _pitch(windows: Samples) -> Floats:
    """(windows,) how like itself each is a period later, at most."""
    centred = (windows - windows.mean(axis=1, keepdims=True)) * np.hanning(windows.shape[1])
    power = np.abs(np.fft.rfft(centred, 2048, axis=1)) ** 2
    like = np.fft.irfft(power, axis=1)
    return np.asarray(like[:, _LAGS].max(axis=1) / (like[:, 0] + 1e-12))
