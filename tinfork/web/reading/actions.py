"""What people do to a stave. Each action checks who asks, is one transaction on one version, and is logged with what
undoes it."""

from collections.abc import Iterable
from dataclasses import asdict

from django.db import transaction

from tinfork.core.errors import ScriptError, TinForkError, TrackError
from tinfork.core.exposure.track import Pin, Settings, check_pins, with_pin, without_pin
from tinfork.core.limits import MAX_SCRIPT_CHARACTERS
from tinfork.core.speech.espeak import check_language
from tinfork.core.speech.reading import Reading
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.sound.models import SoundFile

from .models import Edit, Stave
from .planning import chart_of, replan


class Stale(TinForkError):
    """The edit was made on an older version than the stave has now."""


def stave_for(person: Person, scene: Scene, character: Character) -> Stave:
    """The character's stave in the scene, made if need be."""
    check(person, scene.production, "edit")
    if character.production_id != scene.production_id:
        raise TinForkError("This character belongs to another production.")
    return Stave.objects.get_or_create(scene=scene, character=character)[0]


def _locked(person: Person, stave: Stave, version: int | None = None) -> Stave:
    check(person, stave.scene.production, "edit")
    locked = Stave.objects.select_for_update(of=("self",)).select_related("scene__production").get(pk=stave.pk)
    if version is not None and version != locked.version:
        last = locked.edits.order_by("-pk").select_related("person").first()
        who = f" ({last.verb}, by {last.person})" if last and last.person else ""
        raise Stale(f"This stave was changed meanwhile{who}. Nothing of it was overwritten; look, then do it again.")
    return locked


def _saved(stave: Stave) -> Stave:
    stave.version += 1
    stave.save()
    return stave


@transaction.atomic
def place_sound(person: Person, stave: Stave, sound: SoundFile) -> Stave:
    """Give the stave its sound. An earlier reading stays until the next one; pins stay."""
    stave = _locked(person, stave)
    if sound.production_id != stave.scene.production_id:
        raise TinForkError("This sound belongs to another production.")
    stave.sound = sound
    return _saved(stave)


@transaction.atomic
def write_script(person: Person, stave: Stave, script: str, language: str) -> Stave:
    """Set the words and their language. ScriptError when they are too many or the language is not known."""
    stave = _locked(person, stave)
    if len(script) > MAX_SCRIPT_CHARACTERS:
        raise ScriptError(
            f"The script has {len(script):,} characters; one scene takes up to {MAX_SCRIPT_CHARACTERS:,}. Split it."
        )
    stave.script, stave.language = script.replace("\0", "").replace("\r\n", "\n"), check_language(language)
    return _saved(stave)


@transaction.atomic
def ask_to_read(person: Person, stave: Stave) -> Job:
    """Queue the reading of the stave's sound and script; the job that is already waiting, if there is one."""
    from .tasks import read_stave

    stave = _locked(person, stave)
    if stave.sound is None:
        raise TinForkError("There is no sound yet; drop a file on the character first.")
    if not stave.script.strip():
        raise ScriptError("There are no words yet; type what is said, one line for each phrase.")
    waiting = Job.objects.filter(kind="read", subject=stave.pk, state=Job.State.WAITING).first()
    if waiting:
        return waiting
    job = Job.objects.create(scene=stave.scene, person_id=person.pk, kind="read", subject=stave.pk)
    read_stave.defer(job_id=job.pk)
    return job


@transaction.atomic
def take_reading(person: Person, stave: Stave, reading: Reading) -> Stave:
    """Put a new reading in the place of the old, and plan the mouths around the pins, which stay."""
    stave = _locked(person, stave)
    stave.reading = reading.to_json()
    replan(stave)
    return _saved(stave)


@transaction.atomic
def pin_drawing(person: Person, stave: Stave, version: int, frame: int, frames: int, drawing: str) -> Stave:
    """Pin a drawing on some frames of the track."""
    stave = _locked(person, stave, version)
    pins = with_pin(stave.the_pins(), Pin(frame, frames, drawing))
    track = stave.the_exposures()
    if not track:
        raise TrackError("There is no mouth track yet; read the sound first.")
    check_pins([Pin(frame, frames, drawing)], track[-1].end, (d.name for d in chart_of(stave).drawings))
    return _choose(person, stave, "pin", pins=_documents(pins))


@transaction.atomic
def unpin(person: Person, stave: Stave, version: int, frame: int) -> Stave:
    """Take away the pin that covers a frame."""
    stave = _locked(person, stave, version)
    return _choose(person, stave, "unpin", pins=_documents(without_pin(stave.the_pins(), frame)))


@transaction.atomic
def change_settings(person: Person, stave: Stave, version: int, hold: int, lead: int, detail: float) -> Stave:
    """Set hold, lead and Detail."""
    stave = _locked(person, stave, version)
    settings = Settings(hold, lead, detail)
    return _choose(person, stave, "settings", **asdict(settings))


@transaction.atomic
def undo(person: Person, stave: Stave, version: int) -> Stave:
    """Take back the last action that is not undone. TrackError when there is none."""
    stave = _locked(person, stave, version)
    edit = stave.edits.filter(undone=False, superseded=False).last()
    if edit is None:
        raise TrackError("There is nothing to undo.")
    return _restore(stave, edit, edit.before, undone=True)


@transaction.atomic
def redo(person: Person, stave: Stave, version: int) -> Stave:
    """Do again what was last undone. TrackError when there is none."""
    stave = _locked(person, stave, version)
    edit = stave.edits.filter(undone=True, superseded=False).first()
    if edit is None:
        raise TrackError("There is nothing to do again.")
    return _restore(stave, edit, edit.after, undone=False)


def _choose(person: Person, stave: Stave, verb: str, **changed: object) -> Stave:
    """Set some of the stave's choices, plan anew, and log it; what was undone before can no longer be redone."""
    before = stave.choices()
    for name, value in changed.items():
        setattr(stave, name, value)
    replan(stave)
    stave.edits.filter(undone=True).update(superseded=True)
    Edit.objects.create(
        stave=stave, person_id=person.pk, verb=verb, before=before, after=stave.choices(), version=stave.version
    )
    return _saved(stave)


def _restore(stave: Stave, edit: Edit, choices: dict[str, object], undone: bool) -> Stave:
    for name, value in choices.items():
        setattr(stave, name, value)
    replan(stave)
    edit.undone = undone
    edit.save(update_fields=["undone"])
    return _saved(stave)


def _documents(pins: Iterable[Pin]) -> list[dict[str, object]]:
    return [asdict(pin) for pin in pins]
