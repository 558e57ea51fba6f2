"""The log of what was shot at the camera."""

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated, Any
from uuid import UUID

from django.db import transaction
from django.db.models import Max
from msgspec import Meta, Struct

from tinfork.core.limits import MAX_SCENE_FRAMES
from tinfork.web.edits.actions import lock_scene
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check, number_of

from .models import Exposed

MOST_SHOWN = 200


class Said(Struct, frozen=True, forbid_unknown_fields=True):
    """What a page says of a frame, counted from 0; see Exposed."""

    key: UUID
    frame: Annotated[int, Meta(ge=0, le=MAX_SCENE_FRAMES)]
    when: Annotated[datetime, Meta(tz=True)]
    again: bool = False


@transaction.atomic
def keep(person: Person, scene: Scene, said: Sequence[Said]) -> None:
    """Keep what was said, in whatever order and however often it comes. One page's after the other's: who asks for what
    comes after an entry's number misses none that had a lower one and came later."""
    check(person, scene.production, "edit")
    lock_scene(scene)
    rows = [
        Exposed(scene=scene, key=one.key, frame=one.frame, again=one.again, when=one.when, person_id=number_of(person))
        for one in said
    ]
    Exposed.objects.bulk_create(rows, ignore_conflicts=True)


def log(scene: Scene, since: int = 0) -> dict[str, Any]:
    """What was said after the entry of a number: for each frame of it whether that is to be shot again now, the last
    entries, the newest first, and the number to ask after next time."""
    fresh = scene.exposed.filter(pk__gt=since)
    frames = scene.exposed.filter(frame__in=fresh.values("frame")).order_by("frame", "-when", "-pk").distinct("frame")
    newest = [
        {
            "frame": one.frame,
            "again": one.again,
            "who": str(one.person or "somebody who left"),
            "when": one.when.isoformat(timespec="seconds"),
        }
        for one in fresh.select_related("person").order_by("-when", "-pk")[:MOST_SHOWN]
    ]
    return {
        "frames": dict(frames.values_list("frame", "again")),
        "last": newest,
        "upTo": fresh.aggregate(last=Max("pk"))["last"] or since,
    }
