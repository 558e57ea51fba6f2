"""Reading as a task of the worker."""

from procrastinate.contrib.django import app

from tinfork.core.errors import TinForkError
from tinfork.core.sound import recording
from tinfork.core.speech import read
from tinfork.web.jobs.running import running
from tinfork.web.sound.actions import local_file

from . import actions
from .models import Stave


@app.task(name="read_stave")
def read_stave(job_id: int) -> None:
    """Read a stave's sound and script, and plan its mouths around its pins."""
    with running(job_id) as (job, report):
        stave = Stave.objects.select_related("sound", "scene__production").get(pk=job.subject)
        if stave.sound is None:
            raise TinForkError("The sound is gone; drop a file on the character first.")
        with local_file(stave.sound.original) as path:
            sound = recording.load(path)
        report(0.1)
        reading = read.read(sound, stave.script, stave.language, progress=lambda share: report(0.1 + 0.8 * share))
        actions.take_reading(job.person, stave, reading)
        job.message = " ".join(reading.notes)
