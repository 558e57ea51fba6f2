"""What an edit of a long scene costs on the server: milliseconds and bytes, on a database of its own."""

import functools
import gzip
import json
import random
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.base import File
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.wsgi import get_wsgi_application
from django.db import connection
from django.middleware.csrf import _get_new_csrf_string
from django.test import Client
from django.test.utils import override_settings, setup_test_environment, teardown_test_environment

from tinfork.core.script.casting import clips_of
from tinfork.core.sound.recording import READ_RATE
from tinfork.core.speech import read
from tinfork.core.speech.anchors import to_source
from tinfork.core.speech.reading import Line, Reading, moved
from tinfork.web.charts.actions import bring_in as bring_drawings
from tinfork.web.charts.actions import create_chart, wear
from tinfork.web.collecting import collect_after_answers
from tinfork.web.edits.models import Edit
from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound, split
from tinfork.web.staves.actions import stave_for, take_reading
from tinfork.web.staves.models import Stave
from tinfork.web.staves.planning import planned, scene_reading

from . import charts, sentences, truth

MINUTES = 10.0
TIMES = 24
CLIPS = 20
SCRIPT_LINES = 533
SCENES = 300


def table() -> None:
    """Every verb on a scene of ten minutes, then the pages."""
    plain = settings.STORAGES | {"staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}}
    with (
        own_database(),
        tempfile.TemporaryDirectory() as files,
        override_settings(MEDIA_ROOT=files, STORAGES=plain),
    ):
        person = User.objects.create_user("bench")
        client = Asking(person)
        production = create_production(person, "The Salt Ferry")
        scene = long_scene(person, production, Path(files))
        stave = Stave.objects.get()
        value = scene_reading(stave)
        assert value is not None
        track = planned(stave).stave.track.exposures()
        words, sounds = list(value.words()), list(value.sounds())
        collect_after_answers()
        print(f"Edits of {MINUTES:.0f} minutes at 24 fps: {len(value.lines)} lines, {len(words)} words, ", end="")
        print(f"{len(sounds)} sounds, {len(track)} exposures")
        print(f"{'':<28}{'p50 ms':>8}{'p95 ms':>8}{'bytes':>10}{'gzipped':>9}")
        desk_verbs(client, stave)
        mouth_verbs(client, stave)
        sound_verbs(client, scene)
        script_verbs(client, scene)
        with_many_drawings(client, person, stave)
        pages(client, person, production, scene)


class Asking(Client):
    """A person's requests, answered by what the web server runs, without what a test's client adds to it."""

    def __init__(self, person: User) -> None:
        token = _get_new_csrf_string()
        super().__init__(headers={"accept-encoding": "gzip", "x-csrftoken": token})
        self.cookies[settings.CSRF_COOKIE_NAME] = token
        self.force_login(person)
        self._served = get_wsgi_application()

    def request(self, **request: Any) -> Any:
        """Return the answer, not yet closed: a server closes it when it is sent."""
        answer: Any = self._served(self._base_environ(**request), lambda *_: None)
        return answer


@contextmanager
def own_database() -> Iterator[None]:
    """A database for this alone."""
    setup_test_environment()
    name = connection.creation.create_test_db(verbosity=0, autoclobber=True)
    try:
        yield
    finally:
        connection.creation.destroy_test_db(name, verbosity=0)
        teardown_test_environment()


def long_scene(person: User, production: Production, folder: Path) -> Scene:
    """Return our sentences one after the other, spoken and read, in one sound cut into clips."""
    scene = create_scene(person, production, "Fog", "24", "1001")
    speaks(person, scene, create_character(person, production, "Marit"), folder)
    Edit.objects.all().delete()
    return scene


def speaks(
    person: User, scene: Scene, who: Character, folder: Path, clips: int = CLIPS, minutes: float = MINUTES
) -> None:
    """A character says our sentences one after the other, from the beginning of a scene to its end."""
    production = scene.production
    spoken = [truth.flite(text, "slt") for text in sentences.ENGLISH]
    readings = [read.read(line.recording, line.text) for line in spoken]
    pieces, lines, begin = [], list[Line](), 0.0
    while begin < minutes * 60:
        number = len(lines) % len(spoken)
        pieces.append(spoken[number].recording.samples)
        lines += [replace(line, id=len(lines) + 1) for line in (moved(readings[number].lines[0], begin),)]
        begin += len(pieces[-1]) / READ_RATE
    path = folder / f"{who.name}.wav"
    quieter = 1 - who.pk % 7 / 100  # so that nobody's sound is another's
    soundfile.write(path, np.concatenate(pieces) * quieter, READ_RATE)
    with path.open("rb") as file:
        sound = bring_in(person, production, File(file, name=path.name))
    place_sound(person, arrangement_of(scene), sound, 0, who)
    for cut in range(1, clips):
        document = arrangement_of(scene)
        last = document.value.clips[-1]
        frame = round(cut * minutes * 60 * 24 / clips)
        split(person, document, document.version, [last.id], frame)
    add_text(person, script_of(scene), None, "\n".join(f"{who.name}: {line.text}" for line in lines))
    own = clips_of(arrangement_of(scene).value, who.pk)
    kept = to_source(lines, own, 24.0)
    take_reading(person, stave_for(person, scene, who), Reading(begin, READ_RATE, "en", kept))


def edits_of(client: Client, stave: Stave) -> Callable[..., Callable[[], Any]]:
    """Return what prepares an edit of a stave as it is then, to be asked for afterwards."""

    def edit(verb: str, **what: Any) -> Callable[[], Any]:
        version = Stave.objects.values_list("version", flat=True).get(pk=stave.pk)
        return lambda: post(client, f"/staves/{stave.pk}/edit", {"verb": verb, "version": version, **what})

    return edit


def any_frame(draw: random.Random) -> int:
    """Return a frame somewhere in the scene."""
    return draw.randrange(int(MINUTES * 60 * 24) - 20)


def desk_verbs(client: Client, stave: Stave) -> None:
    """Pins, settings and corrections, all over the scene."""
    draw = random.Random(1)
    edit, order = edits_of(client, stave), len(stave.order)

    def at(words: int = 3) -> list[int]:
        return [draw.randrange(order), draw.randrange(1, words)]

    def edge() -> Any:
        place = at()
        line = Stave.objects.get(pk=stave.pk).lines.get(number=stave.order[place[0]]).body
        word = line["words"][place[1]]
        return edit("edge", at=place, edge=len(word["sounds"]), time=word["end"] - 0.011)

    verbs: dict[str, Callable[[], Any]] = {
        "pin": lambda: edit("pin", frame=any_frame(draw), frames=3, drawing="purse"),
        "undo of it": lambda: edit("undo"),
        "redo of it": lambda: edit("redo"),
        "settings": lambda: edit("settings", hold=2, lead=1, detail=draw.random()),
        "edge": edge,
        "undo of that": lambda: edit("undo"),
        "move word": lambda: edit("move word", at=[draw.randrange(order), 0], by=-0.005),
        "move line": lambda: edit("move line", at=[draw.randrange(order), 0], by=0.004),
        "looks right": lambda: edit("approve", at=at()),
        "change a sound": lambda: edit("sound", at=at(), sound=0, ipa="ɑ"),
        "put in a sound": lambda: edit("insert sound", at=at(), sound=0, ipa="ə"),
        "not said": lambda: edit("delete word", at=at()),
        "join words": lambda: edit("join words", at=[draw.randrange(order), 0]),
    }
    for name, verb in verbs.items():
        row(name, verb)
    row("why", lambda: functools.partial(client.get, f"/staves/{stave.pk}/why/{any_frame(draw)}"))
    row("slice of a minute", lambda: lambda: client.get(f"/staves/{stave.pk}/?first=1440&end=2880"))


def mouth_verbs(client: Client, stave: Stave) -> None:
    """What is done to exposures, one of them or some, all over the scene, as it is when a page has seen all of it."""
    planned(stave)
    draw, edit = random.Random(4), edits_of(client, stave)

    def on(verb: str, **what: Any) -> Callable[[], Any]:
        return edit(verb, at=[any_frame(draw)], **what)

    def seam() -> Callable[[], Any]:
        track = Stave.objects.get(pk=stave.pk).track.exposures()
        e = draw.choice(track[2:-2])
        return edit("seam", frame=e.frame, to=e.frame + draw.choice((-1, 1)))

    def ten() -> Callable[[], Any]:
        first = any_frame(draw)
        return edit("keep", within=[first, first + 60])

    verbs: dict[str, Callable[[], Any]] = {
        "another drawing": lambda: on("show", drawing="purse"),
        "put in": lambda: edit("lay", frame=any_frame(draw), pieces=[[0, 2, "open"], [2, 2, "press"]]),
        "split": lambda: edit("split", frame=any_frame(draw)),
        "seam": seam,
        "hold longer": lambda: edit("span", frame=(f := any_frame(draw)), first=f, frames=4),
        "slide": lambda: on("slide", by=1, border="overwrite"),
        "slide with words": lambda: on("slide", by=1, border="overwrite", words=True),
        "take away": lambda: on("remove"),
        "at rest": lambda: on("rest"),
        "pin some": ten,
        "unpin all of two minutes": lambda: edit("free", within=[(f := any_frame(draw)), f + 2880]),
        "repeat": lambda: edit("repeat", frame=any_frame(draw), frames=24, times=3),
        "stretch of its own": lambda: edit("stretch", frame=any_frame(draw), frames=30),
        "settings of a range": lambda: edit(
            "settings of a range", frame=any_frame(draw), frames=48, hold=3, lead=1, detail=0.2
        ),
        "undo of that": lambda: edit("undo"),
    }

    def seen(verb: Callable[[], Callable[[], Any]]) -> Callable[[], Callable[[], Any]]:
        """As a page asks: it has seen, and so had planned, what the edit before left to be planned."""

        def prepare() -> Callable[[], Any]:
            planned(Stave.objects.get())
            return verb()

        return prepare

    for name, verb in verbs.items():
        row(name, seen(verb))
    row("checks of a minute", lambda: lambda: client.get(f"/staves/{stave.pk}/checks?first=1440&end=2880"))
    everything = edit("keep", within=[0, 999_999])
    row("pin all", lambda: everything, times=1)
    row("another, when all are pinned", seen(lambda: on("show", drawing="purse")))
    row("undo of those", lambda: edit("undo"))
    edit("undo")()
    row("history", lambda: lambda: client.get(f"/scenes/{stave.scene_id}/history"), times=5)
    row("versions", lambda: lambda: client.get(f"/scenes/{stave.scene_id}/versions"))


def with_many_drawings(client: Client, person: User, stave: Stave) -> None:
    """Edits of a stave whose character speaks with a chart of many drawings."""
    chart = create_chart(person, stave.scene.production, "As many as there may be")
    files = [
        SimpleUploadedFile(f"drawing {n}.png", charts.drawn(place, 300))
        for n, place in enumerate(charts.places(charts.MANY))
    ]
    bring_drawings(person, chart, files)
    wear(person, stave.character, chart)
    draw, edit = random.Random(5), edits_of(client, stave)
    planned = edit("plan with chart")
    row(f"plan with {charts.MANY} drawings", lambda: planned, times=1)
    row("pin", lambda: edit("pin", frame=any_frame(draw), frames=3, drawing="drawing 7"))
    row("move a line", lambda: edit("move line", at=[draw.randrange(200), 0], by=0.004))
    row("slice of a minute", lambda: lambda: client.get(f"/staves/{stave.pk}/?first=1440&end=2880"), times=5)


def sound_verbs(client: Client, scene: Scene) -> None:
    """Clips moved, one of them or all that come after."""
    draw = random.Random(2)
    address = f"/scenes/{scene.pk}/sound/edit"

    def edit(verb: str, **what: Any) -> Any:
        asked = {"verb": verb, "version": arrangement_of(scene).version, **what}
        return lambda: post(client, address, asked)

    def clip() -> int:
        return draw.choice(arrangement_of(scene).value.clips).id

    for name, verb in {
        "slide a clip": lambda: edit("slide", clips=[arrangement_of(scene).value.clips[-1].id], by=2, ripple=False),
        "slide with ripple": lambda: edit("slide", clips=[clip()], by=1, ripple=True),
        "gain": lambda: edit("gain", clip=clip(), gain=round(draw.uniform(-6, 6), 2)),
        "undo of gain": lambda: edit("undo"),
    }.items():
        row(name, verb)
    stave = Stave.objects.get()
    row("slice after a ripple", lambda: lambda: client.get(f"/staves/{stave.pk}/?first=1440&end=2880"))


def script_verbs(client: Client, scene: Scene) -> None:
    """Lines of the script written, given to somebody, moved."""
    draw = random.Random(3)
    address = f"/scenes/{scene.pk}/script/edit"

    def edit(verb: str, **what: Any) -> Any:
        asked = {"verb": verb, "version": script_of(scene).version, **what}
        return lambda: client.post(address, asked)

    def line() -> int:
        return draw.choice(script_of(scene).value.lines).id

    for name, verb in {
        "write": lambda: edit("write", line=line(), text=f"The fog came down {draw.randrange(99)} times."),
        "assign": lambda: edit("assign", line=line(), character=""),
        "undo of that": lambda: edit("undo"),
        "split a line": lambda: edit("split", line=line(), word=2),
        "move a line": lambda: edit("move", line=line(), by=1),
    }.items():
        row(name, verb)


def pages(client: Client, person: User, production: Production, scene: Scene) -> None:
    """Whole pages, as they are first asked for."""
    row("the desk", lambda: lambda: client.get(f"/scenes/{scene.pk}/reading/"), times=5)
    row("Sound", lambda: lambda: client.get(f"/scenes/{scene.pk}/sound/"), times=5)
    row("Script", lambda: lambda: client.get(f"/scenes/{scene.pk}/script/"), times=5)
    long = create_scene(person, production, "A long script", "24", "1")
    texts = (sentences.ENGLISH[number % len(sentences.ENGLISH)] for number in range(SCRIPT_LINES))
    add_text(person, script_of(long), None, "\n".join(f"Marit: {text}" for text in texts))
    row(f"Script, {SCRIPT_LINES} lines", lambda: lambda: client.get(f"/scenes/{long.pk}/script/"), times=5)
    marit, sound = production.characters.get(), production.sounds.get()
    for number in range(SCENES):
        one = create_scene(person, production, f"Scene {number}", "24", "1")
        place_sound(person, arrangement_of(one), sound, 0, marit)
        Stave.objects.create(scene=one, character=marit, about={"seconds": 1.0, "rate": 8000, "language": "en"})
    row(f"production, {SCENES} scenes", lambda: lambda: client.get(f"/productions/{production.pk}/"), times=5)


def post(client: Client, address: str, what: dict[str, Any]) -> Any:
    """Return the answer to an edit."""
    return client.post(address, json.dumps(what), content_type="application/json")


def row(name: str, prepare: Callable[[], Callable[[], Any]], times: int = TIMES) -> None:
    """One line of the table: something asked for so many times, prepared anew each time."""
    took, refused, sizes, packed = [], 0, [], []
    for _ in range(times):
        ask = prepare()
        begun = time.perf_counter()
        answer = ask()
        body = answer.getvalue()
        took.append((time.perf_counter() - begun) * 1000)
        answer.close()
        refused += answer.status_code != 200
        if answer.headers.get("Content-Encoding") == "gzip":
            body = gzip.decompress(body)
        sizes.append(len(body))
        packed.append(len(gzip.compress(body, 6)))
    p50, p95 = np.percentile(took, [50, 95])
    said = f"  {refused} of {times} refused" if refused else ""
    print(f"{name:<28}{p50:8.0f}{p95:8.0f}{max(sizes):10,}{max(packed):9,}{said}", flush=True)
