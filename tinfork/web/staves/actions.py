"""What becomes of a stave as a whole: it is made, and given a reading. Each action checks who asks, is one transaction,
and is logged with what undoes it."""

from collections.abc import Callable

from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.core.speech.reading import Reading
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person, check

from .models import Stave
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
