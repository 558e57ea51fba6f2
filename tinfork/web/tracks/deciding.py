"""What people decide of a whole mouth track. Each action is one transaction on one version, and is logged with what
undoes it."""

from dataclasses import asdict

from django.db import transaction

from tinfork.core.exposure.pins import set_pins, unset_pins
from tinfork.core.exposure.track import Pin, Settings, check_pins
from tinfork.web.edits import actions as edits
from tinfork.web.productions.permissions import Person
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import basis_now, mouths_of, rules_now
from tinfork.web.staves.placing import placed_now


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
    person: Person, stave: Stave, version: int | None, hold: int, lead: int, detail: float, step: int = 1
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
