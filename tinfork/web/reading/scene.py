"""Reading a scene: its lines, shared out among its sounds, become the readings of its staves."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from tinfork.core.errors import ScriptError
from tinfork.core.script import marks
from tinfork.core.script.casting import Part, cast_lines, own_clips
from tinfork.core.script.lines import ScriptLine as WrittenLine
from tinfork.core.sound import mix
from tinfork.core.sound.anchors import to_material
from tinfork.core.sound.recording import Recording
from tinfork.core.speech import read, words
from tinfork.core.speech.reading import Line, Reading, moved
from tinfork.web.lexicon.models import lexicon_of
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.script.actions import script_of
from tinfork.web.script.rows import language_of
from tinfork.web.sound.arranging import arrangement_of, pieces_of
from tinfork.web.sound.listening import opened
from tinfork.web.sound.models import Arrangement, SoundFile

from . import actions
from .models import Stave
from .planning import scene_reading

Report = Callable[[float], None]

_MOST_QUOTED = 4


def to_read(scene: Scene) -> tuple[list[Part], list[str]]:
    """What is to be read of a scene, and a sentence for what cannot be."""
    casting = cast_lines(arrangement_of(scene).value, script_of(scene).value)
    homeless = [line for line in casting.homeless if words.spoken_part(line.text).strip()]
    notes = []
    if homeless:
        notes.append(f"Not read, as there is no sound for who speaks, or nobody is named: {_quoted(homeless)}")
    return list(casting.parts), notes


def _quoted(lines: Sequence[WrittenLine]) -> str:
    """Some lines by their first words."""
    shown = ", ".join(f"“{line.text[:30]}”" for line in lines[:_MOST_QUOTED])
    return shown + (f" and {len(lines) - _MOST_QUOTED} more." if len(lines) > _MOST_QUOTED else ".")


def read_part(person: Person, scene: Scene, part: Part, only: set[int], report: Report) -> list[str]:
    """Read one sound's lines, or only some of them, into the staves of who speaks them; sentences for the user."""
    document = arrangement_of(scene)
    recording = _recording(document, part)
    report(0.1)
    known = _known_lines(scene, part, document) if only else {}
    if only and known:
        heard, notes = _read_again(scene, document, part, recording, only, known)
    else:
        only = {line.id for line in part.lines}
        reading = _read(scene, document, part, part.lines, recording, lambda share: report(0.1 + 0.8 * share))
        heard, notes = reading.lines, list(reading.notes)
    fresh = {line.id: line for line in to_material(heard, part.clips, float(scene.fps))}
    for character, own in _by_character(scene, part).items():
        stave = actions.stave_for(person, scene, scene.production.characters.get(pk=character))
        _take(person, stave, own, fresh, only, recording)
    nobody = [line for line in part.lines if line.character is None and words.spoken_part(line.text).strip()]
    if part.character is None and nobody:
        notes.append(f"Heard, but no mouth moves as nobody is named: {_quoted(nobody)}")
    return notes


def _take(
    person: Person,
    stave: Stave,
    own: Sequence[WrittenLine],
    fresh: Mapping[int, Line],
    only: set[int],
    recording: Recording,
) -> None:
    """Put a stave's lines that were read in their places; lines that were not asked for stay word for word."""
    before = stave.the_reading()
    kept = {line.id: line for line in before.lines if line.id not in only} if before else {}
    lines = tuple((fresh | kept)[line.id] for line in own if line.id in fresh or line.id in kept)
    language = stave.scene.production.language
    actions.take_reading(person, stave, Reading(recording.seconds, recording.rate, language, lines))


def _recording(document: Arrangement, part: Part) -> Recording:
    with opened() as path_of:
        pieces = pieces_of(part.clips, document.scene, path_of)
        rate = SoundFile.objects.get(pk=part.clips[0].sound).rate
        return mix.recording(pieces, document.value.frames / float(document.scene.fps), rate)


def _read(
    scene: Scene,
    document: Arrangement,
    part: Part,
    lines: Sequence[WrittenLine],
    recording: Recording,
    report: Report,
    begin: float = 0.0,
) -> Reading:
    """Read lines in a recording that begins at a time of the scene; times come back in scene time."""
    cast = list(scene.production.characters.all())
    written = [
        read.ScriptLine(
            line.text,
            language_of(scene, line, cast),
            line.id,
            line.character or part.character or 0,
            None if line.start is None else line.start - begin,
            None if line.end is None else line.end - begin,
            line.said,
        )
        for line in lines
    ]
    speaking = {
        who: [(start - begin, end - begin) for start, end in spans]
        for who, spans in marks.speaking(document.the_marks).items()
    }
    tokens = [token for line in written for token in words.tokens(line.text, line.language)]
    reading = read.read_lines(recording, written, lexicon_of(scene.production, tokens), speaking, report)
    return replace(reading, lines=tuple(moved(line, begin) for line in reading.lines))


def _known_lines(scene: Scene, part: Part, document: Arrangement) -> dict[int, Line]:
    """The lines of a part that were read already, in scene time, from their first word to their last."""
    wanted = {line.id for line in part.lines}
    found: dict[int, Line] = {}
    for stave in scene.staves.select_related("scene__production", "character"):
        reading = scene_reading(stave, document)
        for line in reading.lines if reading else ():
            if line.id in wanted:
                first = found.get(line.id, line)
                found[line.id] = replace(line, start=min(first.start, line.start), end=max(first.end, line.end))
    return found


def _read_again(
    scene: Scene,
    document: Arrangement,
    part: Part,
    recording: Recording,
    only: set[int],
    known: dict[int, Line],
) -> tuple[list[Line], list[str]]:
    """Each run of wanted lines is read between the lines before and after it."""
    lines: list[Line] = []
    notes: list[str] = []
    for run, before, after in _runs(part.lines, only, known):
        begin = known[before].end if before is not None else 0.0
        end = known[after].start if after is not None else recording.seconds
        if end - begin < 0.05:
            begin, end = 0.0, recording.seconds
        try:
            reading = _read(scene, document, part, run, recording.window(begin, end), lambda share: None, begin)
        except ScriptError as nothing:
            notes.append(str(nothing))
            continue
        lines += reading.lines
        notes += reading.notes
    return lines, notes


def _runs(
    lines: Sequence[WrittenLine], only: set[int], known: dict[int, Line]
) -> list[tuple[list[WrittenLine], int | None, int | None]]:
    """Wanted lines that follow one another, each run with the known line before it and after it."""
    found: list[tuple[list[WrittenLine], int | None, int | None]] = []
    run: list[WrittenLine] = []
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


def _by_character(scene: Scene, part: Part) -> dict[int, list[WrittenLine]]:
    """Whose stave each line of a part belongs to; who is heard there and says nothing has none."""
    if part.character is not None:
        return {part.character: list(part.lines)}
    value = arrangement_of(scene).value
    spoken: dict[int, list[WrittenLine]] = {
        pk: [] for pk in scene.staves.values_list("character_id", flat=True) if not own_clips(value, pk)
    }
    for line in part.lines:
        if line.character is not None:
            spoken.setdefault(line.character, []).append(line)
    return spoken
