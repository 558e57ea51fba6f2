"""Rendering as a task of the worker."""

from procrastinate.contrib.django import app

from tinfork.web.jobs.running import WHEN_THE_DATABASE_IS_BACK, running

from . import rendering


@app.task(name="make_handover", retry=WHEN_THE_DATABASE_IS_BACK)
def make_handover(job_id: int) -> None:
    """Make the files a hand-over asks for."""
    with running(job_id) as (job, report):
        rendering.make_handover(job, report)
