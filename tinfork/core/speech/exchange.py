"""Readings from elsewhere put onto the words of a script."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher

from . import words as speech_words
from .reading import Line, Sound, Word

_HAIR = 0.002

Pronounce = Callable[[str], Sequence[tuple[str, int]]]
"""The sounds of a word, as IPA and stress; none for what nobody can say."""


@dataclass(frozen=True)
class Written:
    """A line of the script: its id, its text, its language."""

    id: int
    text: str
    language: str = "en"


def fitted(
    brought: Sequence[Line], script: Sequence[Written], pronounce: Pronounce
) -> tuple[tuple[Line, ...], list[str]]:
    """Return the script's lines with the words that were brought, and the texts of those that are not in the script.

    A word brought without sounds gets those it is pronounced with, spread evenly between its edges, which are pinned:
    a later reading finds its sounds and keeps its times. Words of the script that were not brought are left to a later
    reading: they are unsaid until then.
    """
    whole = _whole_lines(brought, script)
    taken = {id(line) for line in whole.values()}
    given = [word for line in brought if id(line) not in taken for word in line.words]
    wanted = [
        (line, token.text)
        for line in script
        if line.id not in whole
        for token in speech_words.tokens(line.text, line.language)
    ]
    matcher = SequenceMatcher(
        None, [_plain(word.text) for word in given], [_plain(text) for _, text in wanted], autojunk=False
    )
    found = {block.b + n: given[block.a + n] for block in matcher.get_matching_blocks() for n in range(block.size)}
    used = {id(word) for word in found.values()}
    parts: dict[int, list[tuple[Word | None, str]]] = {line.id: [] for line in script}
    for number, (line, text) in enumerate(wanted):
        parts[line.id].append((found.get(number), text))
    for line_id, same in whole.items():
        parts[line_id] = [(word, word.text) for word in same.words]
    lines: list[Line] = []
    moment = 0.0
    for line in script:
        own = []
        for word, text in parts[line.id]:
            placed = _placed(word, text, pronounce) if word and word.start >= moment - _HAIR else None
            placed = placed or _unsaid(text, moment, pronounce)
            if placed:
                moment = placed.end
                own.append(placed)
        if any(word.said for word in own):
            lines.append(Line(line.text, own[0].start, own[-1].end, tuple(own), line.id))
    return tuple(lines), [word.text for word in given if id(word) not in used and word.said]


def _whole_lines(brought: Sequence[Line], script: Sequence[Written]) -> dict[int, Line]:
    """Lines that were brought with all their sounds and stand so in the script, by its ids: words that a person put in,
    parted or joined stay as they are."""
    matcher = SequenceMatcher(
        None, [_plain(line.text) for line in brought], [_plain(line.text) for line in script], autojunk=False
    )
    same = {
        script[block.b + n].id: brought[block.a + n]
        for block in matcher.get_matching_blocks()
        for n in range(block.size)
    }
    return {number: line for number, line in same.items() if all(word.sounds for word in line.words)}


def _plain(text: str) -> str:
    return "".join(c for c in text.replace("_", " ").casefold() if c.isalnum())


def _placed(word: Word, text: str, pronounce: Pronounce) -> Word | None:
    if word.sounds:
        return replace(word, text=text)
    sounds = pronounce(text)
    if not sounds or word.end <= word.start:
        return None
    step = (word.end - word.start) / len(sounds)
    blank = tuple(Sound(ipa, 0, 0, word.confidence, stress) for ipa, stress in sounds)
    placed = replace(word, text=text, sounds=blank, pinned=(0, len(blank)))
    return placed.with_edges([*(word.start + k * step for k in range(len(blank))), word.end])


def _unsaid(text: str, moment: float, pronounce: Pronounce) -> Word | None:
    sounds = tuple(Sound(ipa, moment, moment, 0.0, stress) for ipa, stress in pronounce(text))
    return Word(text, moment, moment, 0.0, False, sounds, said=False) if sounds else None
