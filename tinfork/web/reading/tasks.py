"""Reading as a task of the worker."""

from procrastinate.contrib.django import app

from tinfork.web.jobs.running import running
from tinfork.web.productions.models import Scene

from .scene import Asked, read_part, to_read


@app.task(name="read_scene")
def read_scene(job_id: int) -> None:
    """Read a scene's lines in its sounds, sound by sound, and plan the mouths around their pins."""
    with running(job_id) as (job, report):
        scene = Scene.objects.select_related("production").get(pk=job.subject)
        parts, notes = to_read(scene)
        words = frozenset((line, word) for line, word in job.asked.get("words", ()))
        asked = Asked(frozenset(job.asked.get("lines", ())), words, job.pk)
        if asked.lines:
            parts = [part for part in parts if any(line.id in asked.lines for line in part.lines)]
        for number, part in enumerate(parts):
            done = number / len(parts)
            notes += read_part(
                job.person, scene, part, asked, lambda share, done=done: report(done + share / len(parts))
            )
        job.message = " ".join(dict.fromkeys(notes))
