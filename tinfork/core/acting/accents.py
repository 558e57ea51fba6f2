"""Which words of a line are stressed, from how high, how loud and how long they are said."""

from collections.abc import Sequence
from statistics import median

import numpy as np

from ..sound.melody import Melody
from ..speech.reading import Word

STRESSED = 1.0
"""From this score on a word is surely stressed."""

_SMALL_WORDS = """
a an and are as at be been but by can could did do does for from had has have he her him his i if in into is it its me
my no nor of on or our she should so than that the their them then they this to us was we were what when where which
who will with would you your
"""
_SMALL = frozenset(_SMALL_WORDS.split())
_LOUD_DB, _FALL_SEMITONES, _LONG = 5.0, 2.0, 0.35
_WEIGHTS = (1.55, 0.22, 0.22)
_SMALL_LESS = 0.9
_OCTAVE = 12.0


def accent_scores(words: Sequence[Word], melodies: Sequence[Melody]) -> list[float]:
    """Return how strongly each word of a line stands out, in the order of the line: from STRESSED on it is stressed.
    melodies: of each word's sound, in the time the word is in. What is not said has 0."""
    said = [n for n, word in enumerate(words) if word.said and word.end > word.start]
    found = [0.0] * len(words)
    if len(said) < 2:
        return [STRESSED if n in said else 0.0 for n in range(len(words))]
    rows = np.array([_measured(words[n], melodies[n]) for n in said])
    loud = (rows[:, 0] - np.median(rows[:, 0])) / _LOUD_DB
    falls = np.append(rows[:-1, 1] - rows[1:, 1], np.nan)
    falls = np.nan_to_num((falls - np.nanmedian(falls)) / _FALL_SEMITONES) if np.isfinite(falls).any() else 0.0 * loud
    long = np.log(rows[:, 2] / np.median(rows[:, 2])) / _LONG
    score = _WEIGHTS[0] * loud + _WEIGHTS[1] * np.clip(falls, -1, 1) + _WEIGHTS[2] * np.clip(long, -1, 1)
    for row, n in enumerate(said):
        small = words[n].text.lower().strip(".,!?;:") in _SMALL
        found[n] = round(float(score[row]) - _SMALL_LESS * small, 3)
    return found


def pitch_rises(words: Sequence[Word], melodies: Sequence[Melody]) -> list[float]:
    """Return by how many semitones the pitch rises within each word of a line, from its first third to its last; 0
    where it has none."""
    return [_rise(word, melody) for word, melody in zip(words, melodies, strict=True)]


def _rise(word: Word, melody: Melody) -> float:
    own = melody.between(word.start, word.end).pitch
    third = max(1, len(own) // 3)
    first, last = (part[part > 0] for part in (own[:third], own[-third:]))
    if not len(first) or not len(last):
        return 0.0
    return round(float(np.clip(12 * np.log2(median(last.tolist()) / median(first.tolist())), -_OCTAVE, _OCTAVE)), 2)


def _measured(word: Word, melody: Melody) -> tuple[float, float, float]:
    """Loudness in dB, height in semitones, seconds a sound."""
    own = melody.between(word.start, word.end)
    voiced = own.pitch[own.pitch > 0]
    high = 12 * np.log2(median(voiced.tolist()) / 100) if len(voiced) > 2 else np.nan
    sounds = max(1, len(word.sounds))
    return float(own.loudness.max(initial=-120.0)), float(high), (word.end - word.start) / sounds
