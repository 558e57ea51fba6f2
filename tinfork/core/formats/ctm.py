"""NIST CTM (sclite, SCTK): file, channel, start, duration, word, confidence; one word a row, comments after ;;."""

import math
from collections.abc import Sequence

from ..errors import ReadingError
from ..limits import MAX_SOUND_SECONDS
from ..speech.reading import Line, Word

LOSES = "lines, sounds, pins, and words that were not said; spaces in a word become _"

_LINE_PAUSE = 0.5
_LEAST_FIELDS = 5


def write(lines: Sequence[Line], name: str = "scene") -> str:
    """Return words in seconds from the scene's first frame; name: of the file, without spaces."""
    rows = [
        f"{name} 1 {word.start:.3f} {word.end - word.start:.3f} {'_'.join(word.text.split())} {word.confidence:.3f}"
        for line in lines
        for word in line.words
        if word.said
    ]
    return "\n".join([";; file channel start duration word confidence", *rows]) + "\n"


def parse(text: str) -> tuple[list[Line], list[str]]:
    """Return lines, parted at long pauses, their words without sounds; a sentence for each row that was left out.

    ReadingError when there is no row.
    """
    words: list[Word] = []
    problems = []
    for number, row in enumerate(text.splitlines(), 1):
        fields = row.split(";;")[0].split()
        if not fields:
            continue
        word = _word(fields)
        if word is None:
            problems.append(f"Line {number} is no row of CTM; it was left out.")
        elif words and word.start < words[-1].end - 0.002:
            problems.append(f"Line {number} begins before the word above ends; it was left out.")
        else:
            words.append(word)
    if not words:
        raise ReadingError("No row of CTM was found in this file: file, channel, start, duration, word, confidence.")
    lines: list[list[Word]] = []
    for word in words:
        if not lines or word.start - lines[-1][-1].end >= _LINE_PAUSE:
            lines.append([])
        lines[-1].append(word)
    return [Line(" ".join(w.text for w in own), own[0].start, own[-1].end, tuple(own)) for own in lines], problems


def _word(fields: Sequence[str]) -> Word | None:
    try:
        start, duration = float(fields[2]), float(fields[3])
        sure = float(fields[5]) if len(fields) > _LEAST_FIELDS else 0.0
        text = fields[4]
    except (ValueError, IndexError):
        return None
    if not all(map(math.isfinite, (start, duration, sure))) or duration <= 0 or abs(start) > MAX_SOUND_SECONDS:
        return None
    return Word(text[:120], round(start, 6), round(start + duration, 6), min(1.0, max(0.0, sure)), False, ())
