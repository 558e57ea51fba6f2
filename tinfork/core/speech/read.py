"""Sound and script in, a reading out: the stages of speech in order."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from ..errors import ScriptError
from ..sound.recording import Recording
from . import align, model, phones, pronounce, words
from .confidence import path_confidence
from .espeak import check_language
from .features import STEP_SECONDS, Array, cepstra, with_differences
from .reading import Line, Reading, Sound, Word

Progress = Callable[[float], None]
Speaking = Mapping[int, Sequence[tuple[float, float]]]

SILENT_LEVEL = 10 ** (-60 / 20)
_SLACK = 0.4
_FAR = 10.0
_PULL = 2.0
_NOT_SPEAKING = 200.0


@dataclass(frozen=True)
class ScriptLine:
    """One phrase to be found in the sound. id and speaker: the caller's numbers; start and end: about when, in
    seconds, where it is known; said: by word number, how that word is said here, in IPA."""

    text: str
    language: str = "en"
    id: int = 0
    speaker: int = 0
    start: float | None = None
    end: float | None = None
    said: Mapping[int, str] = field(default_factory=dict)


@dataclass(frozen=True)
class _Script:
    """The speakable words of all lines: which line each word is in, how it is said."""

    lines: tuple[ScriptLine, ...]
    line_of: tuple[int, ...]
    words: tuple[pronounce.Spoken, ...]


def read(recording: Recording, script: str, language: str = "en", progress: Progress = lambda share: None) -> Reading:
    """Fit a plain script to the recording, one line a phrase, as read_lines does."""
    code = check_language(language)
    lines = [ScriptLine(text, code, number) for number, text in enumerate(words.split_lines(script))]
    return read_lines(recording, lines, progress=progress)


def read_lines(
    recording: Recording,
    lines: Sequence[ScriptLine],
    lexicon: pronounce.Lexicon | None = None,
    speaking: Speaking | None = None,
    progress: Progress = lambda share: None,
) -> Reading:
    """Fit the lines' words and sounds to the recording, in the order of the lines.

    Total on any recording and any script with a speakable word: wrong words get a reading too, of low confidence.
    speaking: for a speaker, the only stretches (start, end) in seconds where they may be heard.
    Raises ScriptError for a script with nothing to say, or an unknown language.
    """
    spoken = _prepare(lines, lexicon)
    progress(0.1)
    acoustic = model.load()
    scores = acoustic.scores(with_differences(cepstra(recording.samples)), lambda share: progress(0.1 + 0.3 * share))
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
        bias = known_beforehand(spoken.lines, speaking or {}, len(scores))
        graph = align.build_graph(variants, acoustic)
        spans = align.best_path(scores, graph, bias, spoken.line_of, lambda share: progress(0.4 + 0.5 * share))
        sure = path_confidence(scores, spans)
    progress(0.9)
    placed = _assemble(spoken, spans, sure, recording)
    return Reading(recording.seconds, recording.rate, spoken.lines[0].language, placed, tuple(notes))


def known_beforehand(lines: Sequence[ScriptLine], speaking: Speaking, frames: int) -> align.Bias | None:
    """What the lines' times and the speakers' stretches say of where words lie; None when they say nothing.

    A line is drawn to its times by a loss that grows with the distance; outside a speaker's stretches the loss is so
    large that only words that fit nowhere else end up there, so that the search stays total.
    """
    if not any(line.start is not None for line in lines) and not any(line.speaker in speaking for line in lines):
        return None
    first = np.array([-np.inf if line.start is None else line.start - _SLACK for line in lines])
    last = np.array([np.inf if line.end is None else line.end + _SLACK for line in lines])
    speakers = sorted(speaking)
    silent = np.zeros((len(speakers) + 1, frames), np.float32)
    for row, speaker in enumerate(speakers):
        silent[row] = -_NOT_SPEAKING
        for start, end in speaking[speaker]:
            silent[row, max(0, round(start / STEP_SECONDS)) : max(0, round(end / STEP_SECONDS))] = 0
    row_of = np.array([speakers.index(line.speaker) if line.speaker in speaking else -1 for line in lines])

    def bias(t: int) -> Array:
        seconds = t * STEP_SECONDS
        away = np.minimum(np.maximum(0.0, np.maximum(first - seconds, seconds - last)), _FAR)
        loss = silent[row_of, t] - _PULL * away
        return np.concatenate([loss, [0.0]]).astype(np.float32)

    return bias


def _prepare(lines: Sequence[ScriptLine], lexicon: pronounce.Lexicon | None) -> _Script:
    tokens, decided = [], dict(lexicon or {})
    for i, line in enumerate(lines):
        for number, token in enumerate(words.tokens(line.text, check_language(line.language))):
            said = line.said.get(number)
            if said:
                # A name no other word can have carries this place's own pronunciation into the lexicon.
                own = f"\0{i}.{number}"
                decided[own, token.language] = (phones.parse_ipa(said),)
                token = words.Token(token.text, (own,), token.language)  # noqa: PLW2901
            tokens.append((token, i))
    said_so = pronounce.pronounce([token for token, _ in tokens], decided)
    kept = [(word, i) for word, (_, i) in zip(said_so, tokens, strict=True) if word]
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
        Line(line.text, own[0].start, own[-1].end, tuple(own), line.id)
        for line, own in zip(script.lines, by_line, strict=True)
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
