"""Sounds that are no plain words, each with the times of what is beside it: held and sung vowels, laughter, a sob, a
breath, a cough, a word begun again and again, a word broken in two."""

from collections.abc import Sequence

import numpy as np
import scipy.signal

from tinfork.core.sound.recording import READ_RATE
from tinfork.web.demo import make_voices

from .conditions import with_samples
from .truth import Phone, Truth, flite

_FADE = 160


def held(line: Truth, number: int, seconds: float) -> Truth:
    """Return the line with one of its phones, by number, held for so long: its middle again and again, a period at a
    time."""
    phone = line.phones[number]
    middle, samples = _middle(line, number)
    longer = make_voices.held(samples, middle, seconds - (phone.end - phone.start), READ_RATE)
    return _moved(line, longer, middle / READ_RATE, (len(longer) - len(samples)) / READ_RATE)


def sung(text: str, voice: str, number: int, notes: Sequence[float]) -> Truth:
    """Return the line with one of its phones sung on several notes, each in Hz, for 0.4 s."""
    line = flite(text, voice)
    fade = np.linspace(0, 1, _FADE)
    more = np.zeros(_FADE)
    for note in notes:
        own = flite(text, voice, pitch=note)
        middle, _ = _middle(own, number)
        vowel = held(own, number, 1.0).recording.samples[middle : middle + round(0.4 * READ_RATE)]
        more = np.concatenate([more[:-_FADE], more[-_FADE:] * (1 - fade) + vowel[:_FADE] * fade, vowel[_FADE:]])
    middle, samples = _middle(line, number)
    longer = np.concatenate([samples[:middle], more[_FADE:], samples[middle:]])
    return _moved(line, longer, middle / READ_RATE, (len(more) - _FADE) / READ_RATE)


def _middle(line: Truth, number: int) -> tuple[int, np.ndarray]:
    phone = line.phones[number]
    return round((phone.start + phone.end) / 2 * READ_RATE), line.recording.samples


def with_sound(line: Truth, after: int, sound: np.ndarray, gap: float = 0.12) -> Truth:
    """Return the line with a sound between two of its phones, quiet on either side of it."""
    at = round(line.phones[after].end * READ_RATE)
    quiet = np.zeros(round(gap * READ_RATE))
    level = np.sqrt((line.recording.samples**2).mean()) / np.sqrt((sound**2).mean())
    more = np.concatenate([quiet, sound * level, quiet])
    samples = line.recording.samples
    return _moved(line, np.concatenate([samples[:at], more, samples[at:]]), at / READ_RATE, len(more) / READ_RATE)


def breath(seconds: float = 0.5) -> np.ndarray:
    """Return air drawn in."""
    noise = np.random.default_rng(5).standard_normal(round(seconds * READ_RATE))
    own = scipy.signal.lfilter(*scipy.signal.butter(2, [800 / 8000, 3500 / 8000], "band"), noise)
    return np.asarray(0.3 * own * np.hanning(len(own)))


def cough() -> np.ndarray:
    """Return two bursts that fall off at once."""
    t = np.arange(round(0.35 * READ_RATE)) / READ_RATE
    noise = np.random.default_rng(6).standard_normal(len(t))
    burst = np.exp(-t / 0.03) + 0.6 * (t > 0.18) * np.exp(-np.maximum(0, t - 0.18) / 0.04)
    return np.asarray(scipy.signal.lfilter(*scipy.signal.butter(2, [500 / 8000, 2500 / 8000], "band"), noise * burst))


def laughter(voice: str = "rms", pause: float = 0.0) -> np.ndarray:
    """Ha, ha, ha, ha, each weaker, with pauses of so many seconds between them."""
    ha = np.pad(_said("Ha.", voice, 0.22), (0, round(pause * READ_RATE)))
    return np.concatenate([ha * 0.8**n for n in range(5)])


def _said(text: str, voice: str, seconds: float) -> np.ndarray:
    """A word without the pauses around it, no longer than so."""
    line = flite(text, voice)
    first, end = (round(at * READ_RATE) for at in (line.phones[1].start, line.phones[-1].start))
    return np.asarray(line.recording.samples[first:end][: round(seconds * READ_RATE)])


def sob(voice: str = "slt") -> np.ndarray:
    """Return short breaths in, and a shaken vowel."""
    ah = _said("Ah.", voice, 0.3)
    shaken = ah * (0.6 + 0.4 * np.sin(2 * np.pi * 9 * np.arange(len(ah)) / READ_RATE))
    return np.concatenate([breath(0.15), np.zeros(600), breath(0.15), np.zeros(600), shaken])


def broken(line: Truth, after: int, seconds: float = 0.5) -> Truth:
    """Return the line with a pause in it after a phone."""
    at = round(line.phones[after].end * READ_RATE)
    samples = line.recording.samples
    quiet = np.zeros(round(seconds * READ_RATE))
    return _moved(line, np.concatenate([samples[:at], quiet, samples[at:]]), at / READ_RATE, seconds)


def _moved(line: Truth, samples: np.ndarray, at: float, by: float) -> Truth:
    """The line with other samples, what comes after a time so much later."""
    later = [
        Phone(p.ipa, p.start + (by if p.start >= at - 1e-6 else 0), p.end + (by if p.end > at + 1e-6 else 0))
        for p in line.phones
    ]
    return Truth(line.text, with_samples(line, samples).recording, tuple(later))
