"""Readings of sound nobody wrote words for: a free loop finds the sounds, so that mouths move at once; words are
recognised after that, piece by piece, and read like any written ones; where no speech is found, the mouth opens and
closes with the loudness."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ..errors import ScriptError
from ..sound.features import STEP_SECONDS
from ..sound.recording import READ_RATE, Recording
from . import model, phrases, recognise
from .align import Span
from .by_sounds import filled, loop, runs_of_sounds, word_of
from .espeak import check_language
from .hearing import Ear, Heard
from .loudness import swells
from .pronounce import Lexicon
from .quiet import stands_out
from .read import SILENT_LEVEL, LineToRead, Speaking, read_lines
from .reading import SOUNDS_ONLY, Line, Reading, Sound, moved
from .refine import bands

HEARD, SOUNDS, LOUDNESS = "heard", "sounds", "loudness"
"""What an unscripted reading rests on."""

NOTES = {
    HEARD: "Nothing is written for this sound: the words were recognised, and some will be wrong. Correct them.",
    SOUNDS: "Nothing is written for this sound, and words of its language are not recognised: sounds only were found.",
    LOUDNESS: "Nothing is written for this sound, and no speech was recognised in it: the mouth follows its loudness.",
}

_VOWELS_A_SECOND, _PHONES_A_SECOND = 1.0, 4.0
_MANY_KINDS, _KINDS_A_PHONE = 8, 0.7
_LEAST_SURE = 0.4
"""Below this, what was recognised as words is no words."""

_AT_ONCE, _WHEN_LONGER = 12.0, 30.0
"""Of what is longer than the second, so many seconds are followed by their sounds first."""

_SHORT = 0.3
"""Seconds too few to be heard again by themselves."""

_SOUNDS_SHARE = 0.1

Progress = Callable[[float], None]


@dataclass(frozen=True)
class HeardLine:
    """Words that were recognised, as they are written, and how they were read; seconds. language: in which they were
    heard."""

    text: str
    line: Line
    language: str

    @property
    def start(self) -> float:
        """When its first word begins."""
        return self.line.start

    @property
    def end(self) -> float:
        """When its last word ends."""
        return self.line.end


@dataclass(frozen=True)
class Listening:
    """How a sound is listened to. language: the usual one; also: others that may be spoken in it; hints: names and
    other words that may be said; lexicon: how words are said; speaking: who is heard when, by numbers, for a line to
    end where another begins to speak; progress, sounds and words: told of the share that is done, of what is known by
    the sounds alone, and of lines with words as they come, with the lines by sounds that are left beside all of
    them."""

    language: str = "en"
    also: Sequence[str] = ()
    hints: Sequence[str] = ()
    lexicon: Lexicon | None = None
    speaking: Speaking = field(default_factory=dict)
    progress: Progress = lambda share: None
    sounds: Callable[[Reading], None] = lambda reading: None
    words: Callable[[Sequence[HeardLine], Sequence[Line]], None] = lambda lines, rest: None


@dataclass(frozen=True)
class Unscripted:
    """What was found in a sound. reading: of all of it, lines that have words numbered from 1, others 0; heard: the
    former; basis: which of HEARD, SOUNDS and LOUDNESS it rests on; language: the one it is mostly in;
    maybe: another that may be spoken instead, or ""; sound: as the searches went by it, None where it cannot be
    speech."""

    reading: Reading
    heard: Sequence[HeardLine]
    basis: str
    language: str
    maybe: str = ""
    sound: Heard | None = None


def read_unscripted(recording: Recording, how: Listening) -> Unscripted:
    """Return what is said in a recording of which nothing is written. Total on any recording. ScriptError for a
    language that is not known."""
    code = check_language(how.language)
    if recording.seconds > _WHEN_LONGER:
        how.sounds(read_sounds(recording.window(0.0, _AT_ONCE), code))
    ear = _listen(recording)
    found = _without_words(recording, code, ear)
    how.progress(_SOUNDS_SHARE)
    if not ear or NOTES[SOUNDS] not in found.notes:
        # Over a tone or music words are made up, and made up well: where no sounds of speech are there are no words.
        how.progress(1.0)
        return Unscripted(found, (), LOUDNESS, code, sound=ear)
    how.sounds(found)
    listener = _Listener(recording, how, ear, [word.sounds for word in found.words()])
    heard = list(listener.lines())
    how.progress(1.0)
    if not heard:
        return Unscripted(found, (), SOUNDS, listener.language, listener.maybe, ear)
    lines = [replace(one.line, id=number) for number, one in enumerate(heard, 1)]
    every = tuple(sorted((*lines, *listener.rest()), key=lambda line: line.start))
    notes = (NOTES[HEARD], *recording.notes)
    read = Reading(recording.seconds, recording.rate, listener.language, every, notes)
    return Unscripted(read, heard, HEARD, listener.language, listener.maybe, ear)


class _Listener:
    """Hears the words of a recording, piece by piece, and reads them. runs: its sounds, where words are not known."""

    def __init__(self, recording: Recording, how: Listening, ear: Heard, runs: Sequence[Sequence[Sound]]) -> None:
        assert isinstance(ear.warp, float)
        self._recording, self._how, self._warp = recording, how, ear.warp
        self._runs = runs
        self._pieces = [(a / READ_RATE, b / READ_RATE) for a, b in recognise.pieces(recording.samples)]
        self._worded: set[tuple[float, float]] = set()
        own = [how.language, *(one for one in how.also if one != how.language)]
        self._own = [code for code in own if recognise.hears(code)]
        self.language, self.maybe = how.language, ""
        if recognise.tells_languages():
            self.language, self.maybe = recognise.settled(self._shares(), self._own or [how.language])

    def lines(self) -> Iterator[HeardLine]:
        """The lines of all pieces, told as they come."""
        if not recognise.hears(self.language):
            return
        for begin, end in self._pieces:
            found = [line for line in self._piece(begin, end) if _sure(line) >= _LEAST_SURE]
            if found:
                self._worded.add((begin, end))
                found = self._filled(found, begin, end)
                self._how.words(found, self.rest())
            self._how.progress(_SOUNDS_SHARE + (1 - _SOUNDS_SHARE) * end / self._pieces[-1][1])
            yield from found

    def rest(self) -> list[Line]:
        """Lines by sounds alone, where no words are known."""
        left = [piece for piece in self._pieces if piece not in self._worded]
        return [_line(run) for piece in left for run in self._within(*piece)]

    def _within(self, begin: float, end: float) -> list[list[Sound]]:
        parts = ([one for one in run if begin <= (one.start + one.end) / 2 < end] for run in self._runs)
        return [part for part in parts if part]

    def _filled(self, lines: Sequence[HeardLine], begin: float, end: float) -> list[HeardLine]:
        whole = filled([one.line for one in lines], self._within(begin, end))
        return [replace(one, line=line) for one, line in zip(lines, whole, strict=True)]

    def _shares(self) -> dict[str, float]:
        """How likely each language is, where most is said."""
        spans = [slice(round(a * READ_RATE), round(b * READ_RATE)) for a, b in self._pieces]
        loudest = max(spans, key=lambda span: float((self._recording.samples[span] ** 2).sum()))
        return recognise.languages_in(self._recording.samples[loudest])

    def _piece(self, begin: float, end: float) -> Iterator[HeardLine]:
        """What is heard in a stretch, as one language or, where several may be spoken, each part as its own."""
        if len(self._own) < 2 or not recognise.tells_languages():
            yield from self._words(begin, end, self.language)
            return
        for first, last, language in self._by_language(begin, end):
            yield from self._words(first, last, language)

    def _by_language(self, begin: float, end: float) -> list[tuple[float, float, str]]:
        found: list[tuple[float, float, str]] = []
        for first, last in phrases.stretches(self._recording, begin, end):
            shares = recognise.languages_in(self._recording.window(first, last).samples)
            language = recognise.one_of(shares, self._own, found[-1][2] if found else self.language)
            if found and found[-1][2] == language:
                found[-1] = (found[-1][0], last, language)
            else:
                found.append((first, last, language))
        return found

    def _words(self, begin: float, end: float, language: str) -> Iterator[HeardLine]:
        """The words in a stretch; what fits badly is heard again by itself, and stays so if it then fits better."""
        for line in self._read(begin, end, language):
            doubted = _sure(line) < _LEAST_SURE and line.end - line.start > _SHORT
            again = list(self._read(line.start, line.end, language)) if doubted else []
            yield from again if again and min(map(_sure, again)) > _sure(line) else [line]

    def _read(self, begin: float, end: float, language: str) -> Iterator[HeardLine]:
        window = self._recording.window(begin, end)
        texts = sentences_in(window, language, self._how.hints)
        written = [LineToRead(text, language, n, recognised=True) for n, text in enumerate(texts)]
        try:
            reading = read_lines(window, written, self._how.lexicon, warps={0: self._warp})
        except ScriptError:
            return  # Nothing of it can be spoken.
        for line in reading.lines:
            for text, part in phrases.parted(moved(line, begin), language, self._how.speaking):
                yield HeardLine(text, part, language)


def sentences_in(window: Recording, language: str, hints: Sequence[str]) -> list[str]:
    """Return what is recognised in up to recognise.LONGEST seconds of sound, by sentences; none where nothing is."""
    return phrases.sentences(recognise.sentences(window.samples, language, hints))


def _sure(line: HeardLine) -> float:
    return float(np.mean([word.confidence for word in line.line.words if word.said] or [0.0]))


def read_sounds(recording: Recording, language: str) -> Reading:
    """Return a reading by the sounds alone, or by the loudness where no speech is found. Total on any recording."""
    return _without_words(recording, check_language(language), _listen(recording))


def _listen(recording: Recording) -> Heard | None:
    """The sound as the searches go by it; None where it cannot be speech."""
    if recording.peak < SILENT_LEVEL or not stands_out(bands(recording.samples)):
        return None
    ear = Ear(recording.samples, model.load())
    return ear.listen(ear.warps()[0])


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
