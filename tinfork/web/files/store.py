"""The store: a file is there whole or not at all, whatever is killed half way and however many write it at once."""

import errno
import hashlib
import os
import secrets
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from django.conf import settings
from django.core.files.storage import default_storage

from tinfork.core.errors import TinForkError
from tinfork.web import fence

_BLOCK = 1 << 20
_PART = ".part"
_PRIVATE, _PRIVATE_FOLDER = 0o600, 0o700
LEFTOVER_SECONDS = 6 * 3600


class DiskFullError(TinForkError):
    """There is no room for a file; what was there stays."""

    def __init__(self) -> None:
        super().__init__("The disk is full, so this could not be kept; what was there is. Make room, then try again.")


def keep(name: str, source: Path, sha256: str = "") -> str:
    """Keep a copy of a file under a name, in the place of any other of that name; the name.

    It is written beside its place, checked, flushed to disk and then renamed. sha256: what the content must be; a file
    of the name that has it already stays. DiskFullError when there is no room; OSError when the copy is not the source.
    """
    target = Path(default_storage.path(name))
    if sha256 and target.exists() and target.stat().st_size == source.stat().st_size and digest(target) == sha256:
        return name
    with _room():
        Path(settings.MEDIA_ROOT).mkdir(mode=_PRIVATE_FOLDER, parents=True, exist_ok=True)
        target.parent.mkdir(parents=True, exist_ok=True)
        part = target.with_name(f".{target.name}.{secrets.token_hex(8)}{_PART}")
        try:
            written = _copy(source, part)
            if part.stat().st_size != source.stat().st_size or (sha256 and written != sha256):
                raise OSError(errno.EIO, f"the copy of {name} is not what it was made from")
            part.chmod(_PRIVATE)
            fence.hold()
            os.replace(part, target)
        finally:
            part.unlink(missing_ok=True)
        _flush_folder(target.parent)
    return name


def digest(path: Path) -> str:
    """Return the SHA-256 of a file's content."""
    found = hashlib.sha256()
    with path.open("rb") as file:
        while block := file.read(_BLOCK):
            found.update(block)
    return found.hexdigest()


def is_there(name: str) -> bool:
    """Return whether a kept file is still in its place."""
    return bool(name) and default_storage.exists(name)


def drop(name: str) -> None:
    """Let go of a kept file, if it is there."""
    if is_there(name):
        default_storage.delete(name)


def sweep(older_than: float = LEFTOVER_SECONDS) -> int:
    """Remove what was left half written long ago; how many files that were."""
    count = 0
    for part in Path(settings.MEDIA_ROOT).rglob(f".*{_PART}"):
        with suppress(FileNotFoundError):
            if time.time() - part.stat().st_mtime > older_than:
                part.unlink()
                count += 1
    return count


def _copy(source: Path, target: Path) -> str:
    found = hashlib.sha256()
    with source.open("rb") as old, target.open("wb") as new:
        while block := old.read(_BLOCK):
            found.update(block)
            new.write(block)
        new.flush()
        os.fsync(new.fileno())
    return found.hexdigest()


def _flush_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


@contextmanager
def _room() -> Iterator[None]:
    try:
        yield
    except OSError as problem:
        if is_full(problem):
            raise DiskFullError from problem
        raise


GONE = "A file that this needs is no longer on the disk. Bring it in again, or have whoever runs this restore a backup."


def is_gone(problem: BaseException | None) -> bool:
    """Return whether an error says that a kept file is not in its place."""
    if not isinstance(problem, FileNotFoundError) or not isinstance(problem.filename, (str, Path)):
        return False
    return Path(problem.filename).is_relative_to(settings.MEDIA_ROOT)


def is_full(problem: BaseException | None) -> bool:
    """Return whether an error says that the disk, or a person's share of it, is full."""
    return isinstance(problem, OSError) and problem.errno in (errno.ENOSPC, errno.EDQUOT)
