"""A reading as CSV (RFC 4180, UTF-8): one row a sound. Holds all but speech that is not written."""

import csv
import io
import itertools
from collections.abc import Iterator, Sequence
from typing import Any

from ..errors import ReadingError
from ..limits import MAX_IMPORT_BYTES
from ..speech.reading import Line
from . import exchange_json
from .cells import escaped, unescaped

LOSES = "where unwritten speech was heard"
COLUMNS = (
    "line", "line_text", "word", "word_text", "said", "guessed", "decided", "word_confidence", "sound", "ipa", "stress",
    "start", "end", "confidence", "level", "start_pinned", "end_pinned",
)  # fmt: skip

_MOST_ROWS = MAX_IMPORT_BYTES // 20


def write(lines: Sequence[Line]) -> str:
    """Return lines in seconds from the scene's first frame."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for number, line in enumerate(lines, 1):
        for place, word in enumerate(line.words, 1):
            head = (
                number,
                escaped(line.text),
                place,
                escaped(word.text),
                *map(_yes, (word.said, word.guessed, word.decided)),
            )
            for k, s in enumerate(word.sounds):
                pins = (_yes(k in word.pinned), _yes(k + 1 in word.pinned))
                times = (escaped(s.ipa), s.stress, s.start, s.end, s.confidence, s.level)
                writer.writerow([*head, word.confidence, k + 1, *times, *pins])
    return out.getvalue()


def parse(text: str) -> tuple[list[Line], list[str]]:
    """Return the lines, and a sentence for each that could not be kept. ReadingError when the columns are not there."""
    rows = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")))
    try:
        found = list(itertools.islice(rows, _MOST_ROWS))
    except csv.Error as broken:
        raise ReadingError(f"This CSV is broken at line {rows.line_num}: {broken}.") from None
    missing = [name for name in COLUMNS[:4] + COLUMNS[9:13:2] if name not in (rows.fieldnames or ())]
    if missing:
        raise ReadingError(f"This CSV is no reading: it has no column {missing[0]}. Its first row names the columns.")
    document = {"lines": list(_lines(found))}
    return exchange_json.parse_document(document)


def _lines(rows: list[dict[str, Any]]) -> Iterator[dict[str, Any]]:
    for _, in_line in itertools.groupby(rows, key=lambda row: row["line"]):
        own = list(in_line)
        words = [list(group) for _, group in itertools.groupby(own, key=lambda row: row["word"])]
        yield {"text": unescaped(own[0]["line_text"] or ""), "words": [_word(sounds) for sounds in words]}


def _word(rows: list[dict[str, Any]]) -> dict[str, Any]:
    first, last = rows[0], rows[-1]
    pinned = [k for k, row in enumerate(rows) if row.get("start_pinned") == "yes"]
    if last.get("end_pinned") == "yes":
        pinned.append(len(rows))
    return {
        "text": unescaped(first["word_text"] or ""),
        "start": first["start"],
        "end": last["end"],
        "confidence": first.get("word_confidence") or 0,
        "guessed": first.get("guessed") == "yes",
        "said": first.get("said") != "no",
        "decided": first.get("decided") == "yes",
        "pinned": pinned,
        "sounds": [
            {name: row.get(name) or 0 for name in ("start", "end", "confidence", "stress", "level")}
            | {"ipa": unescaped(row.get("ipa") or "")}
            for row in rows
        ],
    }


def _yes(value: bool) -> str:
    return "yes" if value else "no"
