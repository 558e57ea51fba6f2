"""Voices as characters have them, made from plain ones whose sounds are timed: squeaks, giants, shouts, whispers, and
music under them."""

from collections.abc import Callable

import numpy as np
import scipy.signal
import soxr

from tinfork.core.sound.clipped import restored
from tinfork.core.sound.recording import READ_RATE, Recording
from tinfork.core.sound.survey import LISTEN_RATE

from .conditions import over, with_samples
from .truth import Phone, Truth, flite

SQUEAKY, HUGE = 1.4, 0.75
_DRIVE_DB = 15.0
_BED_DB = 10.0
_ORDER, _STEP = 18, 160

Acted = Callable[[str, str], Truth]


def sized(text: str, voice: str, factor: float) -> Truth:
    """Return a line said by somebody smaller, or larger: all formants and the pitch times a factor, as fast as
    before."""
    slow = flite(text, voice, factor)
    samples = soxr.resample(slow.recording.samples, factor, 1.0).astype(np.float32)
    phones = tuple(Phone(phone.ipa, phone.start / factor, phone.end / factor) for phone in slow.phones)
    return Truth(text, Recording(samples, len(samples) / READ_RATE, READ_RATE), phones)


def shouted(line: Truth) -> Truth:
    """Driven into the top of what can be recorded, by a recorder at 48 kHz, and taken in as the product takes it in."""
    samples = soxr.resample(line.recording.samples, READ_RATE, LISTEN_RATE)
    driven = np.clip(samples / np.abs(samples).max() * 10 ** (_DRIVE_DB / 20), -1, 1).astype(np.float32)
    return with_samples(line, soxr.resample(restored(driven, LISTEN_RATE), LISTEN_RATE, READ_RATE))


def whispered(line: Truth) -> Truth:
    """Return the same mouth with breath instead of a voice: linear prediction (Makhoul 1975), its residual made
    noise."""
    samples = line.recording.samples.astype(float)
    noise = np.random.default_rng(3).standard_normal(len(samples))
    window = np.hanning(2 * _STEP)
    out = np.zeros(len(samples) + 2 * _STEP)
    for at in range(0, len(samples) - 2 * _STEP, _STEP):
        piece = samples[at : at + 2 * _STEP] * window
        if np.abs(piece).max() < 1e-5:
            continue
        own = np.correlate(piece, piece, "full")[len(piece) - 1 : len(piece) + _ORDER]
        own[0] *= 1 + 1e-6
        poles = np.concatenate([[1.0], scipy.linalg.solve_toeplitz(own[:-1], -own[1:])])
        left = np.sqrt((scipy.signal.lfilter(poles, [1.0], piece) ** 2).mean())
        breath = scipy.signal.lfilter([left], poles, noise[at : at + 2 * _STEP])
        out[at : at + 2 * _STEP] += breath * window
    return with_samples(line, (out[: len(samples)] / max(1.0, np.abs(out).max())))


def over_music(line: Truth, decibels: float = _BED_DB, beat: bool = True) -> Truth:
    """Return chords that change twice a second, with a beat or without, so far below the voice."""
    return over(line, bed(len(line.recording.samples), beat), decibels)


def bed(length: int, beat: bool) -> np.ndarray:
    """So many samples of chords, with a beat or without."""
    dice, t = np.random.default_rng(4), np.arange(length) / READ_RATE
    found = np.zeros(length)
    for begin in np.arange(0, length / READ_RATE, 0.5):
        root = 110.0 * 2 ** (dice.choice([0, 3, 5, 7, 10]) / 12)
        for step in (0, int(dice.choice([3, 4])), 7, 12):
            hz = root * 2 ** (step / 12)
            own = np.maximum(0, t - begin)
            falls = (t >= begin) * np.minimum(1, own / 0.01) * np.exp(-own / 0.6)
            for partial in range(1, 9):
                found += falls * np.sin(2 * np.pi * hz * partial * own) / partial**1.2
        hit = (t >= begin) * np.exp(-np.maximum(0, t - begin) / 0.03)
        found += 1.5 * beat * hit * dice.standard_normal(length)
    return found


VOICES: dict[str, Acted] = {
    "plain": flite,
    "squeaky": lambda text, voice: sized(text, voice, SQUEAKY),
    "huge": lambda text, voice: sized(text, voice, HUGE),
    "shouted": lambda text, voice: shouted(flite(text, voice)),
    "whispered": lambda text, voice: whispered(flite(text, voice)),
    "over music": lambda text, voice: over_music(flite(text, voice)),
    "over chords": lambda text, voice: over_music(flite(text, voice), beat=False),
    "squeak, shouted": lambda text, voice: shouted(sized(text, voice, SQUEAKY)),
    "giant over music": lambda text, voice: over_music(sized(text, voice, HUGE)),
    "giant, shouted": lambda text, voice: shouted(sized(text, voice, HUGE)),
    "squeak whispered over music": lambda text, voice: over_music(whispered(sized(text, voice, SQUEAKY))),
}
"""What each is made of a text and one of flite's voices by."""
