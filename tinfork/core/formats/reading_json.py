"""The reading and its exposures as one JSON document; its schema is in docs/formats.md."""

import json
from collections.abc import Sequence
from fractions import Fraction
from typing import Annotated, Any

import msgspec

from ..errors import DocumentError
from ..exposure.track import Exposure, Pin
from ..limits import MAX_SCENE_FRAMES, MAX_SOUND_SECONDS
from ..mouths.chart import Chart
from ..shot.shot import Shot
from ..speech.reading import Line, Reading, Sound, Word
from ..timebase import format_rate, parse_rate

VERSION = 2
"""1 had neither stress nor level of a sound, and is still read."""


def document(reading: Reading, exposures: Sequence[Exposure], chart: Chart, rate: Fraction) -> dict[str, Any]:
    """Return times in seconds from the start of the sound, frames from 0."""
    ipa = [sound.ipa for sound in reading.sounds()]
    return {
        "tinfork": VERSION,
        "sound": {"seconds": round(reading.seconds, 6), "rate": reading.rate},
        "fps": format_rate(rate),
        "lines": [_line(line) for line in reading.lines],
        "exposures": [
            {
                "frame": e.frame,
                "frames": e.frames,
                "shape": chart.shape_of(e.drawing),
                "drawing": e.drawing,
                "sounds": [ipa[i] for i in e.sounds],
            }
            | ({"pinned": True} if e.pinned else {})
            for e in exposures
        ],
    }


def text(shot: Shot) -> str:
    """Return everybody in a shot as JSON: of one character the document of their reading, of several each one's in a
    list."""
    own = [document(role.reading, role.exposures, role.chart, shot.rate) for role in shot.roles]
    about = {"scene": shot.name, "start_frame": shot.start_frame}
    named = [found | {"character": role.name} for found, role in zip(own, shot.roles, strict=True)]
    whole = named[0] | about if len(named) == 1 else {"tinfork_shot": 1, **about, "characters": named}
    return json.dumps(whole, ensure_ascii=False, indent=1) + "\n"


def parse(data: str) -> tuple[Reading, Fraction]:
    """Return what document wrote, as a reading, and its frame rate; exposures are not taken, they follow from it.
    DocumentError when it is something else."""
    found = _document_of(data)
    lines = tuple(_line_of(line, number) for number, line in enumerate(found.lines, 1))
    return Reading(found.sound.seconds, found.sound.rate, "", lines), parse_rate(found.fps)


def pins_in(data: str) -> tuple[Pin, ...]:
    """Return the exposures of what document wrote that a person pinned. DocumentError when it is something else."""
    own = (Pin(one.frame, one.frames, one.drawing) for one in _document_of(data).exposures if one.pinned)
    return tuple(own)


def _document_of(data: str) -> "_Document":
    try:
        found = msgspec.json.decode(data.encode(errors="replace"), type=_Document)
    except (msgspec.MsgspecError, RecursionError) as wrong:
        raise DocumentError(f"This is not a reading as “tinfork read” prints it ({wrong}).") from None
    if found.tinfork > VERSION:
        raise DocumentError("This reading was written by a later Tin Fork; take that one.")
    return found


_Seconds = Annotated[float, msgspec.Meta(ge=0, le=MAX_SOUND_SECONDS)]
_Share = Annotated[float, msgspec.Meta(ge=0, le=1)]


class _Sound(msgspec.Struct):
    ipa: str
    start: _Seconds
    end: _Seconds
    confidence: _Share = 1.0
    stress: Annotated[int, msgspec.Meta(ge=0, le=2)] = 0
    level: _Share = 1.0


class _Word(msgspec.Struct):
    text: str
    start: _Seconds
    end: _Seconds
    sounds: list[_Sound]
    confidence: _Share = 1.0
    guessed: bool = False


class _Line(msgspec.Struct):
    text: str
    start: _Seconds
    end: _Seconds
    words: list[_Word]


class _About(msgspec.Struct):
    seconds: Annotated[float, msgspec.Meta(gt=0, le=MAX_SOUND_SECONDS)]
    rate: Annotated[int, msgspec.Meta(ge=0)] = 0


class _Exposure(msgspec.Struct):
    frame: Annotated[int, msgspec.Meta(ge=0, le=MAX_SCENE_FRAMES)]
    frames: Annotated[int, msgspec.Meta(ge=1, le=MAX_SCENE_FRAMES)]
    drawing: str
    pinned: bool = False


class _Document(msgspec.Struct):
    tinfork: Annotated[int, msgspec.Meta(ge=1)]
    sound: _About
    fps: str
    lines: list[_Line]
    exposures: list[_Exposure] = []


def _line_of(line: _Line, number: int) -> Line:
    words = tuple(_word_of(word) for word in line.words)
    return Line(line.text, line.start, line.end, words, number)


def _word_of(word: _Word) -> Word:
    sounds = tuple(Sound(s.ipa, s.start, s.end, s.confidence, s.stress, s.level) for s in word.sounds)
    order = [edge for s in sounds for edge in (s.start, s.end)]
    if order != sorted(order):
        raise DocumentError(f"The sounds of “{word.text[:40]}” are not in order; take a reading as it was printed.")
    said = any(s.end > s.start for s in sounds)
    return Word(word.text, word.start, word.end, word.confidence, word.guessed, sounds, said=said)


def _line(line: Line) -> dict[str, Any]:
    return {"text": line.text, "start": line.start, "end": line.end, "words": [_word(word) for word in line.words]}


def _word(word: Word) -> dict[str, Any]:
    return {
        "text": word.text,
        "start": word.start,
        "end": word.end,
        "confidence": word.confidence,
        "guessed": word.guessed,
        "sounds": [_sound(sound) for sound in word.sounds],
    }


def _sound(sound: Sound) -> dict[str, Any]:
    own = {"ipa": sound.ipa, "start": sound.start, "end": sound.end, "confidence": sound.confidence}
    return own | {"stress": sound.stress, "level": sound.level}
