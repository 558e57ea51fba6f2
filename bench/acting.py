"""What an edit of acting costs on the server in ten minutes of five lanes: milliseconds and bytes, as bench.edits has
it."""

import gzip
import json
import random
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.test.utils import override_settings

from tinfork.core.acting.lanes import Key, Lane
from tinfork.core.plain import plain
from tinfork.core.script.casting import clips_of
from tinfork.web.acting.models import Acting, acting_of, kept_lane
from tinfork.web.acting.staging import Stage
from tinfork.web.acting.tasks import ask_to_propose, propose_scene
from tinfork.web.collecting import collect_after_answers
from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.melodies import melodies_of
from tinfork.web.staves.models import Stave

from .edits import MINUTES, Asking, any_frame, long_scene, own_database, post, row, speaks

LANES = ("head", "eyes", "lids", "left brow", "right brow")
CASTS = ((3.0, 3), (3.0, 12))
"""Minutes of scenes, and how many act in them."""

KEYS = 600
"""Of each of two dials of each lane."""


def table() -> None:
    """Every verb of acting on a scene of ten minutes in which everything is proposed and much is keyed."""
    plain = settings.STORAGES | {"staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
    with own_database(), tempfile.TemporaryDirectory() as files, override_settings(MEDIA_ROOT=files, STORAGES=plain):
        person = User.objects.create_user("bench")
        client, scene = Asking(person), long_scene(person, create_production(person, "The Salt Ferry"), Path(files))
        acting = acting_of(scene, Stave.objects.get().character)
        collect_after_answers()
        begun = time.perf_counter()
        said = post(client, f"/acting/{acting.pk}/edit", {"verb": "propose", "version": 0})
        assert said.status_code == 200, said.content
        print(f"Acting of {MINUTES:.0f} minutes, {len(LANES)} lanes: the first proposal of everything, ", end="")
        many = json.loads(gzip.decompress(said.content))["proposed"]
        print(f"with the melody {time.perf_counter() - begun:.1f} s, {many} gestures")
        keyed(acting)
        print(f"{'':<28}{'p50 ms':>8}{'p95 ms':>8}{'bytes':>10}{'gzipped':>9}")
        measure(client, acting)
        print(f"{'Everybody, as a job':<28}{'first s':>8}{'again s':>8}")
        for minutes, many in CASTS:
            everybody(person, minutes, many, Path(files))


def everybody(person: User, minutes: float, many: int, folder: Path) -> None:
    """Proposals for so many characters who all speak all through a scene, as a worker makes them; the melodies of
    their sounds are known, as reading leaves them."""
    production = create_production(person, f"The Salt Ferry, {many}")
    scene = create_scene(person, production, "Deck", "24", "1001")
    for number in range(many):
        speaks(person, scene, create_character(person, production, f"Deckhand {number}"), folder, 1, minutes)
    for stave in scene.staves.all():
        melodies_of(clips_of(arrangement_of(scene).value, stave.character_id))

    def seconds() -> float:
        job = ask_to_propose(person, scene)
        begun = time.perf_counter()
        propose_scene(job.pk)
        took = time.perf_counter() - begun
        job.refresh_from_db()
        assert job.state == "done", job.message
        return took

    print(f"{f'{minutes:.0f} minutes, {many} characters':<28}{seconds():>8.2f}{seconds():>8.2f}")


def keyed(acting: Acting) -> None:
    """Keys all over the scene, as passes leave them."""
    draw, frames = random.Random(2), Stage(acting).where.frames
    for name in LANES:
        keys = {}
        for dial in ("x", "turn"):
            own = sorted(draw.sample(range(frames), KEYS))
            keys[dial] = tuple(Key(at, draw.uniform(-5, 5)) for at in own)
        acting.lanes.filter(part=name).update(body=plain(kept_lane(Lane(keys))["body"]))


def measure(client: Asking, acting: Acting) -> None:
    """A row for each verb."""
    draw = random.Random(1)
    lines = [one.line for one in Stage(acting).lines]

    def edit(verb: str, **what: Any) -> Callable[[], Any]:
        version = Acting.objects.get(pk=acting.pk).version
        return lambda: post(client, f"/acting/{acting.pk}/edit", {"verb": verb, "version": version, **what})

    def part() -> str:
        return draw.choice(LANES)

    def key(verb: str, **what: Any) -> Callable[[], Any]:
        name = part()
        own = Acting.objects.get(pk=acting.pk).lane(name).keys["x"]
        placed = Stage(acting).place(Acting.objects.get(pk=acting.pk).lane(name)).keys["x"].frames
        assert own
        return edit(verb, part=name, dial="x", frames=[draw.choice(placed[2:-2])], **what)

    def gesture(verb: str, **what: Any) -> Callable[[], Any]:
        name = draw.choice(("head", "lids", "left brow"))
        one = draw.choice(Acting.objects.get(pk=acting.pk).lane(name).gestures)
        return edit(verb, part=name, ids=[one.id], **what)

    def recorded() -> Callable[[], Any]:
        first = any_frame(draw) // 2
        samples = [[first + n / 2.5, 4 * draw.random()] for n in range(300)]
        return edit("record", part="head", dial="turn", first=first, end=first + 120, samples=samples)

    verbs: dict[str, Callable[[], Any]] = {
        "key": lambda: edit("key", part=part(), dial="x", frame=any_frame(draw), value=draw.uniform(-5, 5)),
        "undo of it": lambda: edit("undo"),
        "redo of it": lambda: edit("redo"),
        "move key": lambda: key("move keys", by=1, up=0.2),
        "ease": lambda: key("ease", ease=draw.choice(("hold", "straight"))),
        "show": lambda: edit("show", part="lids", frame=any_frame(draw), frames=3, drawing="half"),
        "slide": lambda: edit("slide", part="lids", at=[any_frame(draw)], by=2),
        "gesture": lambda: gesture("gestures", by=1, amount=1.2),
        "drop gesture": lambda: gesture("drop gestures"),
        "lead": lambda: edit("lane", part=part(), lead=draw.randrange(5)),
        "look": lambda: edit("look", frame=any_frame(draw), frames=14, x=1, y=0, head=True),
        "note a phrase": lambda: edit("phrase", line=draw.choice(lines), note=f"note {draw.random()}"),
        "pass of 5 s": recorded,
        "propose a phrase": lambda: edit("propose", lines=[draw.choice(lines)]),
        "accept a phrase": lambda: edit("accept", line=lines.pop()),
        "throw a phrase away": lambda: edit("throw away", line=lines.pop()),
        "amount of a phrase": lambda: edit("phrase", line=draw.choice(lines), amount=draw.uniform(0.5, 2)),
    }
    for name, verb in verbs.items():
        row(name, verb)
    row("propose everything", lambda: edit("propose"), 3)
    row("all of it", lambda: lambda: client.get(f"/acting/{acting.pk}/"), 5)
    row("melody of a minute", lambda: lambda: client.get(f"/acting/{acting.pk}/melody?first=1440&end=2880"), 5)
