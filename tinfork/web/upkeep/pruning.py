"""Removing what was made long ago: the list of it said when."""

import shutil
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from tinfork.web.files import store
from tinfork.web.jobs.models import Job
from tinfork.web.sound.models import Arrived

_FOLDERS = {"handover": "handover", "bundle": "bundles"}
_DAYS_OF_ARRIVALS = 7


def prune() -> int:
    """Remove pieces of work that ended long ago, with the files they made; how many that were."""
    Arrived.objects.filter(made__lt=timezone.now() - timedelta(days=_DAYS_OF_ARRIVALS)).delete()
    if not settings.KEEP_DAYS:
        return 0
    old = Job.objects.filter(ended_at__lt=timezone.now() - timedelta(days=settings.KEEP_DAYS))
    count = 0
    for job in old.only("pk", "kind", "result"):
        store.drop(job.result.name or "")
        if folder := _FOLDERS.get(job.kind):
            shutil.rmtree(Path(settings.MEDIA_ROOT) / folder / str(job.pk), ignore_errors=True)
        job.delete()
        count += 1
    return count
