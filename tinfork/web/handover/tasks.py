"""Rendering as a task of the worker."""

from procrastinate.contrib.django import app

from tinfork.web.jobs.running import WHEN_THE_DATABASE_IS_BACK, running

from .rendering import make_pictures, make_video

MAKERS = {"pictures": make_pictures, "video": make_video}


@app.task(name="make_handover", retry=WHEN_THE_DATABASE_IS_BACK)
def make_handover(job_id: int) -> None:
    """Make the file a hand-over job asks for."""
    with running(job_id) as (job, report):
        MAKERS[job.kind](job, report)
