"""Making reference pictures as a task of the worker."""

import tempfile
from pathlib import Path

from django.core.files.base import File
from django.core.files.storage import default_storage
from procrastinate.contrib.django import app

from tinfork.core.formats.reel import write_reel
from tinfork.web.jobs.running import running

from .actions import local_file
from .models import SoundFile


@app.task(name="make_reel")
def make_reel(job_id: int) -> None:
    """Make the reference picture of a video that was brought in."""
    with running(job_id) as (job, report):
        sound = SoundFile.objects.get(pk=job.subject)
        with tempfile.TemporaryDirectory() as folder, local_file(sound.original) as original:
            path = Path(folder) / "reel.webm"
            write_reel(original, path, report)
            with path.open("rb") as made:
                sound.reel.name = default_storage.save(f"sound/{sound.sha256}/reel.webm", File(made))
        sound.save(update_fields=["reel"])
