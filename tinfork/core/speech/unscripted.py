"""Readings of sound nobody wrote words for: English words are recognised; elsewhere a free loop finds the sounds; and
where that finds no speech, the mouth opens and closes with the loudness."""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from scipy.ndimage import uniform_filter1d

from ..sound.recording import READ_RATE, Recording
from . import model
from .align import Span
from .confidence import path_confidence
from .espeak import check_language
from .features import STEP_SECONDS, Array
from .hearing import Ear
from .loop import best_loop
from .phones import from_arpabet
from .quiet import stands_out
from .read import SILENT_LEVEL, LineToRead, read_lines
from .reading import Line, Reading, Sound, Word
from .recognise import HeardLine, heard_lines
from .refine import bands, refined
from .words import is_english

HEARD, SOUNDS, LOUDNESS = "heard", "sounds", "loudness"
"""What an unscripted reading rests on."""

NOTES = {
    HEARD: "Nothing is written for this sound: the words were recognised, and many will be wrong. Correct them.",
    SOUNDS: "Nothing is written for this sound, and words of its language are not recognised: sounds only were found.",
    LOUDNESS: "Nothing is written for this sound, and no speech was recognised in it: the mouth follows its loudness.",
}

SOUNDS_ONLY = "(sounds)"
"""The text of lines and words that have none."""

_LINE_PAUSE = 15
_VOWELS_A_SECOND, _PHONES_A_SECOND = 1.0, 4.0
_MANY_KINDS, _KINDS_A_PHONE = 8, 0.7
_SURE_OF_LOUDNESS = 0.2
_LEAST_SURE = 0.4
"""Below this, what was recognised as words is no words."""
_OPEN_ABOVE_DB, _PIECE = 25.0, 320
_LEAST_DIP_DB = 3.0
_VOWEL_BY_BRIGHTNESS = ((500, "u"), (900, "o"), (1500, "ɑ"), (2300, "ɛ"), (8001, "i"))

Progress = Callable[[float], None]


def read_unscripted(
    recording: Recording, language: str, progress: Progress = lambda share: None
) -> tuple[Reading, list[HeardLine], str]:
    """A reading, the lines that were heard for it if any, and which of HEARD, SOUNDS and LOUDNESS it rests on. Total on
    any recording. ScriptError for a language that is not known."""
    code = check_language(language)
    may_be_speech = _may_be_speech(recording)
    if may_be_speech and is_english(code):
        heard = heard_lines(recording, lambda share: progress(0.6 * share))
        if heard:
            lines = [LineToRead(one.text, code, n, 0, one.start, one.end) for n, one in enumerate(heard)]
            reading = read_lines(recording, lines, progress=lambda share: progress(0.6 + 0.4 * share))
            if np.mean([word.confidence for word in reading.words()]) >= _LEAST_SURE:
                return replace(reading, notes=(NOTES[HEARD], *reading.notes)), heard, HEARD
    found = _without_words(recording, code, may_be_speech)
    progress(1.0)
    return found, [], SOUNDS if NOTES[SOUNDS] in found.notes else LOUDNESS


def read_sounds(recording: Recording, language: str) -> Reading:
    """A reading by the sounds alone, or by the loudness where no speech is found. Total on any recording."""
    return _without_words(recording, check_language(language), _may_be_speech(recording))


def _may_be_speech(recording: Recording) -> bool:
    return recording.peak >= SILENT_LEVEL and stands_out(bands(recording.samples))


def _without_words(recording: Recording, code: str, may_be_speech: bool) -> Reading:
    lines = _by_sounds(recording) if may_be_speech else []
    notes = (*recording.notes, NOTES[SOUNDS if lines else LOUDNESS])
    return Reading(recording.seconds, recording.rate, code, tuple(lines or _by_loudness(recording)), notes)


def _by_sounds(recording: Recording) -> list[Line]:
    """Lines of sounds from a free loop of phones; none where it finds no speech."""
    acoustic = model.load()
    ear = Ear(recording.samples, acoustic)
    heard = ear.heard(ear.warps()[0])
    spans = best_loop(heard.scores, acoustic)
    if not _is_speech(spans, acoustic):
        return []
    sure = path_confidence(heard.scores, spans)
    placed = refined(spans, heard.energy, acoustic)
    lines: list[list[Sound]] = [[]]
    for span, confidence in zip(placed, sure, strict=True):
        name = acoustic.phones[span.phone]
        if name.isalpha() and name != "SIL":
            start, end = _seconds(span.start, recording), _seconds(span.end, recording)
            level = recording.level(start, end)
            lines[-1].append(Sound(from_arpabet(f"{name}1")[0], start, end, round(confidence, 3), 0, level))
        elif span.end - span.start >= _LINE_PAUSE and lines[-1]:
            lines.append([])
    return [_line(sounds) for sounds in lines if sounds]


def _is_speech(spans: Sequence[Span], acoustic: model.AcousticModel) -> bool:
    """Whether a path through the loop has as many vowels and phones a second as speech, where it is not silent, and as
    many kinds of them."""
    spoken = [span for span in spans if span.phone in acoustic.speech_rows]
    seconds = sum(span.end - span.start for span in spoken) * STEP_SECONDS
    vowels = sum(acoustic.phones[span.phone][0] in "AEIOU" for span in spoken)
    kinds = len({span.phone for span in spoken})
    return (
        vowels > 0
        and vowels >= _VOWELS_A_SECOND * seconds
        and len(spoken) >= _PHONES_A_SECOND * seconds
        and kinds >= min(_MANY_KINDS, _KINDS_A_PHONE * len(spoken))
    )


def _by_loudness(recording: Recording) -> list[Line]:
    """One vowel for each swell of the sound, the brighter the wider; none in silence."""
    if recording.peak < SILENT_LEVEL:
        return []
    samples = recording.samples
    pieces = samples[: max(1, len(samples) // _PIECE) * _PIECE]
    pieces = np.pad(pieces, (0, -len(pieces) % _PIECE)).reshape(-1, _PIECE)
    levels = 10 * np.log10(uniform_filter1d((pieces**2).mean(axis=1), 3) + 1e-12)
    open_ = levels > levels.max() - _OPEN_ABOVE_DB
    lines = []
    edges = np.flatnonzero(np.diff(np.concatenate([[False], open_, [False]]).astype(int)))
    for first, last in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        cuts = [first, *_dips(levels, first, last), last]
        lines.append(_line([_swell(recording, samples, a, b) for a, b in itertools.pairwise(cuts)]))
    return lines


def _dips(levels: Array, first: int, last: int) -> list[int]:
    """Where the loudness dips between two swells."""
    cuts: list[int] = []
    peak, lowest, at = levels[first], levels[first], first
    for piece in range(first, last):
        if levels[piece] < lowest:
            lowest, at = levels[piece], piece
        elif min(peak, levels[piece]) - lowest >= _LEAST_DIP_DB and at > (cuts[-1] if cuts else first) + 2:
            cuts.append(at)
            peak = lowest = levels[piece]
        if levels[piece] > peak:
            peak = lowest = levels[piece]
    return [cut for cut in cuts if cut < last - 1]


def _swell(recording: Recording, samples: Array, first: int, last: int) -> Sound:
    piece = samples[first * _PIECE : last * _PIECE]
    power = np.abs(np.fft.rfft(piece * np.hanning(len(piece)))) ** 2
    hz = np.fft.rfftfreq(len(piece), 1 / READ_RATE)
    centre = float((power * hz).sum() / (power.sum() + 1e-12))
    vowel = next(ipa for top, ipa in _VOWEL_BY_BRIGHTNESS if centre < top)
    start, end = (min(round(n * _PIECE / READ_RATE, 6), recording.seconds) for n in (first, last))
    return Sound(vowel, start, end, _SURE_OF_LOUDNESS, 1, recording.level(start, end))


def _line(sounds: Sequence[Sound]) -> Line:
    sure = round(sum(sound.confidence for sound in sounds) / len(sounds), 3)
    word = Word(SOUNDS_ONLY, sounds[0].start, sounds[-1].end, sure, True, _joined(sounds))
    return Line(SOUNDS_ONLY, word.start, word.end, (word,))


def _joined(sounds: Sequence[Sound]) -> tuple[Sound, ...]:
    """Sounds each of which lasts until the next begins: short pauses go to the sound before them."""
    return tuple(
        replace(sound, end=after.start if after else sound.end)
        for sound, after in itertools.zip_longest(sounds, sounds[1:])
    )


def _seconds(frame: float, recording: Recording) -> float:
    return round(min(frame * STEP_SECONDS, recording.seconds), 6)
