"""What a board of a thousand shots costs on the server: milliseconds, bytes and questions to the database."""

import json
import tempfile
from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.base import File
from django.db import connection
from django.test.utils import CaptureQueriesContext, override_settings

from tinfork.core.sound.recording import READ_RATE
from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.productions.models import Production, Scene
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.shots.models import Sequence, Shot
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound

from . import edits, truth

SHOTS, SEQUENCES, FEW = 1_000, 12, 40
_WITH_SOUND = 0.8


def table() -> None:
    """The board as it is first seen, when nothing is known of its shots, and again; what is done with many at once."""
    plain = settings.STORAGES | {"staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
    with (
        edits.own_database(),
        tempfile.TemporaryDirectory() as files,
        override_settings(MEDIA_ROOT=files, STORAGES=plain),
    ):
        person = User.objects.create_user("bench")
        production = made(person, Path(files))
        client, page = edits.Asking(person), production.get_absolute_url()
        print(f"A board of {SHOTS:,} shots in {SEQUENCES} sequences")
        print(f"{'':<28}{'p50 ms':>8}{'p95 ms':>8}{'bytes':>10}{'gzipped':>9}")
        edits.row("seen first", lambda: lambda: client.get(page), times=1)
        edits.row("seen again", lambda: lambda: client.get(page), times=9)
        scenes = list(production.scenes.values_list("pk", flat=True))

        def change(count: int, name: str, value: str) -> None:
            body = json.dumps({"name": name, "value": value, "scenes": scenes[:count]})
            address = f"{page}board/set"
            ask = lambda: client.post(address, body, content_type="application/json")  # noqa: E731
            edits.row(f"{name} of {count:,} set", lambda: ask, times=5)

        change(FEW, "due", "2026-12-24")
        change(SHOTS, "priority", "high")
        edits.row("taken back", lambda: lambda: client.post(f"{page}board/undo"), times=5)
        edits.row("table out", lambda: lambda: client.get(f"{page}board/table.csv"), times=5)
        with CaptureQueriesContext(connection) as asked:
            client.get(page)
        print(f"{len(asked)} questions to the database")


def made(person: User, files: Path) -> Production:
    """A production of so many shots, most with a sound and a line."""
    production = create_production(person, "The Salt Ferry")
    marit = create_character(person, production, "Marit")
    sequences = [
        Sequence.objects.create(production=production, name=f"Sequence {number}", place=number)
        for number in range(SEQUENCES)
    ]
    line = truth.flite("My left boot went overboard near the lighthouse", "slt")
    edits.soundfile.write(files / "line.wav", line.recording.samples, READ_RATE)
    with (files / "line.wav").open("rb") as file:
        sound = bring_in(person, production, File(file, name="line.wav"))
    for number in range(SHOTS):
        scene: Scene = create_scene(person, production, f"Shot {number:04d}", "24", "1")
        Shot.objects.create(scene=scene, number=f"{number * 10:05d}", sequence=sequences[number * SEQUENCES // SHOTS])
        if number < SHOTS * _WITH_SOUND:
            place_sound(person, arrangement_of(scene), sound, 0, marit)
            add_text(person, script_of(scene), None, f"Marit: {line.text}")
    return production
