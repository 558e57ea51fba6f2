"""Lines put where they are said by hand, with nothing read."""

from collections.abc import Sequence

from ..errors import ReadingError
from .correct import LEAST_SECONDS
from .reading import Line, Sound, Word

SOUND_SECONDS = 0.085
"""How long a sound lasts in speech that is neither fast nor slow; what a line takes when nobody says how long it is."""

Said = tuple[str, Sequence[tuple[str, int]]]
"""A word's text, and of each of its sounds the IPA and the stress."""


def natural_seconds(words: Sequence[Said]) -> float:
    """Return about how long it takes to say some words."""
    return SOUND_SECONDS * sum(len(sounds) for _, sounds in words)


def line_by_hand(text: str, words: Sequence[Said], start: float, end: float, number: int, basis: str) -> Line:
    """Return a line between two times in seconds, its sounds spread evenly and every word set by hand. number and
    basis: the Line's id and basis. ReadingError when it has no words, or there is no time for its sounds.

    >>> line = line_by_hand("Fog", [("Fog", [("f", 0), ("ɒ", 1), ("ɡ", 0)])], 1.0, 1.3, 1, "")
    >>> [round(edge, 1) for edge in line.words[0].edges]
    [1.0, 1.1, 1.2, 1.3]
    """
    count = sum(len(sounds) for _, sounds in words)
    if not count or not all(sounds for _, sounds in words):
        raise ReadingError("There is no word to be said in this; give the words.")
    step = (end - start) / count
    if step < LEAST_SECONDS:
        raise ReadingError("There is no time for all of these sounds; take a longer stretch.")
    made, at = [], 0
    for own, sounds in words:
        edges = [start + (at + k) * step for k in range(len(sounds) + 1)]
        at += len(sounds)
        blank = tuple(Sound(ipa, edges[0], edges[-1], 0.0, stress) for ipa, stress in sounds)
        word = Word(own, edges[0], edges[-1], 0.0, False, blank, pinned=(0, len(sounds)), decided=True)
        made.append(word.with_edges(edges))
    return Line(text, made[0].start, made[-1].end, tuple(made), number, basis)
