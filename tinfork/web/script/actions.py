"""What people do to a scene's script. Each action is one on one version, undoable; see tinfork.web.edits."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from django.db import transaction

from tinfork.core.errors import ScriptError
from tinfork.core.formats import script_text, subtitles
from tinfork.core.limits import MAX_SCRIPT_CHARACTERS
from tinfork.core.plain import plain
from tinfork.core.script import lines, revising
from tinfork.core.script.casting import clips_of
from tinfork.core.sound.arrangement import Clip
from tinfork.core.speech.espeak import check_language
from tinfork.core.speech.phones import parse_ipa
from tinfork.web.edits import actions as edits
from tinfork.web.edits.models import Edit
from tinfork.web.productions.actions import check_in_cast
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.sound.arranging import arrangement_of

from .models import Script

KINDS = {"auto": "recognised by itself", "plain": "plain text", "screenplay": "screenplay", "timed": "SRT or WebVTT"}


def script_of(scene: Scene, light: bool = False) -> Script:
    """The scene's script, made empty if need be; light: without its lines, which an action loads anew."""
    scripts = Script.objects.defer("body") if light else Script.objects
    found = scripts.get_or_create(scene=scene, defaults={"body": plain(lines.Script())})[0]
    found.scene = scene
    return found


@transaction.atomic
def _change(
    person: Person,
    document: Script,
    version: int | None,
    verb: str,
    do: Callable[[lines.Script], lines.Script],
    batch: int | None = None,
) -> Script:
    held = edits.locked(person, document, version)
    value = do(held.value)
    changed = edits.change(person, held, verb, {"body": value}, batch)
    changed.known_as("body", value)
    return changed


def write(person: Person, document: Script, version: int, line: int, text: str) -> Script:
    """Change a line's words; a line without words is taken away."""
    return _change(person, document, version, "write", lambda value: lines.write(value, line, text))


def add_text(
    person: Person, document: Script, version: int | None, text: str, kind: str = "auto"
) -> tuple[Script, list[str]]:
    """Add what was typed, pasted or read from a file, as one of KINDS; with a sentence for each thing amiss.

    Who speaks is found by the cast's names.
    """
    cues, cast, notes = _read_text(document, text, kind)
    return _change(
        person, document, version, "add lines", _adding(document, lambda value: lines.add(value, cues, cast))
    ), notes


def revised(document: Script, text: str, kind: str = "auto") -> tuple[lines.Script, list[revising.Revised], list[str]]:
    """Return a script as a revised one makes it (as one of KINDS), what becomes of each line, and a sentence for each
    thing amiss. Nothing is changed."""
    cues, cast, notes = _read_text(document, text, kind)
    value, told = revising.revise(document.value, cues, cast)
    return value, told, notes


def take_revised(person: Person, document: Script, version: int, text: str, kind: str = "auto") -> Script:
    """Lay a revised script over the one there is, in one step: lines that are found again keep what was read and
    decided."""
    clips = _clips_of(document)
    fps = float(document.scene.fps)

    def do(value: lines.Script) -> lines.Script:
        cues, cast, _ = _read_text(document, text, kind)
        return lines.bound(revising.revise(value, cues, cast)[0], value.next, clips, fps)

    return _change(person, document, version, "revised script", do)


def add_cues(person: Person, document: Script, cues: list[lines.Cue], character: int) -> Script:
    """Add a character's lines that came with a reading from elsewhere."""
    named = [replace(cue, speaker="them") for cue in cues]
    add = _adding(document, lambda value: lines.add(value, named, {"them": character}))
    return _change(person, document, None, "add lines", add)


def add_heard(person: Person, document: Script, heard: list[lines.ScriptLine], batch: int | None = None) -> Script:
    """Add lines that were recognised in the sound, marked as heard. batch: see tinfork.web.edits.actions.change."""
    add = _adding(document, lambda value: lines.add_heard(value, heard))
    return _change(person, document, None, "hear", add, batch)


def hear_again(
    person: Person, document: Script, heard: Mapping[int, tuple[str, str]], batch: int | None = None
) -> Script:
    """Write down what was recognised on lines, by their numbers, each with the language. Lines that somebody has looked
    at meanwhile stay."""
    return _change(person, document, None, "hear again", lambda value: lines.hear_again(value, heard), batch)


def unhear(person: Person, document: Script, lines_of: Sequence[lines.ScriptLine], batch: int | None) -> bool:
    """Take lines away again that this very piece of work wrote down by hearing, as it is begun anew; false, and nothing
    done, where any of them was there before or somebody has looked at it."""
    own = Edit.objects.of_scene(document.scene, undone=False).filter(area=Script.area, verb="hear")
    first = own.filter(batch=batch).first() if batch else None
    since = next((old for path, old, *_ in first.changes["body"] if path == ["next"]), None) if first else None
    if since is None or not all(line.heard and line.id >= since for line in lines_of):
        return False
    gone = {line.id for line in lines_of}

    def without(value: lines.Script) -> lines.Script:
        return replace(value, lines=tuple(line for line in value.lines if line.id not in gone))

    _change(person, document, None, "hear", without, batch)
    return True


def _read_text(document: Script, text: str, kind: str) -> tuple[list[lines.Cue], dict[str, int], list[str]]:
    """The lines in a text, who goes by which name, and a sentence for each thing amiss."""
    if len(text) > MAX_SCRIPT_CHARACTERS * 4:
        raise ScriptError(
            f"This text has {len(text):,} characters; one scene takes up to {MAX_SCRIPT_CHARACTERS:,}. Split it."
        )
    members = document.scene.production.characters.all()
    cast = {member.name.lower(): member.pk for member in members}
    cues, notes = cues_in(text, [member.name for member in members], kind)
    if not cues:
        raise ScriptError("There is no line in this; give the words, one line for each phrase.")
    unknown = sorted({cue.speaker for cue in cues if cue.speaker and cue.speaker.lower() not in cast})
    if unknown:
        notes.append(f"Nobody in the cast is called {', '.join(unknown[:8])}; add them to the cast, or say who speaks.")
    return cues, cast, notes


def cues_in(text: str, names: list[str], kind: str = "auto") -> subtitles.Found:
    """Return the lines in a text, as one of KINDS, and a sentence for each thing amiss. names: who may speak."""
    if kind == "timed" or (kind == "auto" and "-->" in text):
        return subtitles.parse(text, names)
    if kind == "screenplay" or (kind == "auto" and script_text.looks_like_screenplay(text, names)):
        return script_text.parse_screenplay(text, names), []
    return script_text.parse_plain(text, names), []


def assign(person: Person, document: Script, version: int, line: int, character: int | None) -> Script:
    """Say who speaks a line, or that nobody is named."""
    if character is not None:
        check_in_cast(document.scene.production, character)
    return _change(person, document, version, "assign", lambda value: lines.assign(value, line, character))


def assign_many(person: Person, document: Script, whose: Mapping[int, int], batch: int | None = None) -> Script:
    """Say of lines, by their numbers, who speaks them. batch: see tinfork.web.edits.actions.change."""

    def named(value: lines.Script) -> lines.Script:
        for line, character in whose.items():
            value = lines.assign(value, line, character)
        return value

    return _change(person, document, None, "who is marked there", named, batch)


def set_language(person: Person, document: Script, version: int, line: int, language: str) -> Script:
    """Set a line's language; "" is its character's own."""
    code = check_language(language) if language else ""
    return _change(person, document, version, "language", lambda value: lines.set_language(value, line, code))


def say(person: Person, document: Script, version: int, line: int, word: int, ipa: str) -> Script:
    """Set how one word is said in this place, in IPA; "" takes that back."""
    if ipa.strip():
        parse_ipa(ipa)
    return _change(person, document, version, "say", lambda value: lines.say(value, line, word, ipa.strip()))


def set_time(person: Person, document: Script, line: int, start: float, end: float, source_id: int) -> Script:
    """Say about when a line is said, in seconds of the sound of this source_id."""
    return _change(person, document, None, "take", lambda value: lines.set_time(value, line, start, end, source_id))


def split(person: Person, document: Script, version: int, line: int, word: int) -> Script:
    """Make one line two, before its written word of this number."""
    return _change(person, document, version, "split", lambda value: lines.split(value, line, word))


def join(person: Person, document: Script, version: int, line: int) -> Script:
    """Make a line and the next one."""
    return _change(person, document, version, "join", lambda value: lines.join(value, line))


def move(person: Person, document: Script, version: int, line: int, by: int) -> Script:
    """Move a line up or down."""
    return _change(person, document, version, "move", lambda value: lines.move(value, line, by))


def remove(person: Person, document: Script, version: int, line: int) -> Script:
    """Take a line away."""
    return _change(person, document, version, "remove", lambda value: lines.remove(value, line))


def in_scene(scene: Scene) -> lines.Script:
    """The scene's script with its lines' times where their sounds are heard in the scene now."""
    return lines.in_scene(script_of(scene).value, arrangement_of(scene).value.clips, float(scene.fps))


def _adding(document: Script, add: Callable[[lines.Script], lines.Script]) -> Callable[[lines.Script], lines.Script]:
    """Adding lines whose times are the scene's: they are kept in the time of the sounds they lie on."""
    clips, fps = _clips_of(document), float(document.scene.fps)
    return lambda script: lines.bound(add(script), script.next, clips, fps)


def _clips_of(document: Script) -> Callable[[lines.ScriptLine], Sequence[Clip]]:
    """Where the speaker of a line is heard."""
    value = arrangement_of(document.scene).value
    return lambda line: clips_of(value, line.character) if line.character is not None else value.clips
