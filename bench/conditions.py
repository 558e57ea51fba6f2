"""What happens to speech on its way: noise, a room's echo, silence around it."""

import numpy as np

from tinfork.core.sound.recording import READ_RATE, Recording

from .truth import Phone, Truth

_ECHO_SECONDS, _ECHO_SHARE = 0.35, 0.5


def with_samples(line: Truth, samples: np.ndarray, later: float = 0.0) -> Truth:
    """Return the line with other samples, its phones some seconds later."""
    moved = tuple(Phone(p.ipa, p.start + later, p.end + later) for p in line.phones)
    return Truth(line.text, Recording(samples.astype(np.float32), len(samples) / READ_RATE, READ_RATE), moved)


def over(line: Truth, under: np.ndarray, decibels: float) -> Truth:
    """Return the line over another sound as long as it, that lies so far below it."""
    samples = line.recording.samples
    level = np.sqrt((samples**2).mean() / (under**2).mean()) * 10 ** (-decibels / 20)
    return with_samples(line, samples + level * under)


def noisy(line: Truth, decibels: float, dice: np.random.Generator | None = None) -> Truth:
    """Return the line in white noise at a signal-to-noise ratio; dice: by which, else always the same."""
    samples = line.recording.samples
    level = np.sqrt((samples**2).mean()) * 10 ** (-decibels / 20)
    noise = (dice or np.random.default_rng(1)).standard_normal(len(samples)) * level
    return with_samples(line, samples + noise)


def echoing(line: Truth) -> Truth:
    """Return the line in a bare room: an echo that dies away by 60 dB in 350 ms, half as strong as the voice itself."""
    samples = line.recording.samples
    t = np.arange(int(_ECHO_SECONDS * READ_RATE)) / READ_RATE
    tail = np.random.default_rng(2).standard_normal(len(t)) * 10 ** (-3 * t / _ECHO_SECONDS)
    tail *= _ECHO_SHARE / np.sqrt((tail**2).sum())
    tail[0] = 1.0
    return with_samples(line, np.convolve(samples, tail)[: len(samples)])


def padded(line: Truth, before: float = 1.5, after: float = 4.0) -> Truth:
    """Return the line amid perfect silence, as in a file where others speak."""
    ends = [np.zeros(int(seconds * READ_RATE)) for seconds in (before, after)]
    return with_samples(line, np.concatenate([ends[0], line.recording.samples, ends[1]]), before)
