"""Speech in rooms as they are: made sentences, every voice of both synthesisers, at several speeds, and what happens to
them on their way. What is fitted is fitted on one half of them, and told of the other."""

import random
from collections.abc import Callable, Iterator, Sequence

import numpy as np
import scipy.signal

from tinfork.core.sound.recording import READ_RATE

from . import acted, alignment, made, truth
from .conditions import noisy, over, with_samples
from .truth import Truth

TUNE, TEST = 101, 202
ESPEAK_VOICES = ("en-us", "en-gb", "en-us+f3")
_FLITE_STRETCH, _ESPEAK_SPEED = (0.8, 1.0, 1.0, 1.3), (130, 160, 160, 210)
_TALKERS = 6

Way = Callable[[Truth, np.random.Generator], Truth]


def lines(seed: int, count: int, voices: Sequence[str] = (*truth.FLITE_VOICES, *ESPEAK_VOICES)) -> Iterator[Truth]:
    """So many made sentences, the voices in turn, each at one of several speeds; the same for the same seed."""
    chance = random.Random(seed)
    for number, text in enumerate(made.sentences(seed, count)):
        yield spoken(text, voices[number % len(voices)], chance)


def spoken(text: str, voice: str, chance: random.Random) -> Truth:
    """Return a line of a voice of either synthesiser, at one of several speeds."""
    if voice in truth.FLITE_VOICES:
        return truth.flite(text, voice, chance.choice(_FLITE_STRETCH))
    return truth.espeak(text, voice, chance.choice(_ESPEAK_SPEED))


def room(line: Truth, dice: np.random.Generator, seconds: float = 0.5, share: float = 0.7) -> Truth:
    """Return the line in a bare room: an echo that dies away by 60 dB in so many seconds. share: of the voice itself,
    by its root mean square."""
    t = np.arange(int(seconds * READ_RATE)) / READ_RATE
    tail = dice.standard_normal(len(t)) * 10 ** (-3 * t / seconds)
    tail[: int(0.002 * READ_RATE)] = 0
    tail *= share / np.sqrt((tail**2).sum())
    tail[0] = 1.0
    samples = line.recording.samples
    return with_samples(line, scipy.signal.fftconvolve(samples, tail)[: len(samples)])


def among_talkers(others: Sequence[Truth], decibels: float = 10.0) -> Way:
    """Return what puts a line among six who say other lines, so far below it in all."""

    def way(line: Truth, dice: np.random.Generator) -> Truth:
        samples = line.recording.samples
        babble = np.zeros(len(samples))
        for other in dice.choice(len(others), _TALKERS, replace=False):
            own = others[other].recording.samples
            again = np.tile(own, len(samples) // len(own) + 2)
            babble += np.roll(again, int(dice.integers(len(own))))[: len(samples)] / np.sqrt((own**2).mean())
        return over(line, babble, decibels)

    return way


def saturated(line: Truth, dice: np.random.Generator, decibels: float = 15.0) -> Truth:
    """Return the line shouted, by so much, into a recorder that rounds off what is loud: no sample is cut."""
    samples = line.recording.samples
    driven = np.tanh(samples / np.abs(samples).max() * 10 ** (decibels / 20))
    return with_samples(line, 0.8 * driven)


def compressed(line: Truth, dice: np.random.Generator) -> Truth:
    """Return the line with what is louder than 30 dB under its peak made quieter, 5:1, within 5 ms, and let go of
    within 100 ms."""
    samples = line.recording.samples.astype(float)
    level = np.abs(samples)
    held, rise, fall = np.empty_like(level), np.exp(-1 / (0.005 * READ_RATE)), np.exp(-1 / (0.1 * READ_RATE))
    now = 0.0
    for at, own in enumerate(level.tolist()):
        part = rise if own > now else fall
        now = part * now + (1 - part) * own
        held[at] = now
    over = np.maximum(0.0, 20 * np.log10(held / level.max() + 1e-9) + 30)
    out = samples * 10 ** (-over * (1 - 1 / 5) / 20)
    return with_samples(line, 0.8 * out / np.abs(out).max())


def by_telephone(line: Truth, dice: np.random.Generator) -> Truth:
    """Return what is left of the line between 300 and 3400 Hz."""
    parts = scipy.signal.butter(6, (300, 3400), "bandpass", fs=READ_RATE, output="sos")
    return with_samples(line, scipy.signal.sosfilt(parts, line.recording.samples))


def over_music(line: Truth, dice: np.random.Generator) -> Truth:
    """Return the line over chords with a beat, 10 dB below it."""
    return acted.over_music(line)


def in_noise(line: Truth, dice: np.random.Generator, decibels: float = 10.0) -> Truth:
    """Return the line in white noise, so far below it."""
    return noisy(line, decibels, dice)


def ways(others: Sequence[Truth]) -> dict[str, Way]:
    """Return what may happen to a line. others: what those say who talk beside it."""
    return {
        "plain": lambda line, dice: line,
        "room": room,
        "talkers": among_talkers(others),
        "saturated": saturated,
        "compressed": compressed,
        "telephone": by_telephone,
        "music": over_music,
        "noise": in_noise,
    }


def table(count: int = 140) -> None:
    """A row for each way and each synthesiser: the half that was fitted on, and the half that was not."""
    print("In rooms as they are: made sentences with their script, all voices of both synthesisers, several speeds")
    print(f"{'way':<12}{'spoken by':<10}{'lines':<6}{'median':>8}{'mean':>8}{'in 1 fr':>8}{'failed':>7}{'speed':>9}")
    for half, seed in (("tune", TUNE), ("test", TEST)):
        for who, voices in (("flite", truth.FLITE_VOICES), ("espeak", ESPEAK_VOICES)):
            own = list(lines(seed, count, voices))
            for name, way in ways(own).items():
                heard = [way(line, np.random.default_rng([seed, number])) for number, line in enumerate(own)]
                print(
                    f"{name:<12}{who:<10}{half:<6}{alignment.measure(heard, alignment.whole_reading).row()}", flush=True
                )
