"""Who sees a piece of long work: whoever sees its scene; one of no scene, only who asked for it."""

from django.http import Http404

from tinfork.web.productions.permissions import Person, check

from .models import Job


def check_job(person: Person, job: Job) -> None:
    """Return when the person may see the job and what it made; Http404 otherwise."""
    if job.scene:
        check(person, job.scene.production, "see")
    elif job.person_id != person.pk:
        raise Http404("Somebody else's.")
