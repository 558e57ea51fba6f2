"""Sound and script in, a reading out: the stages of speech in order."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import ScriptError
from ..sound.recording import Recording
from . import align, model, phones, pronounce, words
from .confidence import path_confidence
from .espeak import check_language
from .features import STEP_SECONDS, cepstra, with_differences
from .reading import Line, Reading, Sound, Word

Progress = Callable[[float], None]

SILENT_LEVEL = 10 ** (-60 / 20)


@dataclass(frozen=True)
class _Script:
    """The speakable words of all lines: texts per line, which line each word is in, how it is said."""

    lines: tuple[str, ...]
    line_of: tuple[int, ...]
    words: tuple[pronounce.Spoken, ...]


def read(
    recording: Recording,
    script: str,
    language: str = "en",
    lexicon: pronounce.Lexicon | None = None,
    progress: Progress = lambda share: None,
) -> Reading:
    """Fit the script's words and sounds to the recording.

    Total on any recording and any script with a speakable word: wrong words get a reading too, of low confidence.
    Raises ScriptError for a script with nothing to say, or an unknown language.
    """
    spoken = _prepare(script, check_language(language), lexicon)
    progress(0.1)
    acoustic = model.load()
    scores = acoustic.scores(with_differences(cepstra(recording.samples)))
    progress(0.5)
    variants = [_model_variants(word, acoustic) for word in spoken.words]
    notes = list(recording.notes)
    if recording.peak < SILENT_LEVEL:
        notes.append("The sound is silent: the words are placed, but nothing was heard. Check the recording.")
    if align.fewest_frames(variants) > len(scores):
        notes.append(
            f"The sound lasts {recording.seconds:.1f} s, too short for {len(spoken.words):,} words; they are "
            "spread evenly. Check that sound and script belong together."
        )
        spans = _spread_evenly(variants, len(scores))
        sure = [0.0] * len(spans)
    else:
        spans = align.best_path(scores, align.build_graph(variants, acoustic))
        sure = path_confidence(scores, spans)
    progress(0.9)
    lines = _assemble(spoken, spans, sure, recording)
    return Reading(recording.seconds, recording.rate, language, lines, tuple(notes))


def _prepare(script: str, language: str, lexicon: pronounce.Lexicon | None) -> _Script:
    lines = words.split_lines(script)
    tokens = [(token, i) for i, line in enumerate(lines) for token in words.tokens(line, language)]
    said = pronounce.pronounce([token for token, _ in tokens], lexicon)
    kept = [(word, i) for word, (_, i) in zip(said, tokens, strict=True) if word]
    if not kept:
        raise ScriptError("The script has no word that can be spoken; type the words as they are said.")
    return _Script(tuple(lines), tuple(i for _, i in kept), tuple(word for word, _ in kept))


def _model_variants(word: pronounce.Spoken, acoustic: model.AcousticModel) -> list[align.Phones]:
    """Variants as model phones. Kept in step with word.variants, doubles and all."""
    return [
        tuple(acoustic.index(name) for ipa, _ in variant for name in phones.to_arpabet(ipa))
        for variant in word.variants
    ]


def _spread_evenly(variants: Sequence[Sequence[align.Phones]], frames: int) -> list[align.Span]:
    order = [(w, k) for w, choice in enumerate(variants) for k in range(len(choice[0]))]
    bounds = np.linspace(0, frames, len(order) + 1)
    return [
        align.Span(float(bounds[i]), float(bounds[i + 1]), variants[w][0][k], w, 0, k) for i, (w, k) in enumerate(order)
    ]


def _assemble(
    script: _Script, spans: Sequence[align.Span], sure: Sequence[float], recording: Recording
) -> tuple[Line, ...]:
    by_word: list[list[tuple[align.Span, float]]] = [[] for _ in script.words]
    for span, confidence in zip(spans, sure, strict=True):
        if span.word >= 0:
            by_word[span.word].append((span, confidence))
    by_line: list[list[Word]] = [[] for _ in script.lines]
    for spoken, placed, line in zip(script.words, by_word, script.line_of, strict=True):
        by_line[line].append(_word(spoken, placed, recording))
    return tuple(
        Line(text, own[0].start, own[-1].end, tuple(own))
        for text, own in zip(script.lines, by_line, strict=True)
        if own
    )


def _word(spoken: pronounce.Spoken, placed: list[tuple[align.Span, float]], recording: Recording) -> Word:
    """One word's sounds; an IPA sound that two model phones stand for gets both their spans."""
    rows = iter(placed)
    sounds = []
    for ipa, stress in spoken.variants[placed[0][0].variant]:
        own = [next(rows) for _ in phones.to_arpabet(ipa)]
        start, end = (_seconds(frame, recording) for frame in (own[0][0].start, own[-1][0].end))
        confidence = round(min(c for _, c in own), 3)
        sounds.append(Sound(ipa, start, end, confidence, stress, recording.level(start, end)))
    mean = round(sum(s.confidence for s in sounds) / len(sounds), 3)
    return Word(spoken.text, sounds[0].start, sounds[-1].end, mean, spoken.guessed, tuple(sounds))


def _seconds(frame: float, recording: Recording) -> float:
    return round(min(frame * STEP_SECONDS, recording.seconds), 6)
