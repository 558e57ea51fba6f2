"""Words from sound without a script: English only, by the recogniser library's own decoder and language model.

A larger model is used when the setting TINFORK_RECOGNISER names a local folder that holds one: an acoustic model (the
folder itself, or its part acoustic/), a language model *.lm.bin and a dictionary *.dict.
"""

import functools
import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pocketsphinx

from ..errors import ScriptError
from ..sound.recording import READ_RATE, Recording, Samples

SETTING = "TINFORK_RECOGNISER"

_LEAST_PIECE, _MOST_PIECE = 15 * READ_RATE, 30 * READ_RATE
_LEVEL = READ_RATE // 5
_LINE_PAUSE = 0.5
_FRAME_SECONDS = 0.01
_BESIDE = 0.04
_QUICK = {"fwdflat": False, "bestpath": False, "maxhmmpf": 1500}
"""Its search once through, with fewer states at a time: three times as fast, and mouths are as right (bench/alone.py,
of whole recordings: 91.0% of frames, and of those on which lips close 86.5%; the library's own way 91.0% and 83.8%)."""


@dataclass(frozen=True)
class HeardLine:
    """Words heard without a long pause between them; seconds."""

    text: str
    start: float
    end: float


def heard_lines(recording: Recording, progress: Callable[[float], None] = lambda share: None) -> list[HeardLine]:
    """Return the words heard in a recording, a new line after each long pause. ScriptError when the set model is no
    model."""
    decoder = _decoder()
    words: list[tuple[str, float, float]] = []
    total = max(1, len(recording.samples))
    for start, end in _pieces(recording):
        begin = start / READ_RATE
        found = _decoded(decoder, recording.samples[start:end])
        words += [(text, begin + first, begin + last) for text, first, last in found]
        progress(end / total)
    return _lines(words)


def probably_said(recording: Recording, start: float, end: float) -> str:
    """Return the English words that are heard between two times, in seconds; "" for none."""
    first, last = (max(0, int((time + by) * READ_RATE)) for time, by in ((start, -_BESIDE), (end, _BESIDE)))
    decoder = _kept_decoder(os.environ.get(SETTING))
    return " ".join(text for text, _, _ in _decoded(decoder, recording.samples[first:last]))


def _decoded(decoder: Any, samples: Samples) -> Iterator[tuple[str, float, float]]:
    """The words that are heard in a piece of sound, with when each begins and ends in it, in seconds."""
    sound = (np.clip(samples, -1, 1) * 32767).astype("<i2")
    decoder.start_utt()
    decoder.process_raw(sound.tobytes(), full_utt=True)
    decoder.end_utt()
    for segment in decoder.seg() or ():
        text = segment.word.split("(")[0]
        if not text.startswith(("<", "[")):
            yield text, segment.start_frame * _FRAME_SECONDS, (segment.end_frame + 1) * _FRAME_SECONDS


@functools.lru_cache(maxsize=1)
def _kept_decoder(folder: str | None) -> Any:
    return _decoder()


def _lines(words: list[tuple[str, float, float]]) -> list[HeardLine]:
    lines: list[HeardLine] = []
    for text, start, end in words:
        if lines and start - lines[-1].end < _LINE_PAUSE:
            lines[-1] = HeardLine(f"{lines[-1].text} {text}", lines[-1].start, end)
        else:
            lines.append(HeardLine(text, start, end))
    return lines


def _pieces(recording: Recording) -> Iterator[tuple[int, int]]:
    """Samples from and to, each piece ending in the quietest moment in reach, so that no word is cut."""
    samples, begin = recording.samples, 0
    while len(samples) - begin > _MOST_PIECE:
        reach = samples[begin + _LEAST_PIECE : begin + _MOST_PIECE]
        levels = (reach[: len(reach) // _LEVEL * _LEVEL].reshape(-1, _LEVEL) ** 2).mean(axis=1)
        end = begin + _LEAST_PIECE + int(levels.argmin()) * _LEVEL + _LEVEL // 2
        yield begin, end
        begin = end
    yield begin, len(samples)


def _decoder() -> Any:
    folder = os.environ.get(SETTING)
    if not folder:
        return pocketsphinx.Decoder(loglevel="FATAL", **_QUICK)
    place = Path(folder)
    models = {"lm": next(place.glob("*.lm.bin"), None), "dict": next(place.glob("*.dict"), None)}
    acoustic = place / "acoustic" if (place / "acoustic").is_dir() else place
    refusal = ScriptError(
        f"{SETTING} names {folder}, which holds no recogniser: it needs an acoustic model, a *.lm.bin and a *.dict."
    )
    if not all(models.values()) or not (acoustic / "mdef").is_file():
        raise refusal
    try:
        return pocketsphinx.Decoder(
            loglevel="FATAL", hmm=str(acoustic), **_QUICK, **{name: str(path) for name, path in models.items()}
        )
    except (RuntimeError, ValueError):
        raise refusal from None
