"""What people do to a stave. Each action checks who asks, is one transaction on one version, and is logged with what
undoes it."""

from collections.abc import Callable
from dataclasses import asdict

from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.core.exposure.pins import set_pins, unset_pins
from tinfork.core.exposure.track import Pin, Settings, check_pins
from tinfork.core.speech.reading import Reading
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person, check

from .models import Stave
from .mouths import basis_now, mouths_of, rules_now
from .placing import placed_now
from .planning import begin


def stave_for(person: Person, scene: Scene, character: Character) -> Stave:
    """The character's stave in the scene, made if need be."""
    check(person, scene.production, "edit")
    if character.production_id != scene.production_id:
        raise TinForkError("This character belongs to another production.")
    stave = Stave.objects.get_or_create(scene=scene, character=character)[0]
    if not stave.cells:
        begin(stave)
    return stave


def take_reading(person: Person, stave: Stave, reading: Reading) -> Stave:
    """Put a new reading, in the time of its sounds, in the place of the old, and plan around the pins, which stay."""
    return merge_reading(person, stave, lambda now: reading)


@transaction.atomic
def merge_reading(
    person: Person,
    stave: Stave,
    merge: Callable[[Reading | None], Reading],
    batch: int | None = None,
    verb: str = "read",
) -> Stave:
    """Set a stave's reading to what becomes of the one it has now. batch: see tinfork.web.edits.actions.change."""
    stave = edits.locked(person, stave)
    return edits.change(person, stave, verb, stave.parts_of(merge(stave.reading_value)), batch)


@transaction.atomic
def pin_drawing(person: Person, stave: Stave, version: int, frame: int, frames: int, drawing: str) -> Stave:
    """Pin a drawing on some frames of the scene."""
    stave = edits.locked(person, stave, version)
    new = Pin(frame, frames, drawing)
    placed = placed_now(stave)
    check_pins([new], placed.frames, mouths_of(stave).names)
    pins = set_pins(stave.pin_values, [new], placed.clips, placed.frames, stave.hold)
    return edits.change(person, stave, "pin", {"pins": pins})


@transaction.atomic
def unpin(person: Person, stave: Stave, version: int, frame: int) -> Stave:
    """Take away the pin that covers a frame."""
    stave = edits.locked(person, stave, version)
    placed = placed_now(stave)
    pins = unset_pins(stave.pin_values, [frame], placed.clips, placed.frames)
    return edits.change(person, stave, "unpin", {"pins": pins})


@transaction.atomic
def change_settings(
    person: Person, stave: Stave, version: int, hold: int, lead: int, detail: float, step: int = 1
) -> Stave:
    """Set hold, lead, Detail and step."""
    stave = edits.locked(person, stave, version)
    return edits.change(person, stave, "settings", asdict(Settings(hold, lead, detail, step)))


@transaction.atomic
def plan_anew(person: Person, stave: Stave, version: int) -> Stave:
    """Plan all of the mouths as if none had been there before: pins stay."""
    stave = edits.locked(person, stave, version)
    return edits.change(person, stave, "plan anew", {"plans": stave.plans + 1})


@transaction.atomic
def plan_with_chart(person: Person, stave: Stave, version: int) -> Stave:
    """Plan the mouths anew with the drawings and rules the character has now; until then they change no timing."""
    stave = edits.locked(person, stave, version)
    now = {"basis": basis_now(stave.character), "rules": rules_now(stave.character)}
    return edits.change(person, stave, "plan with these drawings", now)
