"""Making reference pictures as a task of the worker."""

import tempfile
from pathlib import Path

from procrastinate.contrib.django import app

from tinfork.core.formats.reel import write_reel
from tinfork.web.files import store
from tinfork.web.jobs.running import WHEN_THE_DATABASE_IS_BACK, running

from .actions import local_file
from .models import SoundFile


@app.task(name="make_reel", retry=WHEN_THE_DATABASE_IS_BACK)
def make_reel(job_id: int) -> None:
    """Make the reference picture of a video that was brought in."""
    with running(job_id) as (job, report):
        sound = SoundFile.objects.get(pk=job.subject)
        with tempfile.TemporaryDirectory() as folder, local_file(sound.original) as original:
            path = Path(folder) / "reel.webm"
            write_reel(original, path, report)
            sound.reel.name = store.keep(f"sound/{sound.sha256}/reel.webm", path)
        sound.save(update_fields=["reel"])
