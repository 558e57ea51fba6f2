"""A reading: what the sound says, as lines, words and sounds in time."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

SOUNDS_ONLY = "(sounds)"
"""The text of lines and words that have none; what a word may be that nobody wrote stands in brackets too."""


@dataclass(frozen=True)
class Sound:
    """One phone in IPA, in seconds. confidence 0..1 that its bounds are within a frame at 24 fps; stress 0 none,
    1 primary, 2 secondary; level 0..1 how loud it is within this recording."""

    ipa: str
    start: float
    end: float
    confidence: float
    stress: int = 0
    level: float = 1.0


@dataclass(frozen=True)
class Word:
    """A word, where it is heard. guessed: the pronunciation is a guess, no dictionary had the word; source_id: the
    number of the sound its times count in, 0 where they count in the whole reading's.

    said: False where the word was written but not heard; its sounds then last no time. extra: stretches beside it where
    speech was heard that is not written. What a person set: pinned, the numbers of its edges that stay where they are
    (edge k begins sound k, the last one ends the word); decided: its sounds, or that it is not said. tight: whether
    beside an edge that stays there is less room than its sounds need. at: the place of line and word in the reading
    they were taken from.
    """

    text: str
    start: float
    end: float
    confidence: float
    guessed: bool
    sounds: tuple[Sound, ...]
    source_id: int = 0
    said: bool = True
    extra: tuple[tuple[float, float], ...] = ()
    pinned: tuple[int, ...] = ()
    decided: bool = False
    tight: bool = False
    at: tuple[int, int] = (0, 0)

    @property
    def edges(self) -> tuple[float, ...]:
        """Where each of its sounds begins, and where the last one ends."""
        return (*(sound.start for sound in self.sounds), self.end)

    @property
    def is_unwritten(self) -> bool:
        """Whether nobody wrote it, and no person said that it is so."""
        return self.text.startswith("(") and not self.is_set

    @property
    def is_set(self) -> bool:
        """Whether a person set anything of it."""
        return self.decided or bool(self.pinned)

    def with_edges(self, edges: Sequence[float]) -> "Word":
        """Return the word with its sounds one after the other between other edges."""
        placed = tuple(
            Sound(sound.ipa, _at(a), _at(b), sound.confidence, sound.stress, sound.level)
            for sound, a, b in zip(self.sounds, edges[:-1], edges[1:], strict=True)
        )
        return replace(self, start=_at(edges[0]), end=_at(edges[-1]), sounds=placed)


Lost = tuple[tuple[int, Word], ...]
"""Words a person had set that no longer have a place, each with the id of its line."""


@dataclass(frozen=True)
class Line:
    """One phrase of the script, from its first word to its last. id: which line of the script it is; basis: what it was
    read from, for the caller to know whether that has changed since."""

    text: str
    start: float
    end: float
    words: tuple[Word, ...]
    id: int = 0
    basis: str = ""

    @property
    def written(self) -> tuple[Word, ...]:
        """Its words but those that nobody wrote."""
        return tuple(word for word in self.words if not word.is_unwritten)


@dataclass(frozen=True)
class Reading:
    """What was read of a sound. seconds: length of the sound; rate: its own sample rate in Hz; notes: sentences for
    the user; lost: words a person had set that no longer have a place, each with the id of its line; warps: of each
    speaker how much higher their formants lie than usual, where it was found."""

    seconds: float
    rate: int
    language: str
    lines: tuple[Line, ...]
    notes: tuple[str, ...] = ()
    lost: Lost = ()
    warps: Mapping[int, float] = field(default_factory=dict)

    def words(self) -> Iterator[Word]:
        """Return all words in order."""
        return (word for line in self.lines for word in line.words)

    def sounds(self) -> Iterator[Sound]:
        """Return all sounds in order; those of words that were not said last no time."""
        return (sound for word in self.words() for sound in word.sounds)


def moved(line: Line, by: float) -> Line:
    """Return a line with all that is in it some seconds later."""
    words = tuple(moved_word(word, by) for word in line.words)
    return replace(line, start=_at(line.start + by), end=_at(line.end + by), words=words)


def moved_word(word: Word, by: float) -> Word:
    """Return a word with its sounds some seconds later."""
    extra = tuple((_at(start + by), _at(end + by)) for start, end in word.extra)
    return replace(word.with_edges([edge + by for edge in word.edges]), extra=extra)


def _at(seconds: float) -> float:
    return round(seconds, 6)
