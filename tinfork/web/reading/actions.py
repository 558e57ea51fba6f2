"""What people do to a stave. Each action checks who asks, is one transaction on one version, and is logged with what
undoes it."""

from collections.abc import Callable, Iterable
from dataclasses import asdict

from django.db import transaction

from tinfork.core.errors import ScriptError, TinForkError, TrackError
from tinfork.core.exposure.track import Pin, Settings, check_pins, with_pin, without_pin
from tinfork.core.script.casting import cast_lines, unwritten
from tinfork.core.sound.anchors import AnchoredPin, anchor_pins
from tinfork.core.speech.reading import Reading
from tinfork.web.edits import actions as edits
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of

from .models import Stave
from .planning import chart_of, placed_pins, stave_clips


def stave_for(person: Person, scene: Scene, character: Character) -> Stave:
    """The character's stave in the scene, made if need be."""
    check(person, scene.production, "edit")
    if character.production_id != scene.production_id:
        raise TinForkError("This character belongs to another production.")
    return Stave.objects.get_or_create(scene=scene, character=character)[0]


@transaction.atomic
def ask_to_read(
    person: Person, scene: Scene, lines: Iterable[int] = (), words: Iterable[tuple[int, int]] = (), all: bool = False
) -> Job:
    """Queue a reading; the job that is already waiting for the same, if there is one.

    lines: only these; else those that were never read or have changed since, and where that is none, or all is set,
    every line. words: of one line only these words, by their places in their stave's reading.
    """
    from .scene import changed_lines
    from .tasks import read_scene

    check(person, scene.production, "edit")
    document = arrangement_of(scene)
    if not any(track.is_read and track.clips for track in document.value.tracks):
        raise TinForkError("There is no sound yet; bring a recording in under Sound first.")
    casting = cast_lines(document.value, script_of(scene).value)
    if not casting.parts and not unwritten(document.value, casting):
        raise ScriptError("There is no sound for these lines; say who speaks them, or bring the sound in.")
    wanted = sorted(set(lines)) or ([] if all else sorted(changed_lines(scene)))
    asked = {"lines": wanted, "words": sorted(map(list, words))}
    waiting = Job.objects.filter(kind="read", subject=scene.pk, state=Job.State.WAITING, asked=asked).first()
    if waiting:
        return waiting
    job = Job.objects.create(scene=scene, person_id=person.pk, kind="read", subject=scene.pk, asked=asked)
    read_scene.defer(job_id=job.pk)
    return job


def take_reading(person: Person, stave: Stave, reading: Reading) -> Stave:
    """Put a new reading, in the time of its sounds, in the place of the old, and plan around the pins, which stay."""
    return merge_reading(person, stave, lambda now: reading)


@transaction.atomic
def merge_reading(
    person: Person, stave: Stave, merge: Callable[[Reading | None], Reading], run: int | None = None, verb: str = "read"
) -> Stave:
    """Set a stave's reading to what becomes of the one it has now. run: see tinfork.web.edits.actions.change."""
    stave = edits.locked(person, stave)
    return edits.change(person, stave, verb, run, reading=merge(stave.the_reading()).to_json())


@transaction.atomic
def pin_drawing(person: Person, stave: Stave, version: int, frame: int, frames: int, drawing: str) -> Stave:
    """Pin a drawing on some frames of the scene."""
    stave = edits.locked(person, stave, version)
    new = Pin(frame, frames, drawing)
    placed, hidden = placed_pins(stave)
    pins = with_pin(placed, new)
    track = stave.the_exposures()
    if not track:
        raise TrackError("There is no mouth track yet; read the sound first.")
    check_pins([new], track[-1].end, (d.name for d in chart_of(stave).drawings))
    return edits.change(person, stave, "pin", pins=_documents(stave, pins, hidden))


@transaction.atomic
def unpin(person: Person, stave: Stave, version: int, frame: int) -> Stave:
    """Take away the pin that covers a frame."""
    stave = edits.locked(person, stave, version)
    placed, hidden = placed_pins(stave)
    return edits.change(person, stave, "unpin", pins=_documents(stave, without_pin(placed, frame), hidden))


@transaction.atomic
def change_settings(person: Person, stave: Stave, version: int, hold: int, lead: int, detail: float) -> Stave:
    """Set hold, lead and Detail."""
    stave = edits.locked(person, stave, version)
    return edits.change(person, stave, "settings", **asdict(Settings(hold, lead, detail)))


def _documents(stave: Stave, pins: Iterable[Pin], hidden: Iterable[AnchoredPin]) -> list[dict[str, object]]:
    bound = anchor_pins(pins, stave_clips(stave))
    return [asdict(pin) for pin in (*bound, *hidden)]
