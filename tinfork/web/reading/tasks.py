"""Reading as a task of the worker."""

from procrastinate.contrib.django import app

from tinfork.web.jobs.running import running
from tinfork.web.productions.models import Scene

from .scene import read_part, to_read


@app.task(name="read_scene")
def read_scene(job_id: int) -> None:
    """Read a scene's lines in its sounds, sound by sound, and plan the mouths around their pins."""
    with running(job_id) as (job, report):
        scene = Scene.objects.select_related("production").get(pk=job.subject)
        parts, notes = to_read(scene)
        only = set(job.asked.get("lines", ()))
        if only:
            parts = [part for part in parts if any(line.id in only for line in part.lines)]
        for number, part in enumerate(parts):
            done = number / len(parts)
            notes += read_part(
                job.person, scene, part, only, lambda share, done=done: report(done + share / len(parts))
            )
        job.message = " ".join(dict.fromkeys(notes))
