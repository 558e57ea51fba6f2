"""Words from sound without a script. What hears them is the folder the setting TINFORK_RECOGNISER names (see
by_whisper.is_model and by_decoder.is_model), else the recogniser library's own decoder, which knows English only."""

import functools
import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path

from ..errors import ScriptError
from ..sound.recording import READ_RATE, Recording, Samples
from . import by_decoder, by_whisper
from .by_decoder import Decoder
from .by_whisper import Transformer

SETTING = "TINFORK_RECOGNISER"

LONGEST = 28.0
"""Seconds that are heard at a time."""

_LEAST_PIECE, _MOST_PIECE = 12 * READ_RATE, round(LONGEST * READ_RATE)
_LEVEL = READ_RATE // 5
_BESIDE = 0.04

_SURELY_ANOTHER, _MAYBE_ANOTHER = 0.85, 0.5
"""How likely a language that the production does not speak must be to be taken for what is said, and to be told."""

_KEPT_ANYWAY = 0.1
"""A language of the production's that is as likely as this is never passed over for one that is not."""

_CLEARLY = 0.8
"""The share of what speaks for any of some languages that one of them must have to be told from the others."""

_LEAST_SPEECH = 2.0 * READ_RATE
"""In less than this languages are not told apart."""


def recogniser() -> Decoder | Transformer:
    """Return what hears words, loaded. ScriptError when the setting names a folder that holds no recogniser."""
    return _loaded(os.environ.get(SETTING) or None)


@functools.lru_cache(maxsize=1)
def _loaded(folder: str | None) -> Decoder | Transformer:
    if folder is None:
        return Decoder(None)
    place = Path(folder)
    if by_whisper.is_model(place):
        return Transformer(place)
    if by_decoder.is_model(place):
        return Decoder(place)
    raise ScriptError(
        f"{SETTING} names {folder}, which holds no recogniser: it needs model.bin, tokenizer.json and config.json, or "
        "an acoustic model, a *.lm.bin and a *.dict."
    )


def let_go() -> None:
    """Give back the memory of what hears words; it is loaded again when it is needed."""
    _loaded.cache_clear()


@contextmanager
def let_go_after() -> Iterator[None]:
    """Give back that memory when what is done inside has ended, however it has."""
    try:
        yield
    finally:
        let_go()


def hears(language: str) -> bool:
    """Return whether words of a language are heard. ScriptError as recogniser has it."""
    return recogniser().speaks(language)


def tells_languages() -> bool:
    """Return whether languages are told apart at all."""
    return recogniser().many


def sentences(samples: Samples, language: str, hints: Sequence[str] = ()) -> list[str]:
    """Return what is said in up to LONGEST seconds of 16 kHz sound, a text for each sentence or so, with capitals and
    full stops where the recogniser knows them. hints: names and other words that may be said."""
    return recogniser().sentences(samples, language, ", ".join(hints))


def probably_said(recording: Recording, start: float, end: float, language: str = "en") -> str:
    """Return the words that are heard between two times, in seconds; "" for none, or for a language that is not
    heard."""
    if not hears(language):
        return ""
    first, last = (max(0, int((time + by) * READ_RATE)) for time, by in ((start, -_BESIDE), (end, _BESIDE)))
    return " ".join(sentences(recording.samples[first : min(last, first + _MOST_PIECE)], language))


def pieces(samples: Samples) -> Iterator[tuple[int, int]]:
    """Samples from and to, each piece ending in the quietest moment in reach, so that no word is cut."""
    begin = 0
    while len(samples) - begin > _MOST_PIECE:
        reach = samples[begin + _LEAST_PIECE : begin + _MOST_PIECE]
        levels = (reach[: len(reach) // _LEVEL * _LEVEL].reshape(-1, _LEVEL) ** 2).mean(axis=1)
        end = begin + _LEAST_PIECE + int(levels.argmin()) * _LEVEL + _LEVEL // 2
        yield begin, end
        begin = end
    yield begin, len(samples)


def languages_in(samples: Samples) -> dict[str, float]:
    """Return how likely each language is in up to LONGEST seconds of sound; empty where it is too short to tell."""
    if len(samples) < _LEAST_SPEECH:
        return {}
    return recogniser().languages(samples[:_MOST_PIECE])


def one_of(shares: Mapping[str, float], own: Sequence[str], usual: str) -> str:
    """Return which of some languages is spoken; the usual one where that is not clear."""
    plain = {code: shares.get(code.split("-")[0], 0.0) for code in own}
    best = max(plain, key=lambda code: plain[code])
    return best if plain[best] > _CLEARLY * sum(plain.values()) else usual


def settled(shares: Mapping[str, float], own: Sequence[str]) -> tuple[str, str]:
    """Return the language that is taken to be spoken, and another it may be or "". shares: as languages_in has it; own:
    the production's languages, the usual one first.

    One of the production's is kept as long as it may be that; a guess among a hundred languages is often wrong for a
    short line.
    """
    plain = {code: shares.get(code, shares.get(code.split("-")[0], 0.0)) for code in own}
    best_own = max(own, key=lambda code: plain[code])
    best_own = best_own if plain[best_own] > plain[own[0]] else own[0]
    best = max(shares, key=lambda code: shares[code], default=best_own)
    if best in {code.split("-")[0] for code in own} or shares.get(best, 0.0) < _MAYBE_ANOTHER:
        return best_own, ""
    if shares[best] >= _SURELY_ANOTHER and plain[best_own] < _KEPT_ANYWAY:
        return best, ""
    return best_own, best
