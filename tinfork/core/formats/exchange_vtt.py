"""A reading as WebVTT (W3C) with a timestamp before every word, and one after it where a pause follows."""

import html
import re
from collections.abc import Sequence

from ..errors import ScriptError
from ..speech.reading import Line, Word
from . import subtitles

LOSES = "sounds, confidence, pins, and words that were not said; times are in whole milliseconds"

_STAMP = re.compile(r"<((?:\d{1,4}:)?\d{1,2}:\d{1,2}\.\d{1,6})>")
_HAIR = 0.0015


def write(lines: Sequence[Line]) -> str:
    """Return lines in seconds from the scene's first frame; a line before it cannot be held."""
    blocks = ["WEBVTT\n"]
    for line in lines:
        words = [word for word in line.words if word.said and word.start >= 0]
        if words and words[-1].end > words[0].start:
            blocks.append(f"{_time(words[0].start)} --> {_time(words[-1].end)}\n{_payload(words)}\n")
    return "\n".join(blocks)


def _payload(words: Sequence[Word]) -> str:
    parts = []
    for number, word in enumerate(words):
        parts.append(f"<{_time(word.start)}>{html.escape(word.text, quote=False)}")
        after = words[number + 1] if number + 1 < len(words) else None
        if after and after.start - word.end > _HAIR:
            parts.append(f"<{_time(word.end)}>")
        parts.append(" ")
    return "".join(parts).strip()


def _time(seconds: float) -> str:
    return subtitles.clock(seconds, ".")


def parse(text: str) -> tuple[list[Line], list[str]]:
    """Return the lines, their words without sounds; a sentence for each thing amiss. ScriptError when there is none."""
    lines: list[Line] = []
    problems: list[str] = []
    for start, end, words in subtitles.timed_payloads(text):
        if end <= start:
            problems.append(f"The cue at {_time(max(0.0, start))} has times that cannot be; it was left out.")
            continue
        found = _words(words, start, end)
        if found:
            spoken = " ".join(word.text for word in found)
            lines.append(Line(spoken, found[0].start, found[-1].end, tuple(found)))
    if not lines:
        raise ScriptError("No timed words were found in this file; give WebVTT, JSON, CSV or CTM.")
    return lines, problems


def _words(payload: str, start: float, end: float) -> list[Word]:
    """Words between timestamps; words that share one take even parts of its stretch."""
    pieces = _STAMP.split(payload)
    times = [start, *(subtitles.seconds_of(stamp) for stamp in pieces[1::2])]
    found: list[Word] = []
    for number, text in enumerate(pieces[0::2]):
        plain = subtitles.unescaped(re.sub(r"<[^<>]*>", "", text)).split()
        first = min(max(times[number], found[-1].end if found else start), end)
        last = min(max(times[number + 1] if number + 1 < len(times) else end, first), end)
        step = (last - first) / max(1, len(plain))
        found += [
            Word(word, round(first + n * step, 6), round(first + (n + 1) * step, 6), 0.0, False, ())
            for n, word in enumerate(plain)
        ]
    return found
