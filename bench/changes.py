"""What it costs when something beneath a scene of ten minutes becomes another; on a database of its own."""

import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.base import File
from django.db import transaction
from django.test.utils import override_settings

from tinfork.core.exposure.pins import AnchoredPin
from tinfork.core.sound.recording import READ_RATE
from tinfork.web.board.cutting import copy_scene, cut_scene
from tinfork.web.board.joining import join_scenes
from tinfork.web.edits import actions as edits
from tinfork.web.following.clock import set_clock
from tinfork.web.following.reading import ask_to_follow, compare, following_of
from tinfork.web.following.taking import take
from tinfork.web.following.waiting import wait
from tinfork.web.productions.actions import create_production
from tinfork.web.productions.models import Scene
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.models import Stave
from tinfork.web.staves.planning import planned

from .edits import long_scene, own_database
from .following import spoken
from .truth import FLITE_VOICES


def table() -> None:
    """Print the seconds of each."""
    plain = settings.STORAGES | {"staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
    with own_database(), tempfile.TemporaryDirectory() as files, override_settings(MEDIA_ROOT=files, STORAGES=plain):
        person = User.objects.create_user("bench")
        production = create_production(person, "The Salt Ferry")
        scene = long_scene(person, production, Path(files))
        planned(Stave.objects.get())
        with transaction.atomic():
            stave = edits.locked(person, Stave.objects.get())
            edits.change(person, stave, "pins", {"pins": [_pin(frame) for frame in range(0, 14_000, 4)]})
        row("copy the scene", lambda: copy_scene(person, scene))
        row("cut it in two", lambda: cut_scene(person, Scene.objects.exclude(pk=scene.pk).get(), 7_000 + 1001))
        first, second = Scene.objects.filter(shot__archived=None).exclude(pk=scene.pk).order_by("pk")
        row("join both", lambda: join_scenes(person, first, second))
        row("wait 48 frames", lambda: wait(person, scene, 7_000, 48, None))
        row("24 to 25 a second", lambda: set_clock(person, scene, "25", "1001", (scene.rate, scene.start_frame)))
        document = arrangement_of(Scene.objects.get(pk=scene.pk))
        row("undo that", lambda: edits.undo(person, document, None))
        follows(person, Scene.objects.select_related("production").get(pk=scene.pk), Path(files))


def _pin(frame: int) -> AnchoredPin:
    return AnchoredPin(frame, 3, "open", 2)


def follows(person: User, scene: Scene, folder: Path) -> None:
    """A new cut of the sound: half a minute gone, five seconds put in."""
    clip = arrangement_of(scene).value.clips[0]
    (old,) = scene.production.sounds.all()
    samples, _ = soundfile.read(old.original.path, dtype="float32")
    other = spoken(5, FLITE_VOICES[2], read=False).samples[: 5 * READ_RATE]
    cut = [samples[: 200 * READ_RATE], other, samples[200 * READ_RATE : 350 * READ_RATE], samples[380 * READ_RATE :]]
    soundfile.write(folder / "cut.wav", np.concatenate(cut) * 0.7, READ_RATE)
    with (folder / "cut.wav").open("rb") as file:
        new = bring_in(person, scene.production, File(file, name="cut.wav"))
    asked = ask_to_follow(person, scene, clip.source_id, new)
    row("compare both sounds", lambda: compare(job_id=asked.job.pk if asked.job else 0))
    found = following_of(scene, asked.pk)
    row("take the new one", lambda: take(person, found, ends=True))
    document = arrangement_of(Scene.objects.get(pk=scene.pk))
    row("undo that", lambda: edits.undo(person, document, None))


def row(what: str, do: Callable[[], Any]) -> None:
    """Do something once, and print how long it took."""
    begun = time.perf_counter()
    do()
    print(f"{what:<24}{time.perf_counter() - begun:>8.2f} s", flush=True)
