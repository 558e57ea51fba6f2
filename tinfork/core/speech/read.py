"""Sound and script in, a reading out: the stages of speech in order."""

import itertools
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ..errors import ScriptError
from ..sound.features import STEP_SECONDS, Singles, frame_total
from ..sound.recording import Recording
from . import align, listening, model, phones, pronounce, words
from .by_sounds import unwritten, with_words_between, without_covered
from .espeak import check_language
from .fit import Fitted, Unit
from .hearing import Ear, Heard
from .reading import Line, Reading, Sound, Word
from .reapply import Slot, in_order, reapplied
from .refine import refined
from .room import HAIR, needed, with_room

Progress = Callable[[float], None]
Speaking = Mapping[int, Sequence[tuple[float, float]]]
Finished = Callable[[Sequence[Line]], None]

SILENT_LEVEL = 10 ** (-60 / 20)
_SLACK = 0.4
_FAR = 10.0
_PULL = 2.0
_NOT_SPEAKING = 200.0
_MOST_QUOTED = 6
_NOTHING_THERE = 0.3
_FITS = 0.65


@dataclass(frozen=True)
class LineToRead:
    """One phrase to be found in the sound. id and speaker: the caller's numbers; start and end: about when, in
    seconds, where it is known; said: by word number, how that word is said here, in IPA; recognised: its words are what
    was heard, and nobody has looked at them yet."""

    text: str
    language: str = "en"
    id: int = 0
    speaker: int = 0
    start: float | None = None
    end: float | None = None
    said: Mapping[int, str] = field(default_factory=dict)
    recognised: bool = False


@dataclass(frozen=True)
class _Wanted:
    """A word to be found: in which line, how it may be said. kept: what a person set of it; unit: its first unit and
    the one after its last, equal for a word that a person said is not spoken."""

    line: int
    spoken: pronounce.Spoken
    kept: Word | None = None
    units: tuple[int, int] = (0, 0)

    @property
    def absent(self) -> bool:
        """Whether a person said that it is not spoken."""
        return self.kept is not None and not self.kept.said


@dataclass(frozen=True)
class _Script:
    """All lines with the words to be found in them; lost: words a person had set that have no place any more."""

    lines: tuple[LineToRead, ...]
    wanted: tuple[_Wanted, ...]
    units: tuple[Unit, ...]
    lost: tuple[tuple[int, Word], ...]


def read(recording: Recording, script: str, language: str = "en", progress: Progress = lambda share: None) -> Reading:
    """Fit a plain script to the recording, one line a phrase, as read_lines does."""
    code = check_language(language)
    lines = [LineToRead(text, code, number) for number, text in enumerate(words.split_lines(script))]
    return read_lines(recording, lines, progress=progress)


def read_lines(
    recording: Recording,
    lines: Sequence[LineToRead],
    lexicon: pronounce.Lexicon | None = None,
    speaking: Speaking | None = None,
    progress: Progress = lambda share: None,
    before: Mapping[int, Line] | None = None,
    finished: Finished = lambda lines: None,
    warps: Mapping[int, float] | None = None,
) -> Reading:
    """Fit the lines' words and sounds to the recording, in the order of the lines.

    Total on any recording and any script with a speakable word: wrong words get a reading too, of low confidence.
    speaking: for a speaker, the only stretches (start, end) in seconds where they may be heard. before: by line id, the
    line as it was read before, in seconds of this recording; what a person set in it is kept exactly, and what can no
    longer be kept is in the reading's lost. finished: told of lines as soon as they are read. warps: by
    speakers, how much higher their formants are known to lie than usual.
    Raises ScriptError for a script with nothing to say, or an unknown language.
    """
    acoustic = model.load()
    script = _prepare(lines, lexicon, before or {}, recording.seconds, acoustic)
    progress(0.1)
    ear = Ear(recording.samples, acoustic)
    progress(0.2)
    bias = known_beforehand(script.lines, speaking or {}, frame_total(len(recording.samples)))
    to_find = listening.ExpectedWords(script.units, [line.speaker for line in script.lines], bias)
    listened = listening.listen(ear, to_find, acoustic, warps or {}, lambda share: progress(0.2 + 0.4 * share))
    heard = listened.heard
    assembly = _Assembly(script, recording, heard, acoustic)
    pieces = []
    for piece in listened.fitted:
        progress(0.6 + 0.3 * piece.end / len(heard.scores))
        pieces.append(replace(piece, spans=refined(piece.spans, heard.energy, acoustic)))
        ready = assembly.add(pieces[-1])
        if ready:
            finished(ready)
    ready = assembly.rest()
    if ready:
        finished(ready)
    progress(0.9)
    return Reading(
        recording.seconds,
        recording.rate,
        script.lines[0].language,
        without_covered(assembly.lines),
        tuple(_notes(recording, script, pieces, assembly.lines, heard.audible)),
        script.lost,
        dict(listened.warps),
    )


def _notes(
    recording: Recording, script: _Script, pieces: Sequence[Fitted], lines: Sequence[Line], audible: bool
) -> Iterator[str]:
    yield from recording.notes
    sure = [w.confidence for line in lines for w in line.words if w.said and not w.is_set and not w.is_unwritten]
    if recording.peak < SILENT_LEVEL:
        yield "The sound is silent: the words are placed, but nothing was heard. Check the recording."
    elif not audible:
        yield "No speech stands out in this sound; the words are placed, with little certainty. Check the recording."
    if any(piece.squeezed for piece in pieces):
        yield (
            f"The sound lasts {recording.seconds:.1f} s, too short for {len(script.wanted):,} words; they are "
            "spread evenly where they do not fit. Check that sound and script belong together."
        )
    elif any(piece.doubted for piece in pieces) or (audible and sure and float(np.mean(sure)) < _FITS):
        yield "The words fit this sound poorly. Check that sound, script and language belong together."
    own = {line.id for line in script.lines if line.recognised}
    written = (word for line in lines if line.id not in own for word in line.words)
    unsaid = [word.text for word in written if not word.said and not word.decided]
    if unsaid:
        yield f"Written but not heard: {_quoted(unsaid)}"
    beside = [word.text for line in lines for word in line.words if word.extra]
    if beside:
        yield f"Heard but not written, beside: {_quoted(beside)}"


def _quoted(texts: Sequence[str]) -> str:
    shown = ", ".join(f"“{text}”" for text in texts[:_MOST_QUOTED])
    return shown + (f" and {len(texts) - _MOST_QUOTED} more." if len(texts) > _MOST_QUOTED else ".")


def known_beforehand(lines: Sequence[LineToRead], speaking: Speaking, frames: int) -> align.Bias | None:
    """Return what the lines' times and the speakers' stretches say of where words lie; None when they say nothing.

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

    def bias(t: int) -> Singles:
        seconds = t * STEP_SECONDS
        away = np.minimum(np.maximum(0.0, np.maximum(first - seconds, seconds - last)), _FAR)
        loss = silent[row_of, t] - _PULL * away
        return np.concatenate([loss, [0.0]]).astype(np.float32)

    return bias


def _prepare(
    lines: Sequence[LineToRead],
    lexicon: pronounce.Lexicon | None,
    before: Mapping[int, Line],
    seconds: float,
    acoustic: model.AcousticModel,
) -> _Script:
    wanted: list[_Wanted] = []
    lost: list[tuple[int, Word]] = []
    for row, (line, spoken) in enumerate(zip(lines, _spoken(lines, lexicon), strict=True)):
        old = before.get(line.id)
        places, gone = reapplied(old, [word.text for word in spoken], old is not None and old.text == line.text)
        wanted += [_Wanted(row, _as_said(place, spoken), place.kept) for place in places]
        lost += [(line.id, word) for word in gone]
    if not wanted:
        raise ScriptError("The script has no word that can be spoken; type the words as they are said.")
    stay = in_order([one.kept or _NOBODY for one in wanted], seconds)
    for number, one in enumerate(wanted):
        if one.kept and one.kept.pinned and number not in stay:
            lost.append((lines[one.line].id, one.kept))
            wanted[number] = replace(one, kept=replace(one.kept, pinned=()))
    units: list[Unit] = []
    for number, one in enumerate(wanted):
        own = list(_units(one, acoustic))
        wanted[number] = replace(one, units=(len(units), len(units) + len(own)))
        units += own
    return _Script(tuple(lines), tuple(wanted), tuple(units), tuple(lost))


_NOBODY = Word("", 0, 0, 0, False, ())


def _spoken(lines: Sequence[LineToRead], lexicon: pronounce.Lexicon | None) -> list[list[pronounce.Spoken]]:
    """For each line its speakable words."""
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
    found: list[list[pronounce.Spoken]] = [[] for _ in lines]
    for word, (_, i) in zip(pronounce.pronounce([token for token, _ in tokens], decided), tokens, strict=True):
        if word:
            found[i].append(word)
    return found


def _as_said(place: Slot, spoken: Sequence[pronounce.Spoken]) -> pronounce.Spoken:
    """How the word at a place is said: as a person decided, else as it is pronounced."""
    if place.kept and (place.kept.decided or place.token is None):
        sounds = tuple((sound.ipa, sound.stress) for sound in place.kept.sounds)
        return pronounce.Spoken(place.kept.text, (sounds,), False)
    return spoken[place.token or 0]


def _units(wanted: _Wanted, acoustic: model.AcousticModel) -> Iterator[Unit]:
    """The pieces a word is searched in: parted where a person pinned one of its inner edges."""
    variants = model_variants(wanted.spoken, acoustic)
    kept = wanted.kept
    if wanted.absent:
        return
    if kept is None or not kept.is_set:
        yield Unit(tuple(variants), group=wanted.line)
        return
    edges = kept.edges
    last = len(kept.sounds)
    inner = [edge for edge in kept.pinned if 0 < edge < last] if kept.decided else []
    steps = {edge: max(0, round(edges[edge] / STEP_SECONDS)) for edge in kept.pinned}
    if not inner:
        yield Unit(tuple(variants), steps.get(0), steps.get(last), wanted.line, certain=True)
        return
    spoken = [tuple(acoustic.index(name) for name in phones.to_arpabet(sound.ipa)) for sound in kept.sounds]
    for a, b in itertools.pairwise([0, *inner, last]):
        piece = tuple(itertools.chain(*spoken[a:b]))
        yield Unit((piece,), steps.get(a), steps.get(b), wanted.line, certain=True)


def model_variants(word: pronounce.Spoken, acoustic: model.AcousticModel) -> list[align.Phones]:
    """Return variants as model phones. Kept in step with word.variants, doubles and all."""
    return [
        tuple(acoustic.index(name) for ipa, _ in variant for name in phones.to_arpabet(ipa))
        for variant in word.variants
    ]


class _Assembly:
    """Lines put together from the pieces of the search, as they come."""

    def __init__(self, script: _Script, recording: Recording, heard: Heard, acoustic: model.AcousticModel) -> None:
        self._script, self._recording, self._heard, self._acoustic = script, recording, heard, acoustic
        self._trust = 1.0 if heard.audible else _NOTHING_THERE
        self._spans: dict[int, list[tuple[align.Span, float]]] = {}
        self._unsaid: set[int] = set()
        self._extra: dict[int, list[tuple[float, float]]] = {}
        self._done = 0
        self.lines: tuple[Line, ...] = ()

    def add(self, piece: Fitted) -> tuple[Line, ...]:
        """Take a piece; the lines that are whole with it."""
        for span, sure in zip(piece.spans, piece.sure, strict=True):
            if span.word >= 0:
                self._spans.setdefault(span.word, []).append((span, sure))
        self._unsaid |= piece.unsaid
        for start, end, unit in piece.speech:
            self._extra.setdefault(unit, []).append((self._seconds(start), self._seconds(end)))
        return self._take(piece.last)

    def rest(self) -> tuple[Line, ...]:
        """Return the lines that are left when no piece is."""
        return self._take(len(self._script.units) + 1)

    def _take(self, units: int) -> tuple[Line, ...]:
        """Lines all of whose units lie before a number, if more words are to follow."""
        wanted = self._script.wanted
        whole = self._done
        for number in range(self._done, len(wanted)):
            if wanted[number].units[1] > units:
                break
            if number + 1 == len(wanted) or wanted[number + 1].line != wanted[number].line:
                whole = number + 1
        numbers = range(self._done, whole)
        self._done = whole
        settled = self._settled(numbers)
        begin = self.lines[-1].end if self.lines else 0.0
        lines = []
        for row, own in itertools.groupby(zip(numbers, settled, strict=True), key=lambda pair: wanted[pair[0]].line):
            line = self._script.lines[row]
            found = _standing([word for _, word in own], begin)
            begin = found[-1].end
            lines.append(self._followed(Line(line.text, found[0].start, begin, found, line.id), line))
        self.lines = (*self.lines, *lines)
        return tuple(lines)

    def _followed(self, line: Line, written: LineToRead) -> Line:
        """A line with the sounds of what is said beside its words and not written, as words of their own."""
        code = check_language(written.language)
        said = sorted((word.start, word.end) for word in line.words if word.said)
        before = self.lines[-1].end if self.lines else 0.0
        more = [
            word
            for span in sorted({span for word in line.words for span in word.extra})
            for start, end in _free(span, [(0.0, before), *said])
            for word in unwritten(
                self._recording, self._heard, self._acoustic, code, start, end, not written.recognised
            )
        ]
        return with_words_between(line, more) if more else line

    def _settled(self, numbers: range) -> list[Word]:
        """Some words in order, none of which runs into another's pins, or into the line before."""
        placed = [self._word(number) for number in numbers]
        heard = [word for word in placed if word.said]
        after = next((w.kept for w in self._script.wanted[numbers.stop :] if w.kept and 0 in w.kept.pinned), None)
        last = after.start if after else self._recording.seconds
        first = max((word.end for line in self.lines[-1:] for word in line.words), default=0.0)
        edges = [first, *(edge for word in heard for edge in word.edges), last]
        held = [True, *(edge in word.pinned for word in heard for edge in range(len(word.edges))), True]
        for at in range(1, len(edges)):
            edges[at] = edges[at] if held[at] else max(edges[at], edges[at - 1])
        for at in range(len(edges) - 2, -1, -1):
            edges[at] = edges[at] if held[at] else min(edges[at], edges[at + 1])
        if any(held[1:-1]):
            sounds = [[needed(sound.ipa) for sound in word.sounds] for word in heard]
            edges = with_room(edges, held, [0.0, *(need for own in sounds for need in (*own, 0.0))])
        following = iter(edges[1:])
        settled = [word.with_edges([next(following) for _ in word.edges]) if word.said else word for word in placed]
        return [replace(word, tight=_is_tight(word)) for word in settled]

    def _word(self, number: int) -> Word:
        """A word with its sounds where they were found; of no length where it was not said."""
        wanted = self._script.wanted[number]
        units = range(*wanted.units)
        extra = tuple(sorted(span for unit in units for span in self._extra.get(unit, ())))
        if wanted is self._script.wanted[-1]:
            extra += tuple(self._extra.get(len(self._script.units), ()))
        if wanted.absent or any(unit in self._unsaid for unit in units):
            sounds = tuple(Sound(ipa, 0, 0, 0.0, stress, 0.0) for ipa, stress in wanted.spoken.variants[0])
            word = Word(wanted.spoken.text, 0, 0, 0.0, wanted.spoken.guessed, sounds, said=False, extra=extra)
            return replace(word, decided=wanted.absent)
        rows = [row for unit in units for row in self._spans[unit]]
        word = self._sounding(wanted.spoken, rows)
        return replace(_with_decisions(word, wanted.kept) if wanted.kept else word, extra=extra)

    def _sounding(self, spoken: pronounce.Spoken, rows: Sequence[tuple[align.Span, float]]) -> Word:
        """One word's sounds; an IPA sound that two model phones stand for gets both their spans."""
        following = iter(rows)
        sounds = []
        for ipa, stress in spoken.variants[rows[0][0].variant]:
            own = [next(following) for _ in phones.to_arpabet(ipa)]
            start, end = self._seconds(own[0][0].start), self._seconds(own[-1][0].end)
            sure = round(min(c for _, c in own), 3)
            sounds.append(Sound(ipa, start, end, sure, stress, self._recording.level(start, end)))
        trust = self._trust if any(sound.level for sound in sounds) else _NOTHING_THERE
        sounds = [replace(sound, confidence=round(sound.confidence * trust, 3)) for sound in sounds]
        mean = round(sum(s.confidence for s in sounds) / len(sounds), 3)
        return Word(spoken.text, sounds[0].start, sounds[-1].end, mean, spoken.guessed, tuple(sounds))

    def _seconds(self, frame: float) -> float:
        return round(min(frame * STEP_SECONDS, self._recording.seconds), 6)


def _is_tight(word: Word) -> bool:
    """Whether a sound that was found has less room beside a pinned edge than it needs."""
    own = set(word.pinned)
    return word.said and any(
        len(own & {number, number + 1}) == 1 and sound.end - sound.start < needed(sound.ipa) - HAIR
        for number, sound in enumerate(word.sounds)
    )


def _free(span: tuple[float, float], taken: Sequence[tuple[float, float]]) -> Iterator[tuple[float, float]]:
    """What is left of a stretch between others, which are in order."""
    begin, end = span
    for first, last in taken:
        if first >= end:
            break
        if first > begin:
            yield begin, first
        begin = max(begin, last)
    if begin < end:
        yield begin, end


def _with_decisions(word: Word, kept: Word) -> Word:
    """A word found anew with what a person set of it; inner edges stay only with the sounds they were set between."""
    last = len(kept.sounds)
    number_of = {0: 0, last: len(word.sounds)}
    if kept.decided:
        number_of = {number: number for number in range(last + 1)}
    edges = list(word.edges)
    for number in kept.pinned:
        if number in number_of:
            edges[number_of[number]] = kept.edges[number]
    pinned = tuple(number_of[number] for number in kept.pinned if number in number_of)
    return replace(word.with_edges(edges), pinned=pinned, decided=kept.decided)


def _standing(words: Sequence[Word], begin: float) -> tuple[Word, ...]:
    """A line's words; those that were not said stand for a moment after the word before, or before the word after."""
    moment = next((word.start for word in words if word.said), begin)
    found = []
    for word in words:
        stood = word if word.said else word.with_edges([moment] * len(word.edges))
        moment = stood.end
        found.append(stood)
    return tuple(found)
