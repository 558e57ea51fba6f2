"""Lays siege to the Tin Fork that script/start serves: script/siege

Twenty people edit for a minute beside five films of ten minutes, a reading of ten minutes, readings of a line, and
sixty connections that say nothing; then once more, while each process in turn is killed. Told are errors, how long
edits and readings took, how much memory web and workers held, how long each part was away, and whether anything that
was acknowledged is lost. It leaves a production “Siege” behind, which its person deletes.
"""

import json
import os
import random
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import django
import numpy as np

django.setup()

from django.contrib.auth.models import User  # noqa: E402
from django.contrib.sessions.backends.db import SessionStore  # noqa: E402
from django.db import connection  # noqa: E402

from tinfork.core.sound.recording import READ_RATE  # noqa: E402
from tinfork.core.speech import read  # noqa: E402
from tinfork.core.speech.anchors import to_source  # noqa: E402
from tinfork.core.speech.reading import Reading  # noqa: E402
from tinfork.web.productions.actions import create_character, create_production, create_scene  # noqa: E402
from tinfork.web.productions.models import Membership, Production  # noqa: E402
from tinfork.web.script.actions import add_text, script_of  # noqa: E402
from tinfork.web.sound.actions import bring_in  # noqa: E402
from tinfork.web.sound.arranging import arrangement_of, place_sound  # noqa: E402
from tinfork.web.staves.actions import stave_for, take_reading  # noqa: E402
from tinfork.web.staves.models import Stave  # noqa: E402
from tinfork.web.staves.seeing import track_of  # noqa: E402

from . import edits, truth  # noqa: E402

PEOPLE, FILMS, IDLE, SECONDS = 20, 5, 60, 60.0
ADDRESS = f"http://127.0.0.1:{os.environ.get('TINFORK_PORT', '8040')}"
PARTS = {
    "front": "nginx: master",
    "web": "gunicorn tinfork",
    "stream": "uvicorn tinfork",
    "reader": "work waited-for",
    "maker": "work fetched-later",
    "database": "postgres -D",
}


@dataclass
class Told:
    """What happened: seconds of each kind of request, and of those that failed their status."""

    seconds: dict[str, list[float]] = field(default_factory=dict)
    failed: dict[str, int] = field(default_factory=dict)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def took(self, kind: str, seconds: float, status: int) -> None:
        with self.lock:
            if status < 400:
                self.seconds.setdefault(kind, []).append(seconds)
            else:
                self.failed[f"{kind} {status}"] = self.failed.get(f"{kind} {status}", 0) + 1

    def print(self, title: str) -> None:
        print(f"\n{title}")
        for kind, own in sorted(self.seconds.items()):
            p50, p95, most = np.percentile(own, 50), np.percentile(own, 95), max(own)
            print(f"  {kind:<22}{len(own):>6} x  p50 {p50:>7.3f} s  p95 {p95:>7.3f} s  longest {most:>7.3f} s")
        print(f"  failed: {self.failed or 'none'}")


class Person:
    """Somebody with a session of their own, and a stave they work on."""

    def __init__(self, user: User, told: Told, stave: int = 0) -> None:
        session = SessionStore()
        session.update({"_auth_user_id": str(user.pk), "_auth_user_hash": user.get_session_auth_hash()})
        session["_auth_user_backend"] = "django.contrib.auth.backends.ModelBackend"
        session.save()
        self.headers = {
            "Cookie": f"sessionid={session.session_key}; csrftoken={'a' * 32}",
            "X-CSRFToken": "a" * 32,
            "Referer": ADDRESS,
        }
        self.number = user.pk
        self.told, self.stave, self.acknowledged = told, stave, dict[int, str]()
        self.version = 0

    def ask(self, kind: str, path: str, what: Any = None) -> Any:
        """Return the JSON at an address, or the answer to something sent there; None when it failed."""
        body = None if what is None else json.dumps(what).encode()
        own = self.headers | {"Accept": "application/json", "Content-Type": "application/json"}
        request = urllib.request.Request(ADDRESS + path, body, own)
        begun, status, found = time.monotonic(), 0, None
        try:
            with urllib.request.urlopen(request, timeout=60) as answer:
                data, status = answer.read(), answer.status
                found = json.loads(data) if "json" in answer.headers.get("Content-Type", "") else data
        except urllib.error.HTTPError as refused:
            status = refused.code
        except OSError:
            status = 599
        self.told.took(kind, time.monotonic() - begun, status)
        return found

    def edit(self, draw: random.Random) -> None:
        """Pin a drawing somewhere, on what is known of the stave."""
        frame, drawing = 4 * draw.randrange(12), draw.choice(["open", "press", "purse", "half"])
        asked = {"verb": "pin", "version": self.version, "frame": frame, "frames": 3, "drawing": drawing}
        done = self.ask("edit", f"/staves/{self.stave}/edit", asked)
        if done is None:
            found = self.ask("look", f"/staves/{self.stave}/?first=0&end=60")
            self.version = found["version"] if found else self.version
        else:
            self.version, self.acknowledged[frame] = done["document"]["version"], drawing


def prepared(told: Told, long: bool = True) -> tuple[list[Person], Person, int, list[int]]:
    """Return people with a scene each; somebody with the long scene, where there is to be one, its number; scenes with
    a line that can be read."""
    owner = User.objects.create_user(f"siege {time.time():.0f}")
    production = create_production(owner, f"Siege {time.time():.0f}")
    line = truth.flite("My left boot went overboard near the lighthouse", "slt")
    reading = read.read(line.recording, line.text)
    people, scenes = [], []
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "line.wav"
        edits.soundfile.write(path, line.recording.samples, READ_RATE)
        with path.open("rb") as file:
            sound = bring_in(owner, production, edits.File(file, name="line.wav"))
        for number in range(PEOPLE):
            user = User.objects.create_user(f"{owner.username} {number}")
            Membership.objects.create(production=production, person=user, role=Membership.Role.ANIMATOR)
            stave = _line_scene(owner, production, number, sound, reading, line.text)
            people.append(Person(user, told, stave.pk))
            scenes.append(stave.scene_id)
        there = edits.long_scene(owner, production, Path(folder)).pk if long else 0
    return people, Person(owner, told), there, scenes


def _line_scene(owner: User, production: Production, number: int, sound: Any, reading: Reading, text: str) -> Stave:
    scene = create_scene(owner, production, f"Line {number}", "24", "1")
    character = create_character(owner, production, f"Marit {number}")
    place_sound(owner, arrangement_of(scene), sound, 0, character)
    add_text(owner, script_of(scene), None, f"{character.name}: {text}")
    stave = stave_for(owner, scene, character)
    lines = to_source(tuple(reading.lines), arrangement_of(scene).value.clips, 24.0)
    take_reading(owner, stave, Reading(reading.seconds, reading.rate, "en", lines))
    return Stave.objects.get(pk=stave.pk)


class Siege:
    """A minute of it."""

    def __init__(self, people: list[Person], owner: Person, long: int, scenes: list[int]) -> None:
        self.people, self.owner, self.long, self.scenes = people, owner, long, scenes
        self.over = threading.Event()
        self.memory: dict[str, list[int]] = {}

    def lay(self, meanwhile: Callable[[], None] = lambda: None) -> None:
        """All at once, for SECONDS or until what is done meanwhile is done."""
        self.over.clear()
        idle = [socket.create_connection(("127.0.0.1", int(ADDRESS.rsplit(":", 1)[1]))) for _ in range(IDLE)]
        for number in range(FILMS):
            wish = {"kinds": ["webm"], "width": 1280, "height": 720 - 2 * number}
            self.owner.ask("ask for a film", f"/scenes/{self.long}/hand-over/make", wish)
        self.owner.ask("ask to read", f"/scenes/{self.long}/reading/read", {"lines": [], "words": []})
        threads = [threading.Thread(target=self._work, args=(n, one)) for n, one in enumerate(self.people)]
        threads += [threading.Thread(target=self._reads), threading.Thread(target=self._watch)]
        for thread in threads:
            thread.start()
        begun = time.monotonic()
        meanwhile()
        self.over.wait(max(0.0, SECONDS - (time.monotonic() - begun)))
        self.over.set()
        for thread in threads:
            thread.join()
        for one in idle:
            one.close()

    def _work(self, number: int, person: Person) -> None:
        draw = random.Random(number)
        while not self.over.is_set():
            person.edit(draw)
            if draw.random() < 0.1:
                scene = self.scenes[number]
                person.ask("open the desk", f"/scenes/{scene}/reading/")
                person.ask("what is next", f"/scenes/{scene}/next")
            time.sleep(draw.uniform(0.5, 1.5))

    def _reads(self) -> None:
        """Somebody has a line read, and another one."""
        for number, scene in enumerate(self.scenes * 9):
            if self.over.is_set():
                return
            person, begun = self.people[number % PEOPLE], time.monotonic()
            asked = person.ask("ask to read", f"/scenes/{scene}/reading/read", {"lines": [1], "words": []})
            while asked and not self.over.is_set():
                job = person.ask("how far", asked["job"])
                if job and job["ended"]:
                    person.told.took(f"a line is read: {job['state']}", time.monotonic() - begun, 200)
                    break
                time.sleep(0.2)
            time.sleep(3)

    def _watch(self) -> None:
        while not self.over.wait(0.5):
            for name, held in memory().items():
                self.memory.setdefault(name, []).append(held)


def processes() -> dict[int, tuple[int, str]]:
    """Return every process: its parent and what it is."""
    rows = subprocess.run(["ps", "-ww", "-eo", "pid=,ppid=,args="], capture_output=True, text=True, check=True).stdout
    split = [row.split(None, 2) for row in rows.splitlines()]
    return {int(pid): (int(parent), what) for pid, parent, what in split}


def keeper() -> int:
    """Return the process that keeps all parts of what is served here."""
    run = [pid for pid, (_, what) in processes().items() if "supervisor.supervisord" in what]
    if len(run) != 1:
        sys.exit("Start one Tin Fork first: script/start")
    return run[0]


def part(name: str) -> int:
    """Return the process of a part; 0 where it is away."""
    root = keeper()
    return next((pid for pid, (up, what) in processes().items() if up == root and PARTS[name] in what), 0)


def memory() -> dict[str, int]:
    """MB each kind of process holds at its largest."""
    found: dict[str, int] = {}
    for pid, (_, what) in processes().items():
        kind = next(
            (name for name, sign in PARTS.items() if sign in what and name in ("web", "stream", "reader", "maker")), ""
        )
        kind = kind or ("aside" if "forkserver" in what else "")
        with suppress(OSError, IndexError):
            pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1]) if kind else 0
            found[kind] = max(found.get(kind, 0), pages * 4096 >> 20)
    found.pop("", None)
    return found


def kill_each() -> None:
    """kill -9 of each part, one after the other, and how long until it is there and five requests are answered."""
    for name in PARTS:
        old = part(name)
        if not old:
            sys.exit(f"{name} is not a part of what script/start runs; stop what runs beside it first.")
        os.kill(old, signal.SIGKILL)
        begun, answered = time.monotonic(), 0
        while answered < 5 or part(name) in (0, old):
            with suppress(OSError), urllib.request.urlopen(f"{ADDRESS}/health/", timeout=2) as answer:
                answered = answered + 1 if answer.status == 200 else 0
            time.sleep(0.1)
        print(f"  {name:<10} killed, back after {time.monotonic() - begun:.1f} s")
        time.sleep(4)


def main() -> int:
    """Return a minute of load, then once more with kills; 1 when anything was lost."""
    told = Told()
    keeper()
    print("making a production to besiege …", flush=True)
    siege = Siege(*prepared(told))
    print(f"{PEOPLE} people, {FILMS} films and a reading of {edits.MINUTES:.0f} minutes, {IDLE} idle connections")
    siege.lay()
    told.print(f"{SECONDS:.0f} s of load")
    for kind, held in siege.memory.items():
        print(f"  {kind:<10} holds {held[0]} MB at first, {max(held)} MB at most, {held[-1]} MB at last")
    told.seconds.clear()
    told.failed.clear()
    print("\nThe same, while each part in turn is killed")
    siege.lay(kill_each)
    told.print("then")
    lost = 0
    connection.close()  # The database is another than when it began.
    for person in siege.people:
        shown = {e.frame: e.drawing for e in track_of(Stave.objects.get(pk=person.stave)) if e.pinned}
        lost += sum(shown.get(frame) != drawing for frame, drawing in person.acknowledged.items())
    count = sum(len(person.acknowledged) for person in siege.people)
    print(f"  of {count} pins that were acknowledged last, {lost} are lost")
    return 1 if lost else 0


if __name__ == "__main__":
    sys.exit(main())
