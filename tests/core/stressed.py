"""Lines with stressed words, spoken by a synthesiser that was told which: what accents are tuned on and tested with."""

import functools
import subprocess
from pathlib import Path

from tinfork.core.acting.accents import accent_scores
from tinfork.core.sound import recording
from tinfork.core.sound.melody import melody_of
from tinfork.core.sound.recording import READ_RATE
from tinfork.core.speech.read import read

VOICES = ("en-us", "en-gb+f3")

# A word between stars is spoken with emphasis.
TUNE = (
    "Nobody *told* me the goat had a ticket.",
    "The *third* bill came before the second.",
    "We leave the pier at *dawn* and never later.",
    "Put the *lamp* on the other side of the mast.",
    "I counted *nine* boots and only eight feet.",
    "The fog is *thicker* than the soup tonight.",
    "Ask the *engineer* about the smell of herring.",
    "There was *never* a lighthouse on that rock.",
    "A *single* rope holds the whole ferry.",
    "He sold his *hat* to pay for the crossing.",
    "The machine *swallowed* my last coin.",
    "My mother rowed this *entire* fjord alone.",
)
HELD_OUT = (
    "Somebody has *lost* a boot on the deck.",
    "The *whole* crew is hiding below.",
    "Tell the captain it is *raining* fish again.",
    "That *goat* travels for nothing on Sundays.",
    "I *never* said the engine was broken.",
    "The lighthouse sent us *another* letter.",
    "Bring *both* lanterns and a blanket.",
    "This ticket was *stolen* from a gull.",
    "The harbour is *closed* until the morning.",
    "We *need* more salt and a *longer* rope.",
    "He paid for *seven* crossings with a *button*.",
    "The bell is *louder* than the horn.",
)


def spoken(path: Path, line: str, voice: str) -> Path:
    """A WAV of a line."""
    words = (f"<emphasis level='strong'>{w.strip('*.')}</emphasis>" if "*" in w else w for w in line.split())
    said = f"<speak>{' '.join(words)}</speak>"
    subprocess.run(["espeak-ng", "-v", voice, "-m", "-s", "150", "-w", str(path), said], check=True)
    return path


@functools.cache
def scored(folder: Path, lines: tuple[str, ...]) -> list[tuple[list[bool], list[float]]]:
    """For each line in each voice whether its words are stressed, and their scores."""
    found = []
    for line in lines:
        for voice in VOICES:
            sound = recording.load(spoken(folder / "line.wav", line, voice))
            (read_line,) = read(sound, line.replace("*", "")).lines
            melody = melody_of(sound.samples, READ_RATE)
            scores = accent_scores(read_line.words, [melody] * len(read_line.words))
            found.append((["*" in word for word in line.split()], scores))
    return found


def figures(scores: list[tuple[list[bool], list[float]]], least: float) -> tuple[float, float]:
    """Precision and recall when words are taken to be stressed from a score on."""
    pairs = [(is_so, score >= least) for truth, own in scores for is_so, score in zip(truth, own, strict=True)]
    right = sum(a and b for a, b in pairs)
    return right / max(1, sum(b for _, b in pairs)), right / max(1, sum(a for a, _ in pairs))
