"""Words from sound in many languages by a transformer's weights (Radford et al. 2022), which a folder holds; run by
faster-whisper. What it is unsure of it makes up, over silence and music too: its own doubts are heeded here, and whose
words fit the sound badly is found where they are read (unscripted.py)."""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..errors import ScriptError
from ..sound.recording import Samples

if TYPE_CHECKING:
    pass

_MOST_THREADS = 4
_UNLIKELY, _NO_SPEECH = -1.0, 0.6
"""What the model's own authors take for a failure: words less likely than the one, on average by their logarithm, where
speech is less likely than the other is not."""

_REPEATED = 2.4
"""Text that packs so much smaller is one thing said over and over (the same source)."""

_CODES = {"cmn": "zh", "yue": "yue", "nb": "no", "he": "he", "jw": "jv"}
"""Where a language of eSpeak's is another by name in the model."""


def is_model(place: Path) -> bool:
    """Whether a folder holds such weights, all of them."""
    return (
        (place / "model.bin").is_file() and (place / "tokenizer.json").is_file() and (place / "config.json").is_file()
    )


class Transformer:
    """The weights of a folder, loaded."""

    def __init__(self, place: Path) -> None:
        from faster_whisper import WhisperModel  # noqa: PLC0415 - takes a second, and who serves pages never needs it

        threads = min(_MOST_THREADS, len(os.sched_getaffinity(0)))
        try:
            self._model: WhisperModel = WhisperModel(
                str(place), device="cpu", compute_type="int8", cpu_threads=threads, local_files_only=True
            )
        except (RuntimeError, ValueError, OSError):
            raise ScriptError(f"The recogniser in {place} cannot be read; name another folder, or none.") from None

    @property
    def many(self) -> bool:
        """Whether it tells languages apart."""
        return bool(self._model.model.is_multilingual)

    def languages(self, samples: Samples) -> dict[str, float]:
        """Return how likely each language is in up to half a minute of 16 kHz sound; codes as eSpeak has them."""
        if not self._model.model.is_multilingual:
            return {"en": 1.0}
        with _memory_told():
            _, _, every = self._model.detect_language(samples)
        back = {theirs: ours for ours, theirs in _CODES.items()}
        return {back.get(code, code): float(share) for code, share in every}

    def sentences(self, samples: Samples, language: str, hints: str) -> list[str]:
        """Return what is said in up to half a minute of 16 kHz sound, a text for each sentence or so. hints: words that
        may be said, names above all."""
        with _memory_told():
            segments, _ = self._model.transcribe(
                samples,
                language=self._code(language),
                temperature=0.0,
                condition_on_previous_text=False,
                hotwords=hints or None,
            )
            return [text for one in segments if (text := _text_of(one))]

    def speaks(self, language: str) -> bool:
        """Whether it knows a language."""
        return self._code(language) in self._model.supported_languages

    def _code(self, language: str) -> str:
        plain = language.split("-", maxsplit=1)[0]
        return _CODES.get(plain, plain)


@contextmanager
def _memory_told() -> Iterator[None]:
    """What it says when there is not memory enough, as everybody else says it."""
    try:
        yield
    except RuntimeError as problem:
        if "memory" in str(problem):
            raise MemoryError from problem
        raise


def _text_of(segment: Any) -> str:
    doubted = segment.no_speech_prob > _NO_SPEECH and segment.avg_logprob < _UNLIKELY
    return "" if doubted or segment.compression_ratio > _REPEATED else segment.text.strip()
