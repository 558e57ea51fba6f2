"""How what a person set on frames goes along when what is said there is heard at other times.

It belongs to the word it lies on, and moves as the sound of the word does that is heard while it is shown; in a pause
it moves where both sides of the pause do, as it does when a line is moved. What lies on nothing that was said stays, on
its frames of the sound.
"""

import itertools
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from typing import TypeVar

import numpy as np

from ..sound.anchors import Anchored
from ..speech.reading import Line, Word

_HAIR = 1e-4
"""In seconds: times that differ by less are one, as they are kept in millionths."""

T = TypeVar("T", bound=Anchored)


@dataclass(frozen=True)
class Moved:
    """A stretch of a sound in which something was said, in its seconds: the edges of what was said there, and where
    each of them is now; None where it is said no longer."""

    source_id: int
    was: tuple[float, ...]
    now: tuple[float, ...] | None

    def by(self, time: float) -> float:
        """Return how much later, in seconds, what was heard at a time within it is heard now."""
        return 0.0 if self.now is None else float(np.interp(time, self.was, self.now)) - time


def moved_between(before: Iterable[Line], after: Iterable[Line]) -> list[Moved]:
    """Return what is heard elsewhere now, of lines before and after they were changed, paired by their ids and order;
    words are paired by their texts, and all of them where there are as many as before."""
    rest: dict[int, list[Line]] = {}
    for line in after:
        rest.setdefault(line.id, []).append(line)
    found: list[Moved] = []
    for line in before:
        own = rest.get(line.id)
        found += _of_line(line.words, own.pop(0).words if own else ())
    return found


def _of_line(before: Sequence[Word], after: Sequence[Word]) -> list[Moved]:
    """Its words one by one, and the pauses between those that moved by as much."""
    words = [
        _of_word(word, after[now] if now is not None else None) for word, now in _pairs(before, after) if word.said
    ]
    pauses = [
        Moved(one.source_id, (one.was[-1], other.was[0]), (one.now[-1], other.now[0]))
        for one, other in itertools.pairwise(words)
        if one.now is not None and other.now is not None and one.source_id == other.source_id
        if abs((one.now[-1] - one.was[-1]) - (other.now[0] - other.was[0])) < _HAIR
    ]
    return [one for one in (*words, *pauses) if one.now is None or _elsewhere(one.was, one.now)]


def _pairs(before: Sequence[Word], after: Sequence[Word]) -> list[tuple[Word, int | None]]:
    """Each word with the place of the one that it is now."""
    if len(before) == len(after):
        return list(zip(before, range(len(after)), strict=True))
    places = places_of(before, after)
    return [(word, places.get(number)) for number, word in enumerate(before)]


def places_of(before: Sequence[Word], after: Sequence[Word]) -> dict[int, int]:
    """Return for the places of words those of the words that they are now: of the same text, in their order."""
    was, now = ([word.text.casefold() for word in words] for words in (before, after))
    blocks = SequenceMatcher(None, was, now, autojunk=False).get_matching_blocks()
    return {block.a + n: block.b + n for block in blocks for n in range(block.size)}


def _of_word(word: Word, now: Word | None) -> Moved:
    """By its sounds, where they are as many; as a whole where others are heard."""
    if now is None or not now.said or now.source_id != word.source_id:
        return Moved(word.source_id, word.edges, None)
    if len(now.edges) == len(word.edges):
        return Moved(word.source_id, word.edges, now.edges)
    return Moved(word.source_id, (word.start, word.end), (now.start, now.end))


def _elsewhere(was: Sequence[float], now: Sequence[float]) -> bool:
    return any(abs(a - b) >= _HAIR for a, b in zip(was, now, strict=True))


def gone_along(
    things: Sequence[T], moved: Sequence[Moved], fps: float, lead: int
) -> tuple[tuple[T, ...], tuple[T, ...]]:
    """Return things as they lie now that what was said there is heard elsewhere, each on the nearest frame; and those
    whose word is said no longer, which stay. lead: by how many frames a mouth comes before its sound."""
    kept, left = [], []
    least, most = min((m.was[0] for m in moved), default=0.0), max((m.was[-1] for m in moved), default=0.0)
    for one in things:
        time = (one.frame + one.frames / 2 + lead) / fps
        if not least <= time < most:  # Most of a long scene.
            kept.append(one)
            continue
        under = next((m for m in moved if m.source_id == one.source_id and m.was[0] <= time < m.was[-1]), None)
        if under is not None and under.now is None:
            left.append(one)
        by = math.floor(under.by(time) * fps + 0.5) if under else 0
        kept.append(replace(one, frame=one.frame + by) if by else one)  # type: ignore[type-var]
    return tuple(kept), tuple(left)
