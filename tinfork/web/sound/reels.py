"""Asking for the reference picture of a video."""

from django.db import transaction

from tinfork.core.limits import MAX_CLIPS
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.queues import enqueue
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person

from .models import SoundFile
from .tasks import make_reel


@transaction.atomic
def ask_for_reel(person: Person, scene: Scene, sound: SoundFile) -> Job | None:
    """Queue the making of a video's reference picture, unless it is there or on its way."""
    if not sound.has_picture or sound.reel:
        return None
    waiting = Job.objects.filter(kind="reel", subject=sound.pk).exclude(state=Job.State.FAILED).first()
    if waiting:
        return waiting
    return enqueue(person, make_reel, "reel", sound.pk, scene, most=MAX_CLIPS)
