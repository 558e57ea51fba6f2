"""Laying a script out over recordings as a task of the worker."""

from django.db import transaction
from procrastinate.contrib.django import app

from tinfork.core.speech import recognise
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.running import WHEN_THE_DATABASE_IS_BACK, Cancelled, ended, running
from tinfork.web.productions.models import Production
from tinfork.web.sound.models import SoundFile

from . import laying


@app.task(name="lay_out", retry=WHEN_THE_DATABASE_IS_BACK)
def lay_out(job_id: int) -> None:
    """Find what of a script is said in which of some recordings, and make its scenes."""
    with running(job_id) as (job, report):
        production, asked = Production.objects.get(pk=job.subject), job.asked
        names = list(production.characters.values_list("name", flat=True))
        scenes = laying.scenes_in(asked["words"], names, asked["name"])
        sounds = SoundFile.objects.filter(production=production).in_bulk(asked["sounds"])
        with recognise.let_go_after():
            found = laying.find(production, scenes, [sounds[pk] for pk in asked["sounds"] if pk in sounds], report)
        with transaction.atomic():
            job.message = laying.make(job.person, production, found, asked)
            # With the scenes, so that nobody makes them a second time, and only if nobody did or cancelled meanwhile.
            if not ended(job, Job.State.DONE, job.message):
                raise Cancelled(f"job {job.pk} has ended")
