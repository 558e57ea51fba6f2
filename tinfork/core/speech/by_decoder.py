"""English words from sound by the recogniser library's own decoder: for machines without the better recogniser."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pocketsphinx

from ..errors import ScriptError
from ..sound.recording import Samples
from .words import is_english

_FRAME_SECONDS = 0.01
_LINE_PAUSE = 0.5
_QUICK = {"fwdflat": False, "bestpath": False, "maxhmmpf": 1500}
"""Its search once through, with fewer states at a time: three times as fast, and mouths are as right (bench/alone.py,
of whole recordings: 91.0% of frames, and of those on which lips close 86.5%; the library's own way 91.0% and 83.8%)."""


def is_model(place: Path) -> bool:
    """Whether a folder holds what this needs: an acoustic model (the folder itself, or its part acoustic/), a language
    model *.lm.bin and a dictionary *.dict."""
    return bool(_parts(place)) and (_acoustic(place) / "mdef").is_file()


class Decoder:
    """The library's decoder. place: a folder with a larger model, None for the library's own."""

    def __init__(self, place: Path | None) -> None:
        own = {"hmm": str(_acoustic(place)), **_parts(place)} if place else {}
        try:
            self._decoder: Any = pocketsphinx.Decoder(loglevel="FATAL", **_QUICK, **own)
        except (RuntimeError, ValueError):
            raise ScriptError(f"The recogniser in {place} cannot be read; name another folder, or none.") from None

    def speaks(self, language: str) -> bool:
        """Whether it knows a language."""
        return is_english(language)

    @property
    def many(self) -> bool:
        """Whether it tells languages apart."""
        return False

    def languages(self, samples: Samples) -> dict[str, float]:
        """Return how likely each language is: it knows but one, and cannot say."""
        return {}

    def sentences(self, samples: Samples, language: str, hints: str) -> list[str]:
        """Return what is said in up to half a minute of 16 kHz sound, a text for each stretch without a long pause."""
        found: list[str] = []
        last = 0.0
        for text, start, end in self._words(samples):
            if found and start - last < _LINE_PAUSE:
                found[-1] += f" {text}"
            else:
                found.append(text)
            last = end
        return found

    def _words(self, samples: Samples) -> Iterator[tuple[str, float, float]]:
        """The words in a sound, with when each begins and ends in it, in seconds."""
        sound = (np.clip(samples, -1, 1) * 32767).astype("<i2")
        self._decoder.start_utt()
        self._decoder.process_raw(sound.tobytes(), full_utt=True)
        self._decoder.end_utt()
        for segment in self._decoder.seg() or ():
            text = segment.word.split("(")[0]
            if not text.startswith(("<", "[")):
                yield text, segment.start_frame * _FRAME_SECONDS, (segment.end_frame + 1) * _FRAME_SECONDS


def _acoustic(place: Path) -> Path:
    return place / "acoustic" if (place / "acoustic").is_dir() else place


def _parts(place: Path) -> dict[str, str]:
    """Its language model and its dictionary; nothing where one is missing."""
    found = {"lm": next(place.glob("*.lm.bin"), None), "dict": next(place.glob("*.dict"), None)}
    return {name: str(path) for name, path in found.items() if path} if all(found.values()) else {}
