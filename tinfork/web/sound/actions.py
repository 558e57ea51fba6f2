"""Bringing sound in."""

import hashlib
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.core.files.base import ContentFile, File
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from tinfork.core.errors import SoundError
from tinfork.core.limits import MAX_SOUND_BYTES
from tinfork.core.sound import peaks, recording
from tinfork.web.productions.models import Production
from tinfork.web.productions.permissions import Person, check

from .models import SoundFile


def bring_in(person: Person, production: Production, upload: UploadedFile | File) -> SoundFile:
    """Keep a sound file in a production, with its listening copy and peaks. The same content is kept once.

    SoundError when it is not sound, or outside the limits; nothing is kept then.
    """
    check(person, production, "edit")
    if (upload.size or 0) > MAX_SOUND_BYTES:
        raise SoundError(f"The file is larger than {MAX_SOUND_BYTES // 2**20} MB; cut the sound into scenes first.")
    with tempfile.TemporaryDirectory() as folder:
        original, copy = Path(folder) / "original", Path(folder) / "listen.flac"
        digest = _save(upload, original)
        known = production.sounds.filter(sha256=digest).first()
        if known:
            return known
        sound = recording.load_with_copy(original, copy)
        return _keep(production, _file_name(upload), digest, sound, original, copy)


def _save(upload: UploadedFile | File, path: Path) -> str:
    digest = hashlib.sha256()
    with path.open("wb") as out:
        for chunk in upload.chunks():
            digest.update(chunk)
            out.write(chunk)
    return digest.hexdigest()


def _file_name(upload: UploadedFile | File) -> str:
    name = Path(upload.name or "sound").name
    return "".join(c for c in name if c.isprintable())[-120:] or "sound"


@transaction.atomic
def _keep(
    production: Production, name: str, digest: str, sound: recording.Recording, original: Path, copy: Path
) -> SoundFile:
    with original.open("rb") as first, copy.open("rb") as second:
        return SoundFile.objects.create(
            production=production,
            name=name,
            sha256=digest,
            original=_store(f"sound/{digest}/original", File(first)),
            listen=_store(f"sound/{digest}/listen.flac", File(second)),
            peaks=_store(f"sound/{digest}/peaks", ContentFile(peaks.pack(peaks.pyramid(sound.samples)))),
            seconds=sound.seconds,
            rate=sound.rate,
            notes=list(sound.notes),
        )


def _store(name: str, content: File) -> str:
    """Content-addressed: a name that is taken holds the same bytes already."""
    return name if default_storage.exists(name) else default_storage.save(name, content)


@contextmanager
def local_file(stored: File) -> Iterator[Path]:
    """A stored file as a path on this machine, wherever the storage keeps it."""
    try:
        yield Path(stored.path)  # type: ignore[attr-defined]
        return
    except NotImplementedError:
        pass
    with tempfile.NamedTemporaryFile() as copy, stored.open("rb") as source:
        shutil.copyfileobj(source, copy)
        copy.flush()
        yield Path(copy.name)
