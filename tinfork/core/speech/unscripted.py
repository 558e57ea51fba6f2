"""Readings of sound nobody wrote words for: a free loop finds the sounds, and in English words are recognised after
that; where no speech is found, the mouth opens and closes with the loudness."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from ..sound.features import STEP_SECONDS
from ..sound.recording import Recording
from . import model
from .align import Span
from .by_sounds import filled, loop, runs_of_sounds, word_of
from .espeak import check_language
from .hearing import Ear, Heard
from .loudness import swells
from .quiet import stands_out
from .read import SILENT_LEVEL, LineToRead, read_lines
from .reading import SOUNDS_ONLY, Line, Reading, Sound
from .recognise import HeardLine, heard_lines
from .refine import bands
from .words import is_english

HEARD, SOUNDS, LOUDNESS = "heard", "sounds", "loudness"
"""What an unscripted reading rests on."""

NOTES = {
    HEARD: "Nothing is written for this sound: the words were recognised, and many will be wrong. Correct them.",
    SOUNDS: "Nothing is written for this sound, and words of its language are not recognised: sounds only were found.",
    LOUDNESS: "Nothing is written for this sound, and no speech was recognised in it: the mouth follows its loudness.",
}

_VOWELS_A_SECOND, _PHONES_A_SECOND = 1.0, 4.0
_MANY_KINDS, _KINDS_A_PHONE = 8, 0.7
_LEAST_SURE = 0.4
"""Below this, what was recognised as words is no words."""
_SOUNDS_SHARE, _WORDS_SHARE = 0.1, 0.8

Progress = Callable[[float], None]


def read_unscripted(
    recording: Recording,
    language: str,
    progress: Progress = lambda share: None,
    first: Callable[[Reading], None] = lambda reading: None,
) -> tuple[Reading, list[HeardLine], str]:
    """Return a reading, the lines that were heard for it if any, and which of HEARD, SOUNDS and LOUDNESS it rests on.
    Total on any recording. ScriptError for a language that is not known.

    first: where words are still to be recognised, called with the reading by the sounds alone, which takes a tenth of
    the time.
    """
    code = check_language(language)
    heard = _listen(recording)
    found = _without_words(recording, code, heard)
    progress(_SOUNDS_SHARE)
    if heard and is_english(code):
        first(found)
        read, lines = _by_words(recording, code, heard, progress)
        if read and NOTES[SOUNDS] in found.notes:
            runs = [word.sounds for word in found.words()]
            read = replace(read, lines=filled(read.lines, runs))
        if read:
            return read, lines, HEARD
    progress(1.0)
    return found, [], SOUNDS if NOTES[SOUNDS] in found.notes else LOUDNESS


def read_sounds(recording: Recording, language: str) -> Reading:
    """Return a reading by the sounds alone, or by the loudness where no speech is found. Total on any recording."""
    return _without_words(recording, check_language(language), _listen(recording))


def _listen(recording: Recording) -> Heard | None:
    """The sound as the searches go by it; None where it cannot be speech."""
    if recording.peak < SILENT_LEVEL or not stands_out(bands(recording.samples)):
        return None
    ear = Ear(recording.samples, model.load())
    return ear.listen(ear.warps()[0])


def _by_words(
    recording: Recording, code: str, heard: Heard, progress: Progress
) -> tuple[Reading | None, list[HeardLine]]:
    """A reading by the words that are recognised, and these; None where they are no words."""

    def share(begin: float, end: float) -> Progress:
        return lambda own: progress(begin + own * (end - begin))

    lines = heard_lines(recording, share(_SOUNDS_SHARE, _WORDS_SHARE))
    written = [LineToRead(one.text, code, n, 0, one.start, one.end, recognised=True) for n, one in enumerate(lines)]
    if not written:
        return None, []
    assert isinstance(heard.warp, float)
    reading = read_lines(recording, written, progress=share(_WORDS_SHARE, 1.0), warps={0: heard.warp})
    if np.mean([word.confidence for word in reading.words()]) < _LEAST_SURE:
        return None, []
    return replace(reading, notes=(NOTES[HEARD], *reading.notes)), lines


def _without_words(recording: Recording, code: str, heard: Heard | None) -> Reading:
    lines = _by_sounds(recording, code, heard) if heard else []
    notes = (*recording.notes, NOTES[SOUNDS if lines else LOUDNESS])
    lines = lines or [_line(sounds) for sounds in swells(recording)]
    return Reading(recording.seconds, recording.rate, code, tuple(lines), notes)


def _by_sounds(recording: Recording, code: str, heard: Heard) -> list[Line]:
    """Lines of sounds from a free loop of phones; none where it finds no speech."""
    acoustic = model.load()
    spans = loop(heard.scores, acoustic, code)
    if not _is_speech(spans, acoustic):
        return []
    return [_line(sounds) for sounds in runs_of_sounds(recording, heard, acoustic, spans)]


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


def _line(sounds: Sequence[Sound]) -> Line:
    word = word_of(sounds)
    return Line(SOUNDS_ONLY, word.start, word.end, (word,))
