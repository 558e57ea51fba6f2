"""The reading and its exposures as one JSON document; its schema is in docs/formats.md."""

from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from ..exposure.track import Exposure
from ..mouths.chart import Chart
from ..speech.reading import Line, Reading, Sound, Word
from ..timebase import format_rate

VERSION = 1


def document(reading: Reading, exposures: Sequence[Exposure], chart: Chart, rate: Fraction) -> dict[str, Any]:
    """Times in seconds from the start of the sound, frames from 0."""
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
            for e in exposures
        ],
    }


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
    return {"ipa": sound.ipa, "start": sound.start, "end": sound.end, "confidence": sound.confidence}
