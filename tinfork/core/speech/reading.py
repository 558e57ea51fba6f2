"""A reading: what the sound says, as lines, words and sounds in time. Plain values, with their JSON form."""

from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any


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
    """guessed: the pronunciation is a guess, no dictionary had the word; material: the number of the sound its times
    count in, 0 where they count in the whole reading's."""

    text: str
    start: float
    end: float
    confidence: float
    guessed: bool
    sounds: tuple[Sound, ...]
    material: int = 0


@dataclass(frozen=True)
class Line:
    """One phrase of the script, from its first word to its last; id: which line of the script it is."""

    text: str
    start: float
    end: float
    words: tuple[Word, ...]
    id: int = 0


@dataclass(frozen=True)
class Reading:
    """seconds: length of the sound; rate: its own sample rate in Hz; notes: sentences for the user."""

    seconds: float
    rate: int
    language: str
    lines: tuple[Line, ...]
    notes: tuple[str, ...] = ()

    def words(self) -> Iterator[Word]:
        """All words in order."""
        return (word for line in self.lines for word in line.words)

    def sounds(self) -> Iterator[Sound]:
        """All sounds in order."""
        return (sound for word in self.words() for sound in word.sounds)

    def to_json(self) -> dict[str, Any]:
        """A document of plain JSON values that from_json takes back unchanged."""
        return asdict(self)


def from_json(document: Mapping[str, Any]) -> Reading:
    """The reading of a document that to_json made. KeyError or TypeError when it is not one."""
    return Reading(
        seconds=float(document["seconds"]),
        rate=int(document["rate"]),
        language=str(document["language"]),
        lines=tuple(_line(line) for line in document["lines"]),
        notes=tuple(document["notes"]),
    )


def _line(document: Mapping[str, Any]) -> Line:
    return Line(**{**document, "words": tuple(_word(word) for word in document["words"])})


def _word(document: Mapping[str, Any]) -> Word:
    return Word(**{**document, "sounds": tuple(Sound(**sound) for sound in document["sounds"])})


def moved(line: Line, by: float) -> Line:
    """A line with all that is in it some seconds later."""
    words = tuple(moved_word(word, by) for word in line.words)
    return replace(line, start=_at(line.start + by), end=_at(line.end + by), words=words)


def moved_word(word: Word, by: float) -> Word:
    """A word with its sounds some seconds later."""
    sounds = tuple(replace(s, start=_at(s.start + by), end=_at(s.end + by)) for s in word.sounds)
    return replace(word, start=_at(word.start + by), end=_at(word.end + by), sounds=sounds)


def _at(seconds: float) -> float:
    return round(seconds, 6)
