"""A reading as JSON for exchange: everything it holds, pins and what a person decided too; see docs/formats.md.

Also reads the JSON that the command line writes (reading_json), which holds no pins.
"""

import itertools
import json
import math
from collections.abc import Mapping, Sequence
from typing import Any

from ..errors import ReadingError
from ..limits import MAX_SCRIPT_LINES, MAX_SOUND_SECONDS
from ..speech.reading import Line, Sound, Word

KEY, VERSION = "tinfork_reading", 1
LOSES = ""

_REFUSED = "This is no reading as JSON: {}. Give a file that Tin Fork wrote, or WebVTT, CSV or CTM."


def write(lines: Sequence[Line]) -> str:
    """Return lines in seconds from the scene's first frame."""
    return json.dumps({KEY: VERSION, "lines": [_line(line) for line in lines]}, ensure_ascii=False, indent=1) + "\n"


def _line(line: Line) -> dict[str, Any]:
    return {"text": line.text, "words": [_word(word) for word in line.words]}


def _word(word: Word) -> dict[str, Any]:
    return {
        "text": word.text,
        "start": word.start,
        "end": word.end,
        "confidence": word.confidence,
        "guessed": word.guessed,
        "said": word.said,
        "decided": word.decided,
        "pinned": list(word.pinned),
        "extra": [list(stretch) for stretch in word.extra],
        "sounds": [
            {
                "ipa": s.ipa,
                "start": s.start,
                "end": s.end,
                "confidence": s.confidence,
                "stress": s.stress,
                "level": s.level,
            }
            for s in word.sounds
        ],
    }


Found = tuple[list[Line], list[str]]


def parse(text: str) -> Found:
    """Return the lines, and a sentence for each that could not be kept. ReadingError when it is no such JSON."""
    try:
        document = json.loads(text)
    except (ValueError, RecursionError):
        raise ReadingError(_REFUSED.format("it cannot be read")) from None
    return parse_document(document)


def parse_document(document: Any) -> Found:
    """As parse, of what stood in the JSON."""
    found = document.get("lines") if isinstance(document, dict) else None
    if not isinstance(found, list) or len(found) > MAX_SCRIPT_LINES:
        raise ReadingError(_REFUSED.format(f"it has no list of up to {MAX_SCRIPT_LINES:,} lines"))
    if document.get(KEY, VERSION) != VERSION or document.get("tinfork", 1) != 1:
        raise ReadingError(_REFUSED.format("it was written by another version"))
    lines: list[Line] = []
    problems = []
    for number, one in enumerate(found, 1):
        try:
            lines.append(_read_line(one))
        except (ValueError, KeyError, TypeError, AttributeError, OverflowError):
            problems.append(f"Line {number} of the file has words or times that cannot be; it was left out.")
    return lines, problems


def _read_line(document: Mapping[str, Any]) -> Line:
    words = tuple(_read_word(word) for word in document["words"])
    if not words:
        raise ValueError("a line without words")
    return Line(str(document["text"])[:2000], words[0].start, words[-1].end, words)


def _read_word(document: Mapping[str, Any]) -> Word:
    sounds = tuple(
        Sound(
            str(s["ipa"])[:20],
            _time(s["start"]),
            _time(s["end"]),
            _share(s["confidence"]),
            int(s.get("stress", 0)) % 3,
            _share(s.get("level", 1.0)),
        )
        for s in document["sounds"]
    )
    edges = [_time(document["start"]), *(s.end for s in sounds)]
    if any(b < a for a, b in itertools.pairwise(edges)):
        raise ValueError("times that go backwards")
    return Word(
        str(document["text"])[:120],
        edges[0],
        _time(document["end"]),
        _share(document["confidence"]),
        bool(document["guessed"]),
        sounds,
        said=bool(document.get("said", True)),
        extra=tuple((_time(a), _time(b)) for a, b in document.get("extra", ())),
        pinned=tuple(sorted({int(k) for k in document.get("pinned", ()) if 0 <= int(k) <= len(sounds)})),
        decided=bool(document.get("decided", False)),
    )


def _time(value: Any) -> float:
    seconds = float(value)
    if not (math.isfinite(seconds) and -MAX_SOUND_SECONDS <= seconds <= MAX_SOUND_SECONDS):
        raise ValueError(f"the time {value}")
    return round(seconds, 6)


def _share(value: Any) -> float:
    share = float(value)
    if not 0 <= share <= 1:
        raise ValueError(f"the confidence {value}")
    return share
