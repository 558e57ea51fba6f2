"""What is said in a scene by one character, as far as acting goes by it: phrases, and in them words and their accents.

Frames are the scene's.
"""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import TypeVar

_PAUSE, _MARKED_PAUSE = 0.18, 0.06
_NEAREST = 0.65
"""How far to the side the nearest of several stands; the farthest is at 1."""

T = TypeVar("T", int, tuple[int, int])

_PARTING, _ENDING = frozenset(",;:–—"), frozenset(".!?…")
"""A clause ends where nothing is said for so many seconds, fewer where one of the first is written, none where one of
the others is."""


@dataclass(frozen=True)
class Said:
    """A word. frame, end: its first frame and the one after its last; accent: how much it stands out, from 1 on
    surely; rise: by how many semitones its pitch rises; mark: what is written between it and the next."""

    text: str
    frame: int
    end: int
    accent: float = 0.0
    rise: float = 0.0
    mark: str = ""


@dataclass(frozen=True)
class Phrase:
    """A line as it is said once. line: its number in the script; text: as it is written. One of somebody who says
    nothing in a scene has one word, of no frames, at its end."""

    line: int
    text: str
    words: tuple[Said, ...]

    @property
    def frame(self) -> int:
        """The first frame on which something of it is said."""
        return self.words[0].frame

    @property
    def end(self) -> int:
        """The first frame after it."""
        return max(word.end for word in self.words)

    @property
    def is_silent(self) -> bool:
        """Whether nothing is said of it."""
        return self.end == self.frame

    def clauses(self, fps: float) -> list[tuple[Said, ...]]:
        """Return its words by what is said in one breath: they part where a sentence ends, where nothing is said for a
        while, or for a moment where a mark is written."""
        found, own = [], [self.words[0]]
        for word in self.words[1:]:
            silent, marks = (word.frame - own[-1].end) / fps, set(own[-1].mark)
            if marks & _ENDING or silent >= (_MARKED_PAUSE if marks & _PARTING else _PAUSE):
                found.append(tuple(own))
                own = []
            own.append(word)
        return [*found, tuple(own)]

    def pauses(self, least: int) -> list[range]:
        """Return the frames between its words on which nothing is said, so many and more."""
        return [range(a.end, b.frame) for a, b in pairwise(self.words) if b.frame - a.end >= least]


@dataclass(frozen=True)
class Elsewhere:
    """Something that somebody else says in the scene. frame, end: its first frame and the one after its last; side:
    where they stand from here, -1 left to 1 right, those who are nearer less far than others."""

    frame: int
    end: int
    side: float


def sides(places: Sequence[T], me: T) -> dict[T, float]:
    """Return where others stand from one place in a row: left or right of it, the farthest at the end, and where there
    are several, nearer ones less far to the side. places: of those in the row, in any order.

    >>> sides([1, 2, 3, 5], 2)
    {1: -1.0, 3: 0.65, 5: 1.0}
    """
    left = sorted((own for own in places if own < me), reverse=True)
    right = sorted(own for own in places if own > me)
    found = {
        own: way * _aside(rank, len(row)) for way, row in ((-1.0, left), (1.0, right)) for rank, own in enumerate(row)
    }
    return {own: found[own] for own in sorted(found)}


def _aside(rank: int, many: int) -> float:
    return 1.0 if many == 1 else _NEAREST + (1.0 - _NEAREST) * rank / (many - 1)


@dataclass(frozen=True)
class Speech:
    """What acting knows of what is said in a scene. phrases: in order; closures: frames on which lips or teeth
    close, in order; frames: of the scene; fps: frames a second; others: what others say, in order."""

    phrases: tuple[Phrase, ...]
    closures: tuple[int, ...]
    frames: int
    fps: float
    others: tuple[Elsewhere, ...] = ()

    def territory(self, number: int) -> range:
        """Return the frames that belong to a phrase by its place, its pauses with them: from the end of the one before
        to its own end; the last has the rest of the scene."""
        first = self.phrases[number - 1].end if number else 0
        end = self.frames if number == len(self.phrases) - 1 else self.phrases[number].end
        return range(min(first, self.phrases[number].frame), max(end, self.phrases[number].end))

    def waits(self, number: int) -> list[range]:
        """Return the frames that belong to a phrase by its place on which it is not said: before it, and after the last
        of all."""
        own, phrase = self.territory(number), self.phrases[number]
        return [span for span in (range(own.start, phrase.frame), range(phrase.end, own.stop)) if span]

    def said_elsewhere(self, frames: range) -> list[Elsewhere]:
        """Return what others say of which something lies on some frames, in order."""
        if not frames:
            return []
        begins, longest = self._others
        first = bisect_left(begins, frames.start - longest)
        end = bisect_left(begins, frames.stop)
        return [one for one in self.others[first:end] if one.end > frames.start]

    @cached_property
    def _others(self) -> tuple[list[int], int]:
        """Where others begin to speak, and for how many frames one of them does at the most."""
        return [one.frame for one in self.others], max((one.end - one.frame for one in self.others), default=0)

    def frames_of(self, seconds: float, least: int = 1) -> int:
        """So many seconds in frames."""
        return max(least, round(seconds * self.fps))


def near(frame: int, sorted_frames: Sequence[int], within: int) -> bool:
    """Return whether one of some frames in order lies no farther from a frame than so many."""
    at = bisect_left(sorted_frames, frame - within)
    return at < len(sorted_frames) and sorted_frames[at] <= frame + within


def marks_after(text: str, words: Sequence[str]) -> list[str]:
    """Return what is written after each of a line's words, up to the next: what is no letter and no figure.

    >>> marks_after("No, not that goat!", ["No", "not", "that", "goat"])
    [', ', ' ', ' ', '!']
    """
    found, at, low = [], 0, text.lower()
    for word in words:
        start = low.find(word.lower(), at)
        if start < 0:
            found.append("")
            continue
        at = end = start + len(word)
        while end < len(text) and not text[end].isalnum():
            end += 1
        found.append(text[at:end])
    return found
