"""Lines that belong to no script, found by the sounds alone, and what becomes of them when others are read in their
place: where a person set something of one, it stays."""

from collections.abc import Iterable, Sequence

from .reading import Line, Reading


def set_by_hand(reading: Reading | None) -> list[Line]:
    """Return the loose lines of which a person set something."""
    lines = reading.lines if reading else ()
    return [line for line in lines if not line.id and any(word.is_set for word in line.words)]


def over(line: Line, others: Iterable[Line]) -> bool:
    """Return whether a line lies in the same sound as one of others, at the same time."""
    return any(_source(one) == _source(line) and one.start < line.end and line.start < one.end for one in others)


def among(lines: Sequence[Line], loose: Sequence[Line]) -> tuple[Line, ...]:
    """Return lines with loose ones between them, each before the first of its sound that begins later."""
    found = list(lines)
    for line in loose:
        later = (at for at, one in enumerate(found) if _source(one) == _source(line) and one.start >= line.end)
        found.insert(next(later, len(found)), line)
    return tuple(found)


def _source(line: Line) -> int:
    return line.words[0].source_id
