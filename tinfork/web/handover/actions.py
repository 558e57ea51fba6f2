"""Asking for files to hand over."""

from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.web.jobs.models import Job
from tinfork.web.productions.permissions import Person, check, number_of
from tinfork.web.reading.models import Stave

from .tasks import MAKERS, make_handover


@transaction.atomic
def ask_for(person: Person, stave: Stave, kind: str) -> Job:
    """Queue a file of one of the kinds in MAKERS, of the mouth track as it is when the worker comes to it."""
    check(person, stave.scene.production, "see")
    if kind not in MAKERS:
        raise TinForkError("There is no such file to make.")
    if not stave.has_mouths:
        raise TinForkError("This character has no mouth track yet; read its sound first, or set mouths by hand.")
    job = Job.objects.create(scene=stave.scene, person_id=number_of(person), kind=kind, subject=stave.pk)
    make_handover.defer(job_id=job.pk)
    return job
