"""Bringing sound in, and keeping what is made of it."""

import errno
import hashlib
import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeAlias

from django.conf import settings
from django.core.files.base import File
from django.core.files.uploadedfile import UploadedFile
from django.db import IntegrityError, transaction

from tinfork.core.errors import SoundError
from tinfork.core.limits import MAX_SOUND_BYTES
from tinfork.core.plain import plain
from tinfork.core.sound import peaks
from tinfork.core.sound.arrangement import MIX
from tinfork.core.sound.survey import Survey, survey
from tinfork.core.speech import scratch
from tinfork.web.files import store
from tinfork.web.files.aside import aside
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.productions.permissions import Person, check

from .models import ChannelCopy, SoundFile, Take

_SECONDS_TO_OPEN, _MEGABYTES_TO_OPEN = 900.0, 1_000
"""Ninety minutes are opened in a fraction of it."""

Upload: TypeAlias = "UploadedFile[Any] | File[Any]"


def bring_in(person: Person, production: Production, upload: Upload) -> SoundFile:
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
            store.keep(known.original.name or "", original, digest)
            return known
        found = aside(survey, original, copy, seconds=_SECONDS_TO_OPEN, megabytes=_MEGABYTES_TO_OPEN)
        try:
            return _keep(production, _file_name(upload), digest, found, original, copy)
        except IntegrityError:  # Somebody else brought the same content in at the same moment.
            return production.sounds.get(sha256=digest)


def _save(upload: Upload, path: Path) -> str:
    digest = hashlib.sha256()
    with path.open("wb") as out:
        for chunk in upload.chunks():
            digest.update(chunk)
            out.write(chunk)
    return digest.hexdigest()


def _file_name(upload: Upload) -> str:
    name = Path(upload.name or "sound").name
    return "".join(c for c in name if c.isprintable())[-120:] or "sound"


@transaction.atomic
def _keep(production: Production, name: str, digest: str, found: Survey, original: Path, copy: Path) -> SoundFile:
    sound = SoundFile.objects.create(
        production=production,
        name=name,
        sha256=digest,
        original=store.keep(f"sound/{digest}/original", original, digest),
        seconds=found.seconds,
        rate=found.rate,
        channels=found.channels,
        has_picture=found.has_picture,
        notes=list(found.notes),
        findings=plain(found.findings),
    )
    _keep_copy(sound, MIX, found, copy)
    return sound


def _keep_copy(sound: SoundFile, channel: int, found: Survey, copy: Path) -> ChannelCopy:
    folder = f"sound/{sound.sha256}/{'mix' if channel == MIX else channel}"
    packed = copy.with_name("peaks")
    packed.write_bytes(peaks.pack(found.levels))
    return ChannelCopy.objects.create(
        sound=sound,
        channel=channel,
        listen=store.keep(f"{folder}/listen.flac", copy),
        peaks=store.keep(f"{folder}/peaks", packed),
    )


def channel_copy(sound: SoundFile, channel: int) -> ChannelCopy:
    """A channel's listening copy and peaks, made when it is first asked for. SoundError when there is no such one."""
    known = sound.copies.filter(channel=channel).first()
    if known:
        return known
    if not 0 <= channel < sound.channels:
        raise SoundError(f"{sound.name} has {sound.channels} channels; choose one of them, or their mix.")
    with tempfile.TemporaryDirectory() as folder, local_file(sound.original) as original:
        copy = Path(folder) / "listen.flac"
        found = aside(survey, original, copy, channel, seconds=_SECONDS_TO_OPEN, megabytes=_MEGABYTES_TO_OPEN)
        try:
            with transaction.atomic():
                return _keep_copy(sound, channel, found, copy)
        except IntegrityError:  # Somebody else asked for it at the same moment.
            return sound.copies.get(channel=channel)


@contextmanager
def local_file(stored: "File[Any]") -> Iterator[Path]:
    """A stored file as a path on this machine, wherever the storage keeps it. FileNotFoundError when it is gone."""
    if not store.is_there(stored.name or ""):
        raise FileNotFoundError(
            errno.ENOENT, os.strerror(errno.ENOENT), str(Path(settings.MEDIA_ROOT, stored.name or ""))
        )
    try:
        yield Path(stored.path)  # type: ignore[attr-defined]
        return
    except NotImplementedError:
        pass
    with tempfile.NamedTemporaryFile() as copy, stored.open("rb") as source:
        shutil.copyfileobj(source, copy)
        copy.flush()
        yield Path(copy.name)


def scratch_voice(
    person: Person, production: Production, text: str, language: str, voice: str, rate: float, pitch: int
) -> SoundFile:
    """A line spoken by a synthesised voice, as a sound of the production."""
    check(person, production, "edit")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "scratch.wav"
        scratch.speak(path, text, language, voice, rate, pitch)
        with path.open("rb") as spoken:
            return bring_in(person, production, File(spoken, name=f"scratch {' '.join(text.split())[:40]}.wav"))


@transaction.atomic
def add_take(person: Person, scene: Scene, character: Character, sound: SoundFile, at: int | None = None) -> Take:
    """List a recording among a character's takes. at: the frame the playhead was on when it was made."""
    check(person, scene.production, "edit")
    if character.production_id != scene.production_id or sound.production_id != scene.production_id:
        raise SoundError("This take belongs to another production.")
    return Take.objects.create(scene=scene, character=character, sound=sound, person_id=person.pk, at=at)
