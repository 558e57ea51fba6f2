"""Bundles made and brought in by the worker."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.core.files.storage import default_storage
from django.db import transaction
from procrastinate.contrib.django import app

from tinfork.core.formats.bundle import open_bundle
from tinfork.core.naming import file_stem
from tinfork.web.files import store
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.running import DATABASE_GONE, WHEN_THE_DATABASE_IS_BACK, Cancelled, Superseded, ended, running

from . import incoming, outgoing


@app.task(name="make_bundle", retry=WHEN_THE_DATABASE_IS_BACK)
def make_bundle(job_id: int) -> None:
    """Make a bundle, and keep it as the job's file."""
    with running(job_id) as (job, _), tempfile.TemporaryDirectory() as folder:
        scene, path = job.scene, Path(folder) / "bundle.zip"
        assert scene is not None
        whole = bool(job.asked.get("whole"))
        outgoing.write(path, scene.production, None if whole else [scene])
        job.result_name = f"{file_stem(scene.production.name if whole else scene.name)}.tinfork.zip"
        job.result.name = store.keep(f"bundles/{job.pk}/{job.result_name}", path)


@app.task(name="bring_in_bundle", retry=WHEN_THE_DATABASE_IS_BACK)
def bring_in_bundle(job_id: int) -> None:
    """Make a production of a bundle that was sent."""
    with (
        _let_go_of(job_id),
        running(job_id) as (job, _),
        open_bundle(Path(default_storage.path(job.asked["file"]))) as bundle,
        transaction.atomic(),
    ):
        made = incoming.bring_in(job.person, bundle)
        # With the production, so that nobody makes it a second time, and only if nobody did or cancelled meanwhile.
        job.message = f"“{made.name}” is on your shelf."
        if not ended(job, Job.State.DONE, job.message):
            raise Cancelled(f"job {job.pk} has ended")


@contextmanager
def _let_go_of(job_id: int) -> Iterator[None]:
    """What was sent is kept until the job has ended."""
    try:
        yield
    except (*DATABASE_GONE, Superseded):
        raise
    except BaseException:
        _remove(job_id)
        raise
    else:
        _remove(job_id)


def _remove(job_id: int) -> None:
    name = Job.objects.get(pk=job_id).asked.get("file", "")
    if name:
        default_storage.delete(name)
