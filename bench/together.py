"""Twenty people on one production of the Tin Fork that script/start serves, for a minute: script/siege together

Each has a page open that hears of changes, edits a shot of their own, opens boards, desks and rushes, writes notes on
others' shots, and looks for words. Told are errors, how long each took, how soon a notice reached the page of whom it
concerns, and how much memory was held. It leaves a production “Siege” behind, which its person deletes.
"""

import json
import random
import sys
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

import django
import numpy as np

django.setup()

from tinfork.web.productions.models import Production, Scene  # noqa: E402
from tinfork.web.shots.models import Shot  # noqa: E402

from . import siege  # noqa: E402

SECONDS = 60.0
_PAUSE = (0.5, 1.5)
Written = dict[int, list[float]]
"""For each person by their place, when notes that concern them were sent, the first first."""


class Together:
    """People with a shot each, and the pages they look at."""

    def __init__(self, people: list[siege.Person], scenes: list[int], production: int) -> None:
        self.people, self.scenes, self.production = people, scenes, production
        self.over = threading.Event()
        self.written: Written = {place: [] for place in range(len(people))}
        self.notices: list[float] = []
        self.heard: dict[str, int] = {}
        self.memory: dict[str, list[int]] = {}
        self._lock = threading.Lock()

    @contextmanager
    def looking_on(self) -> Iterator[None]:
        """Inside, everybody's page is told of changes."""
        threads = [
            threading.Thread(target=self._listen, args=(place,), daemon=True) for place in range(len(self.people))
        ]
        for thread in threads:
            thread.start()
        time.sleep(2)
        yield

    def _listen(self, place: int) -> None:
        person, scene = self.people[place], self.scenes[place]
        request = urllib.request.Request(f"{siege.ADDRESS}/stream/?scene={scene}&view=desk", headers=person.headers)
        try:
            with urllib.request.urlopen(request, timeout=60) as stream:
                for line in stream:
                    if line.startswith(b"data: "):
                        self._told(place, json.loads(line[6:])["kind"])
        except (OSError, urllib.error.URLError):
            if not self.over.is_set():
                person.told.took("stream", 0.0, 599)

    def _told(self, place: int, kind: str) -> None:
        now = time.monotonic()
        with self._lock:
            self.heard[kind] = self.heard.get(kind, 0) + 1
            if kind == "notice" and self.written[place]:
                self.notices.append(now - self.written[place].pop(0))

    def work(self) -> None:
        """All of them, for SECONDS."""
        threads = [threading.Thread(target=self._work, args=(place,)) for place in range(len(self.people))]
        for thread in threads:
            thread.start()
        begun = time.monotonic()
        while time.monotonic() - begun < SECONDS:
            for name, held in siege.memory().items():
                self.memory.setdefault(name, []).append(held)
            time.sleep(0.5)
        self.over.set()
        for thread in threads:
            thread.join()

    def _work(self, place: int) -> None:
        draw, person, scene = random.Random(place), self.people[place], self.scenes[place]
        asked = {
            "board": f"/productions/{self.production}/board/now",
            "desk opened": f"/scenes/{scene}/reading/",
            "rushes opened": f"/scenes/{scene}/rushes/",
            "review": f"/scenes/{scene}/rushes/review",
            "seen in a screening": f"/scenes/{draw.choice(self.scenes)}/rushes/seen",
            "notices": "/notices/",
            "found": "/find/?q=light",
        }
        while not self.over.is_set():
            what = draw.random()
            if what < 0.5:
                person.edit(draw)
            elif what < 0.65:
                self._note(draw, place)
            else:
                kind = draw.choice(list(asked))
                person.ask(kind, asked[kind])
            time.sleep(draw.uniform(*_PAUSE))

    def _note(self, draw: random.Random, place: int) -> None:
        """A note on somebody else's shot, which is a notice to them."""
        other = draw.choice([one for one in range(len(self.people)) if one != place])
        with self._lock:
            self.written[other].append(time.monotonic())
        self.people[place].ask("note", f"/scenes/{self.scenes[other]}/rushes/note", {"text": "The lantern", "frame": 3})


def main() -> int:
    """Return a minute of twenty people; 1 when anything failed."""
    told = siege.Told()
    siege.keeper()
    print("making a production …", flush=True)
    people, _, _, scenes = siege.prepared(told, long=False)
    production = Production.objects.get(pk=Scene.objects.get(pk=scenes[0]).production_id)
    for person, scene in zip(people, scenes, strict=True):
        Shot.objects.create(scene_id=scene, who_id=person.number)
    together = Together(people, scenes, production.pk)
    with together.looking_on():
        together.work()
    told.print(f"{len(people)} people, {SECONDS:.0f} s")
    own = together.notices
    p50, p95, most = np.percentile(own, 50), np.percentile(own, 95), max(own)
    print(f"  a notice is there     {len(own):>6} x  p50 {p50:>7.3f} s  p95 {p95:>7.3f} s  longest {most:>7.3f} s")
    print(f"  heard: {together.heard}")
    for kind, held in together.memory.items():
        print(f"  {kind:<10} holds {held[0]} MB at first, {max(held)} MB at most, {held[-1]} MB at last")
    return 1 if told.failed else 0


if __name__ == "__main__":
    sys.exit(main())
