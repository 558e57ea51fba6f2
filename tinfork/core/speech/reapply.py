"""What a person set in a reading, reapplied into the next one: which words of a line stand for which."""

import bisect
from collections.abc import Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher

from .reading import Line, Word

_HAIR = 1e-3


@dataclass(frozen=True)
class Slot:
    """A word to be read. token: its number among the words of the line as it is written now, None for a word that only
    a person put there; kept: the word as it was before, when a person set something of it."""

    token: int | None
    kept: Word | None = None


def reapplied(before: Line | None, written: Sequence[str], same_text: bool) -> tuple[list[Slot], list[Word]]:
    """Return the places of a line, and the words a person had set that no longer have one.

    written: the line's words now. same_text: the line's text has not changed since it was read, so that words a person
    put in, parted or joined on the desk stay as they are.
    """
    if before is None:
        return [Slot(number) for number in range(len(written))], []
    before = replace(before, words=tuple(word for word in before.words if not word.is_unwritten))
    old = [word.text.casefold() for word in before.words]
    matcher = SequenceMatcher(None, old, [text.casefold() for text in written], autojunk=False)
    places: list[Slot] = []
    lost: list[Word] = []
    for kind, i, i_end, j, j_end in matcher.get_opcodes():
        words = before.words[i:i_end]
        if kind == "equal":
            places += [Slot(j + n, word if word.is_set else None) for n, word in enumerate(words)]
        elif same_text and any(word.decided for word in words):
            places += [Slot(None, replace(word, decided=True)) for word in words]
        else:
            places += [Slot(number) for number in range(j, j_end)]
            lost += [word for word in words if word.is_set and word.said]
    return places, lost


def in_order(words: Sequence[Word], seconds: float) -> set[int]:
    """Return the largest set of pinned words whose pins lie one after the other inside the sound, by their numbers.

    The rest cannot all stand where a person put them. A longest chain of intervals, by patience sorting.
    """
    ends: list[float] = []
    chain: list[int] = []
    before: dict[int, int] = {}
    for number, word in enumerate(words):
        if not word.pinned:
            continue
        edges = word.edges
        first, last = edges[min(word.pinned)], edges[max(word.pinned)]
        if first < -_HAIR or last > seconds + _HAIR:
            continue
        length = bisect.bisect_right(ends, first)
        if length:
            before[number] = chain[length - 1]
        if length == len(ends):
            ends.append(last)
            chain.append(number)
        elif last < ends[length]:
            ends[length], chain[length] = last, number
    kept = set()
    number = chain[-1] if chain else -1
    while number >= 0:
        kept.add(number)
        number = before.get(number, -1)
    return kept
