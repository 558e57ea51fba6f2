"""Speech without words: its sounds by a free loop of phones, as words that have none."""

import itertools
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace

from ..sound.features import STEP_SECONDS, Singles
from ..sound.recording import Recording
from .align import Span
from .confidence import path_confidence
from .hearing import Heard
from .loop import best_english, best_loop
from .model import AcousticModel
from .phones import from_arpabet
from .reading import SOUNDS_ONLY, Line, Sound, Word
from .recognise import probably_said
from .refine import refined
from .words import is_english

LINE_PAUSE = 15
"""In frames of speech analysis: a silence this long parts one run of sounds from the next."""

_HAIR = 1e-3

_LEAST_SECONDS = 0.1
"""Speech shorter than this between words is no word nobody wrote."""


def loop(scores: Singles, acoustic: AcousticModel, code: str) -> list[Span]:
    """Return the best path through all phones of a language; spans cover every frame once."""
    return best_english(scores, acoustic) if is_english(code) else best_loop(scores, acoustic)


def runs_of_sounds(
    recording: Recording, heard: Heard, acoustic: AcousticModel, spans: Sequence[Span], begin: int = 0
) -> list[list[Sound]]:
    """Return the sounds of a path, in runs between pauses. begin: the frame of what was heard on which the path
    begins."""
    scores, energy = (one[begin : begin + int(spans[-1].end)] for one in (heard.scores, heard.energy))
    sure = path_confidence(scores, spans)
    found: list[list[Sound]] = [[]]
    for span, confidence in zip(refined(spans, energy, acoustic), sure, strict=True):
        name = acoustic.phones[span.phone]
        if name.isalpha() and name != "SIL":
            start, end = (_seconds(begin + edge, recording) for edge in (span.start, span.end))
            level = recording.level(start, end)
            found[-1].append(Sound(from_arpabet(f"{name}1")[0], start, end, round(confidence, 3), 0, level))
        elif span.end - span.start >= LINE_PAUSE and found[-1]:
            found.append([])
    return [sounds for sounds in found if sounds]


def _seconds(frame: float, recording: Recording) -> float:
    return round(min(frame * STEP_SECONDS, recording.seconds), 6)


def word_of(sounds: Sequence[Sound], text: str = SOUNDS_ONLY) -> Word:
    """Return sounds as a word that nobody wrote: each lasts until the next begins."""
    joined = tuple(
        replace(sound, end=after.start if after else sound.end)
        for sound, after in itertools.zip_longest(sounds, sounds[1:])
    )
    sure = round(sum(sound.confidence for sound in sounds) / len(sounds), 3)
    return Word(text, joined[0].start, joined[-1].end, sure, True, joined)


def unwritten(
    recording: Recording, heard: Heard, acoustic: AcousticModel, code: str, start: float, end: float, guess: bool = True
) -> list[Word]:
    """Return what is said between two times, in seconds, as words that nobody wrote; none where it is too short.
    guess: with what they may be, where words of the language are recognised."""
    first, last = round(start / STEP_SECONDS), min(len(heard.scores), round(end / STEP_SECONDS))
    if (last - first) * STEP_SECONDS < _LEAST_SECONDS:
        return []
    spans = loop(heard.scores[first:last], acoustic, code)
    runs = runs_of_sounds(recording, heard, acoustic, spans, first)
    maybe = probably_said(recording, start, end, code) if runs and guess else ""
    texts = [f"({maybe})" if maybe and run is max(runs, key=len) else SOUNDS_ONLY for run in runs]
    return [word_of(_within(run, start, end), text) for run, text in zip(runs, texts, strict=True)]


def _within(sounds: Sequence[Sound], start: float, end: float) -> list[Sound]:
    return [replace(s, start=min(max(s.start, start), end), end=min(max(s.end, start), end)) for s in sounds]


def with_words_between(line: Line, words: Iterable[Word]) -> Line:
    """Return a line with more words in it, in the order of time."""
    own = sorted((*line.words, *words), key=lambda word: (word.start, word.end))
    return replace(line, words=tuple(own), start=min(w.start for w in own), end=max(w.end for w in own))


def without_covered(lines: Sequence[Line]) -> tuple[Line, ...]:
    """Return lines without the words that nobody wrote on which others lie; one of such words alone stays."""
    words = [word for line in lines for word in line.words if word.said and not word.is_unwritten]
    spans = [(word.source_id, word.start, word.end) for word in words]

    def stays(word: Word) -> bool:
        over = (min(end, word.end) - max(start, word.start) for source, start, end in spans if source == word.source_id)
        return not word.is_unwritten or max(over, default=0.0) <= _HAIR

    return tuple(_with(line, left) if (left := tuple(filter(stays, line.words))) else line for line in lines)


def _with(line: Line, words: Sequence[Word]) -> Line:
    if len(words) == len(line.words):
        return line
    said = [word for word in words if word.said] or words
    return replace(line, words=tuple(words), start=said[0].start, end=said[-1].end)


def filled(lines: Sequence[Line], runs: Iterable[Sequence[Sound]]) -> tuple[Line, ...]:
    """Return lines with the sounds of runs wherever these go on while no word of a line is said, each with the line
    that is nearest."""
    if not lines:
        return ()
    spans = sorted((word.start, word.end) for line in lines for word in line.words if word.said)
    between: list[list[Word]] = [[] for _ in lines]
    for word in (word for run in runs for word in _outside(run, spans)):
        away = [max(line.start - word.end, word.start - line.end) for line in lines]
        between[away.index(min(away))].append(word)
    return tuple(with_words_between(line, more) if more else line for line, more in zip(lines, between, strict=True))


def _outside(run: Sequence[Sound], spans: Sequence[tuple[float, float]]) -> Iterator[Word]:
    """The stretches of a run that lie between spans, as words that nobody wrote."""
    edges = [0.0, *itertools.chain.from_iterable(spans), float("inf")]
    for end, start in zip(edges[::2], edges[1::2], strict=True):
        own = [s for s in run if end <= (s.start + s.end) / 2 < start]
        if own and min(own[-1].end, start) - max(own[0].start, end) >= _LEAST_SECONDS:
            yield word_of(_within(own, end, start))
