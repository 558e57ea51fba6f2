"""How many words are recognised wrongly, by whom they are spoken and in what: script/bench heard."""

import time
from collections.abc import Callable, Iterable, Sequence

import numpy as np

from tinfork.core.sound.recording import READ_RATE, Recording
from tinfork.core.speech import recognise, words
from tinfork.core.speech.unscripted import Listening, read_unscripted

from . import acted, alone, conditions, sentences, truth
from .truth import Truth

_BED_SECONDS = 20
_ESPEAK = ("en-us", "en-gb", "en-gb-scotland")
_NAMES = ("Skerrick", "Brannoch", "Ottaway", "Querrin", "Vessna", "Marlowick")
_CALLED = (
    "{0}, hold the rope and wait for {1}.",
    "Nobody told {1} where {0} hid it.",
    "Good morning, {0}. Is {1} here?",
)


def spoken(text: str) -> list[str]:
    """The words of a text as they are said, in lower case."""
    return [one.lower() for token in words.tokens(text, "en") for one in token.spoken]


def wrong(right: Sequence[str], heard: Sequence[str]) -> int:
    """How many words must be changed, put in or left out to come from one row to the other (Levenshtein)."""
    row = np.arange(len(heard) + 1)
    for i, word in enumerate(right, 1):
        before, row[0] = row.copy(), i
        for j, other in enumerate(heard, 1):
            row[j] = min(before[j] + 1, row[j - 1] + 1, before[j - 1] + (word != other))
    return int(row[-1])


Condition = Callable[[Truth], Truth]


def as_it_is(line: Truth) -> Truth:
    """Return the line."""
    return line


def share(lines: Iterable[Truth], hints: Sequence[str] = ()) -> tuple[float, float, float]:
    """Of the words said, % that are wrong; of frames at 24 fps, % in the right class; how many times faster than they
    last they were read."""
    errors, total, seconds, begun = 0, 0, 0.0, time.monotonic()
    right = []
    for line in lines:
        found = read_unscripted(line.recording, Listening(hints=hints))
        own = spoken(line.text)
        errors += wrong(own, spoken(" ".join(one.text for one in found.heard)))
        total += len(own)
        seconds += line.recording.seconds
        right.append(alone.of_reading(found.reading) == alone.of_truth(line))
    return 100 * errors / total, 100 * np.mean(np.concatenate(right)), seconds / (time.monotonic() - begun)


def _groups(texts: Sequence[str]) -> dict[str, Callable[[], list[Truth]]]:
    """Each voice's lines in one sound, as they are recorded."""

    def flite(
        change: Condition = as_it_is, say: Callable[[str, str], Truth] = truth.flite
    ) -> Callable[[], list[Truth]]:
        return lambda: [change(alone.in_one([say(text, voice) for text in texts])) for voice in truth.FLITE_VOICES]

    return {
        "flite": flite(),
        "eSpeak": lambda: [alone.in_one([truth.espeak(text, voice) for text in texts]) for voice in _ESPEAK],
        "in noise, 10 dB": flite(lambda line: conditions.noisy(line, 10)),
        "over music": flite(acted.over_music),
        "small": flite(say=lambda text, voice: acted.sized(text, voice, acted.SQUEAKY)),
        "large": flite(say=lambda text, voice: acted.sized(text, voice, acted.HUGE)),
        "shouted": flite(acted.shouted),
        "whispered": flite(acted.whispered),
    }


def named(hints: Sequence[str]) -> tuple[int, int]:
    """How often invented names are said, by three voices, and how often heard as they are written."""
    said = right = 0
    for voice, say in (("slt", truth.flite), ("awb", truth.flite), ("en-us", truth.espeak)):
        lines = [
            _CALLED[n % 3].format(name, _NAMES[n % len(_NAMES) - 1]) for n, name in enumerate((*_NAMES, *_NAMES[::-1]))
        ]
        sound = alone.in_one([say(line, voice) for line in lines])
        heard = spoken(" ".join(one.text for one in read_unscripted(sound.recording, Listening(hints=hints)).heard))
        there = spoken(sound.text)
        for name in map(str.lower, _NAMES):
            said += there.count(name)
            right += min(there.count(name), heard.count(name))
    return said, right


def table() -> None:
    """A row for each way of speaking, tune and test lines; then names, and what is made up over what is no speech."""
    print("From sound alone: words, % wrong; frames, % in the right class; times real time")
    for half, texts in (("tune", sentences.ENGLISH[0::2]), ("test", sentences.ENGLISH[1::2])):
        for name, lines in _groups(texts).items():
            errors, frames, speed = share(lines())
            print(f"{name:<18}{half:<6}{errors:8.1f}{frames:8.1f}{speed:8.1f}x", flush=True)
    for how, hints in (("not told of", ()), ("told of", _NAMES)):
        said, heard_right = named(hints)
        print(f"names it is {how}: {heard_right} of {said} heard as they are written", flush=True)
    for name, samples in nothing(600.0).items():
        found = read_unscripted(Recording(samples, len(samples) / READ_RATE, READ_RATE), Listening())
        made_up = sum(len(spoken(one.text)) for one in found.heard)
        print(f"{name:<18}words made up in ten minutes: {made_up}", flush=True)
    recognise.let_go()


def nothing(seconds: float) -> dict[str, np.ndarray]:
    """Sounds in which nobody speaks."""
    count = round(seconds * READ_RATE)
    noise = 0.05 * np.random.default_rng(4).standard_normal(count)
    chords = acted.bed(_BED_SECONDS * READ_RATE, True)
    music = np.tile(0.1 * chords / np.sqrt((chords**2).mean()), count // len(chords) + 1)[:count]
    return {name: one.astype(np.float32) for name, one in (("silence", 0 * noise), ("noise", noise), ("music", music))}
