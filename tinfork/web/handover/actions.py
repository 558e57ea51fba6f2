"""Asking for files to hand over, and keeping the way it was asked for."""

from pathlib import Path
from typing import Any

import msgspec
from django.core.files.uploadedfile import UploadedFile
from django.db import IntegrityError, transaction

from tinfork.core.errors import HandoverError
from tinfork.core.formats.registry import FORMATS
from tinfork.core.mouths.picture import MOST_BYTES
from tinfork.core.mouths.prepared import one_picture
from tinfork.web.charts.pictures import opened_aside, pictured
from tinfork.web.files.aside import aside
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.queues import LATER, WAITED_FOR, enqueue
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import Person, check

from .models import Backdrop, Handover, Preset
from .tasks import make_handover
from .wishes import Wish, files, without_scene

MOST_PRESETS = 40
MOST_NAME = 60


@transaction.atomic
def ask_for(person: Person, scene: Scene, wish: Wish) -> Job:
    """Queue files of a scene, or of several of its production, as their tracks are when the worker comes to them. What
    nobody has to draw is soon made, and is waited for."""
    check(person, scene.production, "edit")
    others = scenes_of(scene.production, wish)
    for one in (scene, *others):
        files(wish, one)
    queue = LATER if others or any(FORMATS[kind].looks for kind in wish.kinds) else WAITED_FOR
    kept = msgspec.to_builtins(wish)
    job = enqueue(person, make_handover, "handover", scene.pk, scene, {"wish": kept}, queue)
    Handover.objects.get_or_create(job=job, defaults={"wish": kept})
    return job


def scenes_of(production: Production, wish: Wish) -> list[Scene]:
    """The other scenes a wish names. HandoverError where one is not the production's."""
    found = list(production.scenes.filter(pk__in=wish.scenes))
    if len(found) != len(set(wish.scenes)):
        raise HandoverError("One of these scenes is not there any more; reload the page.")
    return found


def keep_backdrop(person: Person, scene: Scene, upload: "UploadedFile[Any] | None") -> Backdrop:
    """Keep a picture to lie behind everybody in a scene, in the place of another."""
    check(person, scene.production, "edit")
    if upload is None:
        raise HandoverError("Choose a picture first: a PNG, a WebP or an SVG.")
    if (upload.size or 0) > MOST_BYTES:
        raise HandoverError(f"A picture has {MOST_BYTES // 1_000_000} MB at the most; make it smaller.")
    with opened_aside([(Path(upload.name or "picture").name, upload)]) as (sources, folder):
        fields = pictured(aside(one_picture, sources[0], folder), folder)
    return Backdrop.objects.update_or_create(scene=scene, defaults=fields)[0]


def drop_backdrop(person: Person, scene: Scene) -> None:
    """Let go of the picture behind everybody."""
    check(person, scene.production, "edit")
    Backdrop.objects.filter(scene=scene).delete()


def keep_preset(person: Person, production: Production, name: str, wish: Wish) -> Preset:
    """Keep a way to hand over for a production, in the place of another of that name."""
    check(person, production, "edit")
    name = name.strip()
    if not name or len(name) > MOST_NAME:
        raise HandoverError(f"Give the preset a name of 1 to {MOST_NAME} letters.")
    if production.presets.exclude(name=name).count() >= MOST_PRESETS:
        raise HandoverError(f"There are {MOST_PRESETS} presets already; delete one first.")
    kept = msgspec.to_builtins(without_scene(wish))
    try:
        with transaction.atomic():
            found, _ = Preset.objects.update_or_create(
                production=production, name=name, defaults={"wish": kept, "person_id": person.pk}
            )
    except IntegrityError:
        raise HandoverError("Somebody kept a preset of this name at the same time; try again.") from None
    return found


def drop_preset(person: Person, preset: Preset) -> None:
    """Let go of a preset."""
    check(person, preset.production, "edit")
    preset.delete()
