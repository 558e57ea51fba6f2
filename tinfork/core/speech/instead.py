"""What may have been said where a recogniser heard something else than is written: what it heard, or a part of that;
what is written but for a word; or a word of the dictionary in place of one, apart by a consonant that was heard, as
rare words are taken for others. Each is searched for in the sound, which decides."""

import functools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from ..sound.features import STEP_SECONDS, Singles
from . import model, pronounce
from .align import Phones, Span, best_path, build_graph, fewest_frames
from .phones import from_arpabet
from .words import is_english


@dataclass(frozen=True)
class SpokenWord:
    """A word of a script, or of what was heard. line and number: which; key: how it is said, of its ways the first;
    start and end: where it was heard, in seconds."""

    line: int
    number: int
    text: str
    key: str
    variants: tuple[Phones, ...]
    language: str = ""
    start: float = 0.0
    end: float = 0.0


Words = Sequence[SpokenWord]

BETTER = 4.0
"""By how much, in log likelihood, what was heard must fit better than what is written. bench/otherwise.py: where the
recogniser misheard it fits worse, or no better (the best of 17 by 0); what was said otherwise by 5 to 1,800."""

_PARTLY, _UNHEARD = 4.0, 10.0
"""By how much more, where a part of it was heard, or where nobody heard the word."""

_VOWELS = "AEIOU"
_MOST_WORDS, _NEAREST = 3, 4
"""Of so many words at the most on both sides parts are tried; so many words of the dictionary are, for each."""


@dataclass(frozen=True)
class Instead:
    """What was said in place of some words. first and last: which of them, last exclusive; words: what was said."""

    first: int
    last: int
    words: tuple[SpokenWord, ...]


@dataclass(frozen=True)
class Excerpt:
    """A piece of sound as the search goes by it, (frames, states). begin: where it lies, in seconds; before and after:
    the words at its ends, of which nobody doubts that they are said."""

    scores: Singles
    begin: float
    before: Words
    after: Words

    @functools.cached_property
    def by_phone(self) -> Singles:
        """(frames, phones) how well each fits."""
        return model.by_phone(self.scores)

    def path(self, words: Words) -> list[Span] | None:
        """Return where the phones of words lie, and of those at the ends; None where there is no room for them."""
        every = self._with_ends(words)
        if fewest_frames(every) > len(self.scores):
            return None
        return best_path(self.scores, build_graph(every, model.load()))

    def fit(self, words: Words) -> float:
        """Return the log likelihood of words, those at the ends with them, by their phones; very little where there is
        no room for them."""
        if not self._with_ends(words):
            return float(self.by_phone[:, model.load().index("SIL")].sum())
        spans = self.path(words)
        if spans is None:
            return -1e9
        return sum(float(self.by_phone[int(span.start) : int(span.end), span.phone].sum()) for span in spans)

    def _with_ends(self, words: Words) -> list[tuple[Phones, ...]]:
        return [one.variants for one in (*self.before, *words, *self.after)]


def said_instead(stretch: Excerpt, written: Words, heard: Words) -> Instead | None:
    """Return what was said in a stretch in place of words that are written; None where these fit as well."""
    as_written = stretch.fit(written)
    best, most = None, BETTER
    seen = {_keys(written)}
    for guess, handicap in _guesses(stretch, written, heard):
        words = (*written[: guess.first], *guess.words, *written[guess.last :])
        if _keys(words) not in seen:
            seen.add(_keys(words))
            gain = stretch.fit(words) - as_written - handicap
            if gain > most:
                best, most = guess, gain
    return best


def _keys(words: Words) -> tuple[str, ...]:
    return tuple(one.key for one in words)


def _guesses(stretch: Excerpt, written: Words, heard: Words) -> Iterator[tuple[Instead, float]]:
    """What may have been said, and by how much better it must fit."""
    many = len(written)
    yield Instead(0, many, tuple(heard)), 0.0
    if max(many, len(heard)) > _MOST_WORDS:
        return
    for at in range(many + 1):
        for cut in range(len(heard) + 1):
            yield Instead(at, many, tuple(heard[cut:])), _PARTLY
            yield Instead(0, at, tuple(heard[:cut])), _PARTLY
    for at in range(many):
        yield Instead(at, at + 1, ()), _PARTLY
    if written and is_english(written[0].language):
        sounds = {phone for one in heard for way in one.variants for phone in way}
        for at, word in _a_sound_apart(stretch, written, sounds):
            yield Instead(at, at + 1, (word,)), _UNHEARD


def _a_sound_apart(stretch: Excerpt, written: Words, sounds: set[int]) -> Iterator[tuple[int, SpokenWord]]:
    """Words of the dictionary that differ from one that is written in a consonant, which is among sounds that were
    heard, those that seem to fit best: by what the sound is like where the written one was found. Vowels are said in
    too many ways."""
    spans = stretch.path(written)
    if spans is None:
        return
    for at, word in enumerate(written):
        own = [span for span in spans if span.word == len(stretch.before) + at]
        phones = tuple(span.phone for span in own)
        start, end = (stretch.begin + frame * STEP_SECONDS for frame in (own[0].start, own[-1].end))
        found = []
        for number, span in enumerate(own):
            if model.load().phones[span.phone][0] in _VOWELS:
                continue
            like = stretch.by_phone[int(span.start) : int(span.end)].sum(axis=0)
            for phone in sounds:
                other = (*phones[:number], phone, *phones[number + 1 :])
                if phone != span.phone and other in _dictionary():
                    found.append((float(like[phone] - like[span.phone]), other))
        for _, other in sorted(found, reverse=True)[:_NEAREST]:
            text, key = _dictionary()[other]
            yield at, replace(word, text=text, key=key, variants=(other,), start=start, end=end)


@functools.cache
def _dictionary() -> dict[Phones, tuple[str, str]]:
    """The words of the dictionary by the model's phones: as it is written, and said."""
    acoustic = model.load()
    found: dict[Phones, tuple[str, str]] = {}
    for text, symbols in pronounce.dictionary_words():
        phones = tuple(acoustic.index(symbol.rstrip("012")) for symbol in symbols)
        found.setdefault(phones, (text, "".join(from_arpabet(symbol)[0] for symbol in symbols)))
    return found
