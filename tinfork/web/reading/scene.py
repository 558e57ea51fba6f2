"""Reading a scene: its lines, shared out among its sounds, become the readings of its staves."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from tinfork.core.errors import ScriptError
from tinfork.core.naming import some_of
from tinfork.core.script import marks
from tinfork.core.script.casting import SoundToRead, cast_lines, own_clips, unwritten
from tinfork.core.script.lines import ScriptLine
from tinfork.core.sound import mix, voices
from tinfork.core.sound.recording import Recording
from tinfork.core.speech import read, words
from tinfork.core.speech.espeak import languages
from tinfork.core.speech.phrases import most_heard
from tinfork.core.speech.reading import Line, Reading, Word, moved, moved_word
from tinfork.core.speech.unscripted import HeardLine, Listening, Unscripted, read_unscripted
from tinfork.web.lexicon.models import lexicon_of
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.script.actions import add_heard, assign_many, in_scene, script_of, unhear
from tinfork.web.script.languages import language_of
from tinfork.web.sound.arranging import arrangement_of, pieces_of
from tinfork.web.sound.listening import open_sounds
from tinfork.web.sound.models import Arrangement, SoundFile
from tinfork.web.staves.planning import scene_reading

from .hearing_again import heard_again
from .hinting import listening_for
from .merging import PartToRead, ReadingMerger, basis_of
from .voices import keep_voices, known_voices

Report = Callable[[float], None]

_MOST_QUOTED = 4
_MOSTLY = 0.5
"""The share of a line that is marked as somebody's, for it to be theirs."""


def to_read(scene: Scene) -> tuple[list[SoundToRead], list[str]]:
    """Return what is to be read of a scene, sounds without a written line last, and a sentence for what cannot be."""
    arrangement = arrangement_of(scene).value
    casting = cast_lines(arrangement, in_scene(scene))
    without_sound = [line for line in casting.without_sound if words.spoken_part(line.text).strip()]
    notes = []
    if without_sound:
        notes.append(f"Not read, as there is no sound for who speaks, or nobody is named: {_quoted(without_sound)}")
    return [*casting.parts, *unwritten(arrangement, casting)], notes


def name_marked(person: Person, scene: Scene, batch: int | None = None) -> list[str]:
    """Give each line that names nobody, and has a time, to who is marked as speaking for most of it; a sentence says
    so."""
    spans = marks.speaking(arrangement_of(scene).the_marks)
    timed = [line for line in in_scene(scene).lines if line.character is None] if spans else []
    whose = {
        line.id: who
        for line in timed
        if line.start is not None and line.end is not None
        if (who := most_heard(line.start, line.end, spans, _MOSTLY)) is not None
    }
    if not whose:
        return []
    assign_many(person, script_of(scene), whose, batch)
    names = dict(scene.production.characters.filter(pk__in=whose.values()).values_list("pk", "name"))
    shown = ", ".join(sorted(names.values()))
    many = "1 line that named nobody is" if len(whose) == 1 else f"{len(whose)} lines that named nobody are"
    return [f"{many} said by who is marked there: {shown}."]


def _quoted(lines: Sequence[ScriptLine]) -> str:
    """Some lines by their first words."""
    return some_of([f"“{line.text[:30]}”" for line in lines], _MOST_QUOTED) + "."


@dataclass(frozen=True)
class Asked:
    """What of a scene is to be read: lines by their ids, or none for all; of one line only some words, by their places
    in its stave's reading; batch: the number of the piece of work."""

    lines: frozenset[int] = frozenset()
    words: frozenset[tuple[int, int]] = frozenset()
    batch: int | None = None


def read_part(person: Person, scene: Scene, part: SoundToRead, asked: Asked, report: Report) -> list[str]:
    """Read one sound's lines, or only some of them, into the staves of who speaks them; sentences for the user."""
    document = arrangement_of(scene)
    recording = recording_of(document, part)
    own = PartToRead(person, scene, part, document, recording, asked.batch)
    report(0.1)
    if part.lines and unhear(person, script_of(scene), part.lines, asked.batch):
        own = replace(own, part=replace(part, lines=()))
    if not own.part.lines:
        return _hear(own, report)
    part, told = heard_again(person, scene, part, recording, asked.lines, asked.batch)
    own = replace(own, part=part)
    merger = ReadingMerger(own)
    known = _known_lines(scene, part, document)
    if asked.words:
        merger.restore = {number: (line, asked.words) for number, line in known.items()}
        known = {number: _held(line, asked.words) for number, line in known.items()}
    if asked.lines and known:
        notes = _read_again(scene, document, part, recording, asked.lines, known, merger)
    else:
        reading = _read(
            scene, document, part.lines, part, recording, known, merger.some, lambda share: report(0.1 + 0.8 * share)
        )
        merger.rest(reading)
        notes = list(reading.notes)
    nobody = [line for line in part.lines if line.character is None and words.spoken_part(line.text).strip()]
    if part.character is None and nobody:
        notes.append(f"Heard, but no mouth moves as nobody is named: {_quoted(nobody)}")
    return told + notes + merger.notes


def _hear(own: PartToRead, report: Report) -> list[str]:
    """Read a sound nobody wrote words for: its sounds first, so that mouths move at once; what is recognised after that
    becomes lines of the script, piece by piece, marked as heard."""
    part, production = own.part, own.scene.production
    speaking = marks.speaking(own.document.the_marks)
    if part.character is None and not speaking:
        own = replace(own, voices=_by_voice(own))
    hearing = _Hearing(own, speaking or own.voices)
    found = read_unscripted(own.recording, hearing.how(lambda share: report(0.1 + 0.8 * share)))
    notes = [*found.reading.notes, *hearing.notes, *_told_language(found, hearing.language)]
    if own.voices:
        names = production.characters.in_bulk(own.voices)
        told = ", ".join(str(names[who]) for who in own.voices)
        notes.append(f"Nobody is named for this sound; by their voices it was given to {told}. Say who speaks.")
    elif part.character is None and not (speaking and not found.heard) and not hearing.all_named:
        notes.append("No mouth moves for what nobody is named for; say who speaks.")
    return notes


class _Hearing:
    """Takes what is heard in a sound into its scene as it comes. speaking: who is heard when, by marks or voices."""

    def __init__(self, own: PartToRead, speaking: Mapping[int, Sequence[tuple[float, float]]]) -> None:
        self._own, self._speaking = own, speaking
        self._lines: list[ScriptLine] = []
        production = own.scene.production
        self._cast = list(production.characters.all())
        who = next((one for one in self._cast if one.pk == own.part.character), None)
        self.language = (who.language if who else "") or production.language
        self.notes: list[str] = []

    @property
    def all_named(self) -> bool:
        """Whether of every line that was heard it is known who speaks."""
        return all(line.character for line in self._lines)

    def how(self, report: Report) -> Listening:
        """How the sound is listened to."""
        production = self._own.scene.production
        languages_spoken = [production.language, *(one.language for one in self._cast if one.language)]
        return listening_for(
            production,
            self._cast,
            self.language,
            dict.fromkeys(languages_spoken),
            speaking=self._speaking,
            progress=report,
            sounds=ReadingMerger(self._own).rest,
            words=self._take,
        )

    def _take(self, heard: Sequence[HeardLine], rest: Sequence[Line]) -> None:
        own, part = self._own, self._own.part
        new = [self._written(line) for line in heard]
        document = add_heard(own.person, script_of(own.scene), new, own.batch)
        added = document.value.lines[-len(new) :]
        self._lines += added
        numbered = [replace(one.line, id=line.id) for one, line in zip(heard, added, strict=True)]
        merger = ReadingMerger(replace(own, part=replace(part, lines=tuple(self._lines))), heard=True)
        recording = own.recording
        merger.rest(Reading(recording.seconds, recording.rate, self.language, (*numbered, *rest)))
        self.notes += merger.notes

    def _written(self, heard: HeardLine) -> ScriptLine:
        who = self._own.part.character or most_heard(heard.start, heard.end, self._speaking)
        line = ScriptLine(0, heard.text, who, "", heard.start, heard.end, heard_in=heard.language)
        usual = language_of(self._own.scene, line, self._cast)
        return line if usual == heard.language else replace(line, language=heard.language)


def _told_language(found: Unscripted, usual: str) -> list[str]:
    """A sentence where another language was heard than is usual, or may be spoken."""
    names = languages()
    if found.language != usual:
        return [f"This sounds like {names.get(found.language, found.language)}, and was heard as that."]
    if found.maybe:
        return [
            f"This may be {names.get(found.maybe, found.maybe)}; it was heard as {names.get(usual, usual)}. If it is, "
            "set the language of its lines and read them again: they are heard anew."
        ]
    return []


def _by_voice(own: PartToRead) -> dict[int, list[tuple[float, float]]]:
    """Where each character may be heard in a sound that is nobody's own, by nothing but the voices: those of them who
    have no sound of their own, in their order, as one voice after the other is heard."""
    value = own.document.value
    there = own.scene.staves.order_by("character_id").values_list("character_id", flat=True)
    cast = list(there) or list(own.scene.production.characters.order_by("pk").values_list("pk", flat=True))
    waiting = [who for who in cast if not own_clips(value, who)]
    if not waiting:
        return {}
    grouped = voices.group(own.recording.samples, None if len(waiting) > 1 else 1)
    found: dict[int, list[tuple[float, float]]] = {}
    for stretch in grouped:
        found.setdefault(waiting[min(stretch.voice, len(waiting) - 1)], []).append((stretch.start, stretch.end))
    return found


def changed_lines(scene: Scene) -> set[int]:
    """Return the lines that were never read, or were changed since; none where all or nothing must be read."""
    document = arrangement_of(scene)
    cast = list(scene.production.characters.all())
    parts, _ = to_read(scene)
    changed, all_lines = set(), set()
    for part in parts:
        known = _known_lines(scene, part, document)
        for line in part.lines:
            if words.tokens(line.text, language_of(scene, line, cast)):
                all_lines.add(line.id)
                if line.id not in known or known[line.id].basis != basis_of(scene, line, cast):
                    changed.add(line.id)
    return changed if changed != all_lines else set()


def recording_of(document: Arrangement, part: SoundToRead) -> Recording:
    """Return what is heard of some clips together, over the whole scene."""
    with open_sounds() as path_of:
        pieces = pieces_of(part.clips, document.scene, path_of)
        rate = SoundFile.objects.get(pk=part.clips[0].sound).rate
        return mix.recording(pieces, document.value.frames / float(document.scene.fps), rate)


def _read(
    scene: Scene,
    document: Arrangement,
    lines: Sequence[ScriptLine],
    part: SoundToRead,
    recording: Recording,
    known: Mapping[int, Line],
    finished: Callable[[Sequence[Line]], None],
    report: Report,
    begin: float = 0.0,
) -> Reading:
    """Read lines in a recording that begins at a time of the scene; times come and go in scene time."""
    cast = list(scene.production.characters.all())
    written = written_lines(scene, lines, part, cast, begin)
    speaking = {
        who: [(start - begin, end - begin) for start, end in spans]
        for who, spans in marks.speaking(document.the_marks).items()
    }
    tokens = [token for line in written for token in words.tokens(line.text, line.language)]
    reading = read.read_lines(
        recording,
        written,
        lexicon_of(scene.production, tokens),
        speaking,
        report,
        {line.id: moved(known[line.id], -begin) for line in lines if line.id in known},
        lambda ready: finished([moved(line, begin) for line in ready]),
        known_voices(cast, recording.seconds),
    )
    keep_voices(cast, {line.id: line.speaker for line in written}, reading)
    lost = tuple((line, moved_word(word, begin)) for line, word in reading.lost)
    return replace(reading, lines=tuple(moved(line, begin) for line in reading.lines), lost=lost)


def written_lines(
    scene: Scene, lines: Sequence[ScriptLine], part: SoundToRead, cast: list[Character], begin: float = 0.0
) -> list[read.LineToRead]:
    """Return lines as they are looked for in a sound that begins at a time of the scene."""
    return [
        read.LineToRead(
            line.text,
            language_of(scene, line, cast),
            line.id,
            line.character or part.character or 0,
            None if line.start is None else line.start - begin,
            None if line.end is None else line.end - begin,
            line.said,
            line.heard,
        )
        for line in lines
    ]


def _known_lines(scene: Scene, part: SoundToRead, document: Arrangement) -> dict[int, Line]:
    """The lines of a part that were read already, in scene time, with all their words that are heard now."""
    wanted = {line.id for line in part.lines}
    found: dict[int, Line] = {}
    for stave in scene.staves.select_related("scene__production", "character"):
        reading = scene_reading(stave, document)
        for line in reading.lines if reading else ():
            if line.id in wanted:
                first = found.get(line.id)
                own = (*first.words, *line.words) if first else line.words
                start, end = min(word.start for word in own), max(word.end for word in own)
                found[line.id] = replace(line, start=start, end=end, words=own)
    return found


def _held(line: Line, free: Collection[tuple[int, int]]) -> Line:
    """A line all of whose words stay as they are for once, but some."""

    def as_it_is(word: Word) -> Word:
        return replace(word, pinned=tuple(range(len(word.edges))) if word.said else (), decided=True)

    return replace(line, words=tuple(word if word.at in free else as_it_is(word) for word in line.words))


def _read_again(
    scene: Scene,
    document: Arrangement,
    part: SoundToRead,
    recording: Recording,
    only: Collection[int],
    known: dict[int, Line],
    merger: ReadingMerger,
) -> list[str]:
    """Each run of wanted lines is read between the lines before and after it."""
    notes: list[str] = []
    lines: list[Line] = []
    lost: list[tuple[int, Word]] = []
    for run, before, after in _runs(part.lines, only, known):
        begin = known[before].end if before is not None else 0.0
        end = known[after].start if after is not None else recording.seconds
        if end - begin < 0.05:
            begin, end = 0.0, recording.seconds
        window = recording.window(begin, end)
        try:
            reading = _read(scene, document, run, part, window, known, lambda ready: None, lambda share: None, begin)
        except ScriptError as nothing:
            notes.append(str(nothing))
            continue
        lines += reading.lines
        lost += reading.lost
        notes += reading.notes
    merger.rest(Reading(recording.seconds, recording.rate, "", tuple(lines), (), tuple(lost)))
    return notes


def _runs(
    lines: Sequence[ScriptLine], only: Collection[int], known: dict[int, Line]
) -> list[tuple[list[ScriptLine], int | None, int | None]]:
    """Wanted lines that follow one another, each run with the known line before it and after it."""
    found: list[tuple[list[ScriptLine], int | None, int | None]] = []
    run: list[ScriptLine] = []
    last: int | None = None
    for line in lines:
        if line.id in only or line.id not in known:
            run.append(line)
            continue
        if any(one.id in only for one in run):
            found.append((run, last, line.id))
        run, last = [], line.id
    if any(one.id in only for one in run):
        found.append((run, last, None))
    return found
