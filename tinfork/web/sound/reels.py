"""Asking for the reference picture of a video."""

from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, number_of

from .models import SoundFile
from .tasks import make_reel


def ask_for_reel(person: Person, scene: Scene, sound: SoundFile) -> Job | None:
    """Queue the making of a video's reference picture, unless it is there or on its way."""
    if not sound.has_picture or sound.reel:
        return None
    waiting = Job.objects.filter(kind="reel", subject=sound.pk).exclude(state=Job.State.FAILED).first()
    if waiting:
        return waiting
    job = Job.objects.create(scene=scene, person_id=number_of(person), kind="reel", subject=sound.pk)
    make_reel.defer(job_id=job.pk)
    return job
