"""Reading as a task of the worker."""

from procrastinate.contrib.django import app

from tinfork.core.speech import recognise
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.running import WHEN_THE_DATABASE_IS_BACK, Report, running
from tinfork.web.productions.models import Scene
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.melodies import melodies_of

from .comparing import compare
from .scene import Asked, name_marked, read_part, to_read


@app.task(name="read_scene", retry=WHEN_THE_DATABASE_IS_BACK)
def read_scene(job_id: int) -> None:
    """Read a scene's lines in its sounds, sound by sound, and plan the mouths around their pins."""
    with running(job_id) as (job, report), recognise.let_go_after():
        scene = Scene.everything.select_related("production").get(pk=job.subject)
        named = name_marked(job.person, scene, job.pk)
        Job.objects.filter(pk=job.pk).update(of=versions_of(scene))
        parts, notes = to_read(scene)
        notes = named + notes
        words = frozenset((line, word) for line, word in job.asked.get("words", ()))
        asked = Asked(frozenset(job.asked.get("lines", ())), words, job.pk)
        if asked.lines:
            parts = [part for part in parts if any(line.id in asked.lines for line in part.lines)]
        for number, part in enumerate(parts):
            notes += read_part(job.person, scene, part, asked, _share_of(report, number, len(parts)))
            melodies_of(part.clips)  # Acting asks for them; nobody waits for them then.
        job.message = " ".join(dict.fromkeys(notes))


@app.task(name="compare_script", retry=WHEN_THE_DATABASE_IS_BACK)
def compare_script(job_id: int) -> None:
    """Lay a scene's script beside what is heard in its sounds."""
    with running(job_id) as (job, report), recognise.let_go_after():
        job.message = compare(Scene.everything.select_related("production").get(pk=job.subject), report)


def versions_of(scene: Scene) -> dict[str, int]:
    """Return the versions of what a reading is made from."""
    return {"arrangement": arrangement_of(scene).version, "script": script_of(scene).version}


def _share_of(report: Report, number: int, parts: int) -> Report:
    """Reports the progress of one part of so many as progress of the whole."""
    return lambda share: report((number + share) / parts)
