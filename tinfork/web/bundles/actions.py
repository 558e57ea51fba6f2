"""Asking for a bundle, and for one to be brought in."""

import tempfile
import zipfile
from pathlib import Path
from typing import Any, TypeAlias

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from tinfork.core.errors import BundleError
from tinfork.core.limits import MAX_BUNDLE_BYTES
from tinfork.web.files import store
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check, number_of

from .tasks import bring_in_bundle, make_bundle

Upload: TypeAlias = "UploadedFile[Any]"


@transaction.atomic
def ask_for_bundle(person: Person, scene: Scene, whole: bool) -> Job:
    """Queue a bundle of a scene, or of the whole of its production."""
    check(person, scene.production, "see")
    asked = {"whole": whole}
    job = Job.objects.create(scene=scene, person_id=number_of(person), kind="bundle", subject=scene.pk, asked=asked)
    make_bundle.defer(job_id=job.pk)
    return job


def ask_to_bring_in(person: Person, upload: "Upload | None") -> Job:
    """Queue the bringing in of a bundle as a production of the person's own. BundleError for what is none at first
    sight."""
    owner = number_of(person)
    if upload is None or not upload.size:
        raise BundleError("Choose a bundle first, a ZIP that Hand-over made.")
    if upload.size > MAX_BUNDLE_BYTES:
        raise BundleError(f"A bundle has {MAX_BUNDLE_BYTES // 2**30} GB at the most; bring its scenes in one by one.")
    with tempfile.NamedTemporaryFile() as copy:
        for chunk in upload.chunks():
            copy.write(chunk)
        copy.flush()
        if not zipfile.is_zipfile(copy.name):
            raise BundleError("This is no bundle, or it is cut off; choose a ZIP that Hand-over made.")
        with transaction.atomic():
            job = Job.objects.create(scene=None, person_id=owner, kind="bring-in", subject=owner)
            job.asked = {
                "file": store.keep(f"bundles/{job.pk}.zip", Path(copy.name)),
                "name": (upload.name or "")[:120],
            }
            job.save(update_fields=["asked"])
            bring_in_bundle.defer(job_id=job.pk)
    return job
