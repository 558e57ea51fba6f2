"""A long script and a pile of recordings: what is said in which is heard, and a scene made of each of the script's."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.db import transaction

from tinfork.core.errors import ScriptError, TinForkError
from tinfork.core.limits import MAX_SCRIPT_CHARACTERS
from tinfork.core.naming import some_of
from tinfork.core.script import finding
from tinfork.core.script.finding import HeardRecording, LaidScene, ScriptScene
from tinfork.core.sound.arrangement import MIX
from tinfork.core.sound.recording import load
from tinfork.core.speech.unscripted import Listening, read_unscripted
from tinfork.core.timebase import frame_count
from tinfork.web.productions.actions import create_scene, free_scene_name, hold
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.reading.asking import ask_to_read
from tinfork.web.reading.hinting import listening_for
from tinfork.web.script.actions import add_text, cues_in, script_of
from tinfork.web.sound.arranging import arrangement_of, place_parts
from tinfork.web.sound.listening import open_sounds
from tinfork.web.sound.models import SoundFile

_MOST_QUOTED = 4

Report = Callable[[float], None]


@dataclass(frozen=True)
class Found:
    """A scene of the script with what was found of it."""

    scene: ScriptScene
    laid: LaidScene


def scenes_in(words: str, names: Sequence[str], name: str) -> list[ScriptScene]:
    """Return the scenes of a script. ScriptError for one without lines, or that is too long."""
    if len(words) > MAX_SCRIPT_CHARACTERS * 4:
        raise ScriptError(f"This script has {len(words):,} characters; bring it in by parts.")
    cues, _ = cues_in(words, list(names))
    scenes = finding.scenes_of(cues, name)
    if not scenes:
        raise ScriptError("To find what is said in which recording there must be a script: paste it under the words.")
    return scenes


def find(
    production: Production, scenes: Sequence[ScriptScene], sounds: Sequence[SoundFile], report: Report
) -> list[Found]:
    """Hear some recordings, and find in which what of a script is said."""
    speakers = [cue.speaker for scene in scenes for cue in scene.cues if cue.speaker]
    how = listening_for(production, list(production.characters.all()), production.language, names=speakers)
    heard = {}
    for number, sound in enumerate(sounds):

        def done(share: float, number: int = number) -> None:
            report((number + share) / len(sounds))

        heard[sound.pk] = _words_in(sound, replace(how, progress=done))
    lengths = {pk: one.seconds for pk, one in heard.items()}
    said = [
        {pk: own for pk, one in heard.items() if (own := finding.said_in(scene, one, production.language))}
        for scene in scenes
    ]
    many = Counter(pk for one in said for pk in one)
    shared = [pk for pk, count in many.items() if count > 1]
    return [
        Found(scene, finding.laid_out(len(scene.cues), one, lengths, shared))
        for scene, one in zip(scenes, said, strict=True)
    ]


def _words_in(sound: SoundFile, how: Listening) -> HeardRecording:
    with open_sounds() as path_of:
        recording = load(path_of(sound, MIX))
    return finding.heard_words(read_unscripted(recording, how).heard, recording.seconds)


@transaction.atomic
def make(person: Person, production: Production, found: Sequence[Found], asked: Mapping[str, Any]) -> str:
    """Make a scene of each in which something was found, lay out what is said in it and have it read; sentences for the
    user."""
    hold(production)
    cast = {one.name.lower(): one for one in production.characters.all()}
    notes = []
    made = []
    for one in found:
        if not one.laid.laid:
            notes.append(f"Nothing of “{one.scene.name}” was found.")
            continue
        scene = create_scene(
            person, production, free_scene_name(production, one.scene.name), asked["rate"], asked["start_frame"]
        )
        made.append(scene)
        add_text(person, script_of(scene), None, "\n".join(cue.named for cue in one.scene.cues), "plain")
        _lay(person, scene, one, cast)
        notes += _notes_on(one)
    unread = [scene.name for scene in made if not _reads(person, scene)]
    if unread:
        notes.append(f"Not read yet, as so much waits already: {some_of(unread, _MOST_QUOTED)}.")
    if not made:
        raise ScriptError("Nothing of this script was found in these recordings. What was brought in is kept.")
    return " ".join([f"{len(made)} scene{'' if len(made) == 1 else 's'} made.", *notes])


def _reads(person: Person, scene: Scene) -> bool:
    try:
        ask_to_read(person, scene)
    except TinForkError:
        return False
    return True


def _lay(person: Person, scene: Scene, found: Found, cast: Mapping[str, Character]) -> None:
    sounds = SoundFile.objects.in_bulk([one.recording for one in found.laid.laid])
    parts = []
    for one in found.laid.laid:
        sound = sounds[one.recording]
        first, at = (frame_count(seconds, scene.fps) if seconds else 0 for seconds in (one.first, one.at))
        end = frame_count(sound.seconds if one.last is None else one.last, scene.fps)
        parts.append((sound, _whose(found, one.recording, cast), first, max(first + 1, end), at))
    place_parts(person, arrangement_of(scene), parts)


def _whose(found: Found, recording: int, cast: Mapping[str, Character]) -> Character | None:
    """Whose recording it is: of the one who says all that is heard from it here; nobody's own where several do."""
    lines = [line for one in found.laid.laid if one.recording == recording for line in one.lines]
    speakers = {found.scene.cues[line].speaker.lower() for line in lines}
    return cast.get(speakers.pop()) if len(speakers) == 1 else None


def _notes_on(found: Found) -> list[str]:
    """What was not found of a scene, and what was recorded more than once."""
    cues = found.scene.cues
    spoken = [cues[line] for line in found.laid.missing if cues[line].speaker]
    notes = []
    if spoken:
        quoted = some_of([f"“{cue.text[:30]}”" for cue in spoken], _MOST_QUOTED)
        notes.append(f"Of “{found.scene.name}” no recording has: {quoted}.")
    names = dict(SoundFile.objects.filter(pk__in={one.recording for one in found.laid.takes}).values_list("pk", "name"))
    for recording, name in sorted(names.items()):
        takes = [one for one in found.laid.takes if one.recording == recording]
        sure, other = (round(100 * sum(one.sure for one in own) / len(own)) for own in _both(takes))
        seconds, chosen = (sum(one.end - one.start for one in own) for own in _both(takes))
        lines = f"{len(takes)} line{'' if len(takes) == 1 else 's'}"
        notes.append(
            f"{name} says {lines} of “{found.scene.name}” too ({sure}% sure, {seconds:.1f} s; what is heard: {other}% "
            f"sure, {chosen:.1f} s); put it in its place under Changes."
        )
    return notes


def _both(takes: Sequence[finding.OtherTake]) -> tuple[list[finding.SaidLine], list[finding.SaidLine]]:
    return [one.said for one in takes], [one.chosen for one in takes]
