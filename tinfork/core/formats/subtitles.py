"""SubRip (SRT) and WebVTT (W3C): timed lines in and out.

Read by our own hand, because a broken cue must cost only itself and be told with its line number, and because a
speaker's name is kept: as the voice tag in WebVTT, as "Name: " before the words in SRT.
"""

import html
import re
from collections.abc import Iterable, Sequence

from ..errors import ScriptError
from ..limits import MAX_SOUND_SECONDS
from ..script.lines import Cue

_TIME = r"(?:(\d{1,4}):)?(\d{1,3}):(\d{1,2})[.,](\d{1,6})"
_ARROW = re.compile(rf"\s*(-?){_TIME}\s*-->\s*(-?){_TIME}(?:\s.*)?$")
_VOICE = re.compile(r"<v(?:\.[^\s<>]*)?\s([^<>]*)>")
_TAG = re.compile(r"</?(?:[a-zA-Z][^<>]*|\d[\d:.]*)>")
_CODE = re.compile(r"&#(?:[0-9]{8,}|[xX][0-9a-fA-F]{7,});?")
_NAMED = re.compile(r"([^:<>\d]{1,40}):\s+(.+)")

Found = tuple[list[Cue], list[str]]


def parse(text: str, speakers: Iterable[str] = ()) -> Found:
    """Return cues of an SRT or WebVTT file in the order they stand, and a sentence for each thing amiss.

    speakers: names that stand before the words in SRT. Times that cannot be are left out, their words are kept.
    ScriptError when there is no cue at all.
    """
    rows = text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n").split("\n")
    names = {name.lower(): name for name in speakers}
    cues: list[Cue] = []
    notes: list[str] = []
    for number, row in enumerate(rows):
        match = _ARROW.match(row)
        if match:
            words = _words_after(rows, number + 1)
            cue = _cue(words, match, names, number + 1, notes)
            if cue:
                cues.append(cue)
        elif "-->" in row:
            notes.append(f"Line {number + 1}: the times “{row.strip()[:40]}” cannot be read; this cue was left out.")
    if not cues:
        raise ScriptError("No timed line was found in this file; give SRT or WebVTT, or import it as plain text.")
    return cues, [*notes, *_order(cues)]


def write_srt(cues: Sequence[Cue]) -> str:
    """Return timed lines as SRT; lines without times are left out, as the format cannot hold them."""
    blocks = [
        f"{number}\n{_srt_time(cue.start)} --> {_srt_time(cue.end)}\n{cue.named}\n"
        for number, cue in enumerate(_timed(cues), 1)
        if cue.start is not None and cue.end is not None
    ]
    return "\n".join(blocks)


def write_vtt(cues: Sequence[Cue]) -> str:
    """Return timed lines as WebVTT, speakers as voice tags; lines without times are left out."""
    blocks = ["WEBVTT\n"]
    for cue in _timed(cues):
        if cue.start is not None and cue.end is not None:
            voice = f"<v {_escaped(cue.speaker)}>" if cue.speaker else ""
            times = f"{_srt_time(cue.start)} --> {_srt_time(cue.end)}".replace(",", ".")
            blocks.append(f"{times}\n{voice}{_escaped(cue.text)}\n")
    return "\n".join(blocks)


def _timed(cues: Sequence[Cue]) -> list[Cue]:
    return [cue for cue in cues if cue.start is not None and cue.end is not None]


def _words_after(rows: Sequence[str], at: int) -> str:
    """The text of the cue whose times stand before row at: up to an empty row, or the next cue's number or times."""
    words: list[str] = []
    for i in range(at, len(rows)):
        if not rows[i].strip() or _ARROW.match(rows[i]):
            break
        if rows[i].strip().isdecimal() and i + 1 < len(rows) and _ARROW.match(rows[i + 1]):
            break
        words.append(rows[i].strip())
    return " ".join(words)


def _cue(words: str, match: re.Match[str], names: dict[str, str], row: int, notes: list[str]) -> Cue | None:
    voice = _VOICE.search(words)
    speaker = unescaped(voice[1]).strip() if voice else ""
    text = unescaped(_TAG.sub("", _VOICE.sub("", words))).strip()
    named = _NAMED.fullmatch(text)
    if not speaker and named and named[1].strip().lower() in names:
        speaker, text = names[named[1].strip().lower()], named[2]
    if not text:
        return None
    start, end = _seconds(match.groups()[:5]), _seconds(match.groups()[5:])
    if start < 0 or end <= start or end > MAX_SOUND_SECONDS:
        notes.append(f"Line {row}: these times cannot be; the words are kept without them.")
        return Cue(text, speaker)
    return Cue(text, speaker, start, end)


def _seconds(parts: Sequence[str | None]) -> float:
    sign, hours, minutes, seconds, fraction = parts
    total = int(hours or 0) * 3600 + int(minutes or 0) * 60 + int(seconds or 0) + float(f"0.{fraction or 0}")
    return round(-total if sign else total, 6)


def _order(cues: Sequence[Cue]) -> list[str]:
    last, backwards, overlaps = Cue("", "", 0.0, 0.0), 0, 0
    for cue in cues:
        if cue.start is not None and last.start is not None and last.end is not None:
            backwards += cue.start < last.start
            overlaps += last.start <= cue.start < last.end
            last = cue
    notes = []
    if overlaps:
        notes.append(f"{overlaps} lines begin before the line above has ended: two people speak at once there.")
    if backwards:
        notes.append(f"{backwards} lines are earlier than the line above; they were kept in the file's order.")
    return notes


def _srt_time(seconds: float) -> str:
    return clock(seconds, ",")


def clock(seconds: float, point: str) -> str:
    """Return a time as 00:01:02.345, with another decimal point in SRT."""
    total = round(seconds * 1000)
    whole = f"{total // 3_600_000:02}:{total // 60_000 % 60:02}:{total // 1000 % 60:02}"
    return f"{whole}{point}{total % 1000:03}"


def unescaped(text: str) -> str:
    """Return text with its character references (HTML) made characters; a number that no character has is left out."""
    return html.unescape(_CODE.sub("", text))


def seconds_of(text: str) -> float:
    """Return the seconds of a time such as 00:01:02.345 or 01:02.345. ValueError when it is none."""
    match = re.fullmatch(_TIME, text)
    if not match:
        raise ValueError(text)
    return _seconds(["", *match.groups()])


def timed_payloads(text: str) -> list[tuple[float, float, str]]:
    """Start, end and raw words of every cue, in the order they stand."""
    rows = text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n").split("\n")
    found = []
    for number, row in enumerate(rows):
        match = _ARROW.match(row)
        if match:
            start, end = _seconds(match.groups()[:5]), _seconds(match.groups()[5:])
            found.append((start, end, _words_after(rows, number + 1)))
    return found


def _escaped(text: str) -> str:
    return html.escape(text, quote=False)
