"""A reading: what the sound says, as lines, words and sounds in time. Plain values, with their JSON form."""

from collections.abc import Iterator, Mapping
from dataclasses import asdict, dataclass
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
    """guessed: the pronunciation is a guess, no dictionary had the word."""

    text: str
    start: float
    end: float
    confidence: float
    guessed: bool
    sounds: tuple[Sound, ...]


@dataclass(frozen=True)
class Line:
    """One phrase of the script, from its first word to its last."""

    text: str
    start: float
    end: float
    words: tuple[Word, ...]


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
