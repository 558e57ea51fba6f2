"""Asking for a bundle, and for one to be brought in."""

import secrets
import tempfile
import zipfile
from pathlib import Path
from typing import Any, TypeAlias

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from tinfork.core.errors import BundleError, TinForkError
from tinfork.core.limits import MAX_BUNDLE_BYTES
from tinfork.web.files import store
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.queues import LATER, WAITED_FOR, enqueue
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check, number_of

from .tasks import bring_in_bundle, make_bundle

_SOON = 64 << 20
"""A bundle that is no larger is brought in while its person waits."""

Upload: TypeAlias = "UploadedFile[Any]"


@transaction.atomic
def ask_for_bundle(person: Person, scene: Scene, whole: bool) -> Job:
    """Queue a bundle of a scene, or of the whole of its production."""
    check(person, scene.production, "edit")
    return enqueue(person, make_bundle, "bundle", scene.pk, scene, {"whole": whole})


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
        asked = {
            "file": store.keep(f"bundles/{secrets.token_hex(8)}.zip", Path(copy.name)),
            "name": (upload.name or "")[:120],
        }
        queue = WAITED_FOR if upload.size <= _SOON else LATER
        try:
            with transaction.atomic():
                return enqueue(person, bring_in_bundle, "bring-in", owner, asked=asked, queue=queue)
        except TinForkError:
            store.drop(asked["file"])
            raise
