"""How much sooner two workers are done with twenty scenes than one: python -m bench.workers (see script/bench)"""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import django

from tests.browser.application import ROOT, environment_of, prepare

SCENES = 20
MOST_SECONDS = 1200


def main() -> None:
    """Read twenty scenes and make a film of each, by one worker and by two, and print what it took."""
    for kind in ("read", "film"):
        took = {}
        for workers in (1, 2):
            with tempfile.TemporaryDirectory() as folder:
                environment = environment_of(folder, prepare(Path(folder), "tinfork_workers"))
                queueing = [sys.executable, "-m", "bench.workers", kind]
                subprocess.run(queueing, env=environment, check=True, cwd=ROOT)
                took[workers] = seconds_of(workers, environment)
        share = took[2] / took[1]
        print(f"{kind:<6}one worker {took[1]:6.1f} s   two {took[2]:6.1f} s   {share:.2f} of the time", flush=True)


def seconds_of(workers: int, environment: dict[str, str]) -> float:
    """Return how long it takes so many workers until nothing is left to do."""
    environment = environment | {"TINFORK_WORKERS": str(workers)}
    begun = time.perf_counter()
    running = [
        subprocess.Popen(["script/worker", str(number), "--one-shot"], env=environment, cwd=ROOT)
        for number in range(workers)
    ]
    for worker in running:
        if worker.wait(MOST_SECONDS):
            raise RuntimeError(f"A worker ended with {worker.returncode}.")
    return time.perf_counter() - begun


def queue(kind: str) -> None:
    """Twenty scenes of the demo's voices, and a job for each."""
    django.setup()
    from tests.browser.spare import scene_of  # noqa: PLC0415
    from tinfork.web.accounts.demo import make_demo_person  # noqa: PLC0415
    from tinfork.web.demo.make_voices import voice_file  # noqa: PLC0415
    from tinfork.web.demo.scenario import CAST  # noqa: PLC0415
    from tinfork.web.demo.scenario import SCENES as TEXTS  # noqa: PLC0415
    from tinfork.web.handover.actions import ask_for  # noqa: PLC0415
    from tinfork.web.handover.wishes import Wish  # noqa: PLC0415
    from tinfork.web.reading.asking import ask_to_read  # noqa: PLC0415

    person, text = make_demo_person(), TEXTS[0]
    script = "\n".join(f"{line.who}: {line.text}" for line in text.lines)
    for number in range(SCENES):
        name = f"One of twenty, {number}"
        scene = scene_of(voice_file(text, CAST[0]), name, CAST[0].name, script, kind == "film")
        if kind == "read":
            ask_to_read(person, scene)
        else:
            ask_for(person, scene, Wish(kinds=["mp4"], together=True, background="#f4f1ea"))


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tinfork.web.settings")
    queue(sys.argv[1]) if sys.argv[1:] else main()
