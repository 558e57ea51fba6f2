"""What a page sends and may send again, as it did not hear that it came: it is placed once."""

from collections.abc import Iterator
from contextlib import contextmanager
from uuid import UUID

from django.db import transaction

from tinfork.web.edits.actions import lock_scene
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person

from .arranging import arrangement_of, place_sound
from .models import Arrived, SoundFile


class Arrival:
    """One thing that was sent. known: whether it came before; end: the frame after what was placed."""

    def __init__(self, scene: Scene, before: Arrived | None) -> None:
        self._scene, self.known, self.end = scene, before is not None, before.end if before else 0

    def place(
        self, person: Person, sound: SoundFile, start: int | None, character: Character | None, track: int | None = None
    ) -> int:
        """Place a sound as place_sound does, unless it was; the frame after its clip."""
        if not self.known:
            document = arrangement_of(self._scene)
            there = {clip.id for clip in document.value.clips}
            placed = place_sound(person, document, sound, start, character, track)
            self.end = max(clip.end for clip in placed.value.clips if clip.id not in there)
        return self.end


@contextmanager
def arriving(scene: Scene, key: UUID | None, number: int = 0) -> Iterator[Arrival]:
    """Inside, nobody else changes the scene, and it is known whether what has this key and number came before."""
    with transaction.atomic():
        lock_scene(scene)
        own = Arrived.objects.filter(scene=scene, key=key, number=number).first() if key else None
        arrival = Arrival(scene, own)
        yield arrival
        if key and not arrival.known:
            Arrived.objects.create(scene=scene, key=key, number=number, end=arrival.end)
