"""Which words something is done on, and what: by how loud they are said, which way their pitch goes, where they stand
and what they say. No kind comes twice in a phrase before every other that suits has come once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from .speech import Phrase, Said, Speech
from .temper import LEAN, NARROW, NOD, ONE_BROW, RISE, SHAKE, SHRUG, TILT, Temper

_LEAST, _APART_SECONDS, _NOTHING_SECONDS = 0.35, 0.6, 1.1
"""A word from this score on has something done on it; two such words are no nearer; so far from one any has."""

_NO_MORE, _ASKED_MORE = 0.5, 0.4
"""By so much more words stand out that say no, or end a question."""

_USUAL = {NOD: 1.0, RISE: 0.6, TILT: 0.7, LEAN: 0.5, NARROW: 0.4, ONE_BROW: 0.5}
_RISES, _STRONG, _WEAK = 2.0, 1.5, 0.8
_NO = frozenset(["no", "not", "never", "nobody", "nothing", "none", "neither", "nowhere", "nor", "cannot", "without"])
_WHO_KNOWS = frozenset(["maybe", "perhaps", "whatever", "somehow", "somewhere", "guess", "suppose", "whoever"])
_RATHER = 1e-6
"""What is done where the head has only just said no."""


@dataclass(frozen=True)
class Stress:
    """What is done on a word. side: -1 or 1, to which side, where it has one; size: how much of it; until: the frame
    after the clause the word is in."""

    kind: str
    phrase: Phrase
    word: Said
    side: float
    size: float
    until: int


def stresses(
    phrase: Phrase, speech: Speech, temper: Temper, dice: np.random.Generator, liked: Mapping[str, float]
) -> list[Stress]:
    """Return what is done on the words of a phrase, in order. liked: by how much more often than others kinds were
    kept."""
    found: list[Stress] = []
    apart = speech.frames_of(_APART_SECONDS / temper.quick)
    for part in phrase.clauses(speech.fps):
        for word in _chosen(phrase, part, speech, temper, apart):
            if found and word.frame - found[-1].word.frame < apart:
                continue
            weights = {
                kind: weight * temper.favours.get(kind, 1.0) * liked.get(kind, 1.0)
                for kind, weight in _suiting(phrase, part, word).items()
            }
            kind = _drawn(weights, [one.kind for one in found], dice)
            size = temper.size * (0.55 + 0.45 * min(2.0, max(0.0, word.accent)))
            found.append(Stress(kind, phrase, word, float(dice.choice((-1, 1))), size, part[-1].end))
    return found


def _chosen(phrase: Phrase, part: Sequence[Said], speech: Speech, temper: Temper, apart: int) -> list[Said]:
    """The words of a clause that stand out, none nearer to another than so many frames, those that most do before
    others; where that leaves nothing for long, those that stand out most there."""
    long, least = speech.frames_of(_NOTHING_SECONDS / temper.often), _LEAST / temper.often
    scores = {word: word.accent + _more(phrase, word) for word in part}
    found: list[Said] = []
    for word in sorted(part, key=lambda word: -scores[word]):
        far = min((abs(word.frame - other.frame) for other in found), default=long)
        if far >= long or (far >= apart and scores[word] >= least):
            found.append(word)
    return sorted(found, key=lambda word: word.frame)


def _more(phrase: Phrase, word: Said) -> float:
    """By how much more than it is heard to a word stands out by what it says."""
    ends = word is phrase.words[-1] and "?" in word.mark
    return _NO_MORE * _says_no(word) + _ASKED_MORE * ends


def _says_no(word: Said) -> bool:
    own = word.text.lower().replace("’", "'")
    return own in _NO or own.endswith("n't")


def _suiting(phrase: Phrase, part: Sequence[Said], word: Said) -> dict[str, float]:
    """How well each kind suits a word."""
    own, last = word.text.lower(), part[-1]
    if _says_no(word):
        return {SHAKE: 1.0, NARROW: _RATHER}
    asked = last is phrase.words[-1] and "?" in last.mark
    if own in _WHO_KNOWS or (asked and word is last):
        return {SHRUG: 1.0, ONE_BROW: 0.4, RISE: 0.3}
    suits = dict(_USUAL)
    suits[RISE] += 1.0 * (word.rise > _RISES) + 0.5 * asked
    suits[NOD] += 0.6 * (word.rise < -_RISES) + 0.4 * (word is last)
    suits[LEAN] += 0.8 * (word.accent >= _STRONG) + 0.6 * ("!" in last.mark)
    suits[NARROW] += 0.5 * (word.accent < _WEAK) + 0.5 * ("…" in last.mark or "..." in last.mark)
    suits[ONE_BROW] += 0.6 * asked
    suits[TILT] += 0.4 * (word is part[0])
    return suits


def _drawn(weights: Mapping[str, float], done: Sequence[str], dice: np.random.Generator) -> str:
    """A kind by its weight that was not done yet; where all were, one that was not done last."""
    kinds = [kind for kind in weights if kind not in done] or [kind for kind in weights if kind != done[-1]]
    shares = np.array([weights[kind] for kind in kinds])
    return str(kinds[int(dice.choice(len(kinds), p=shares / shares.sum()))])
