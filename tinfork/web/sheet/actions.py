"""Notes on an exposure sheet."""

from django.db import transaction

from tinfork.core.errors import HandoverError
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check

from .models import SheetNotes

MOST_LETTERS = 400
MOST_NOTES = 20_000


def notes_of(scene: Scene) -> SheetNotes:
    """The notes of a scene; none are kept before the first is written."""
    return SheetNotes.objects.filter(scene=scene).first() or SheetNotes(scene=scene)


@transaction.atomic
def write_note(person: Person, scene: Scene, frame: int, text: str) -> SheetNotes:
    """Write beside a frame, counted from 0; "" takes the note away. Notes beside other frames that were written
    meanwhile stay."""
    check(person, scene.production, "edit")
    text = " ".join(text.split())
    if len(text) > MOST_LETTERS:
        raise HandoverError(f"A note has up to {MOST_LETTERS} letters; write the rest beside the next frame.")
    if frame < 0:
        raise HandoverError("There is no such frame; reload the sheet.")
    edits.lock_scene(scene)
    kept, _ = SheetNotes.objects.get_or_create(scene=scene)
    kept.scene = scene
    document = edits.locked(person, kept)
    others = {key: note for key, note in document.notes.items() if int(key) != frame}
    if text and len(others) >= MOST_NOTES:
        raise HandoverError("This sheet is full of notes; take some away first.")
    return edits.change(person, document, "note", {"notes": others | ({str(frame): text} if text else {})})
