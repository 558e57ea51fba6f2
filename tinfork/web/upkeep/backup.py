"""Everything that is kept in one file: the database and the files, together, while Tin Fork runs; and back.

    database.dump       PostgreSQL's own format for archives
    files/…             kept files, by their names
    tinfork-backup.json {"backup": 1, "made": …, "sha256": {name: digest}}, last

The database is copied first: files are only ever added before what names them, so whatever it names is there after it.
"""

import hashlib
import io
import json
import os
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

from django.conf import settings
from django.db import connection
from django.utils import timezone

from tinfork.core.errors import TinForkError

VERSION = 1
_DATABASE, _FILES, _ABOUT = "database.dump", "files/", "tinfork-backup.json"
_BLOCK = 1 << 20
_NO_BACKUP = "This is no backup of a Tin Fork, or it is cut off or damaged; take another. Nothing was changed."


class BackupError(TinForkError):
    """A backup that cannot be made or brought back."""


class _Digested:
    """A file that is read, and of what was read the SHA-256."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file, self._found = file, hashlib.sha256()

    def read(self, size: int = -1) -> bytes:
        block = self._file.read(size)
        self._found.update(block)
        return block

    @property
    def digest(self) -> str:
        return self._found.hexdigest()


def write(path: Path) -> int:
    """Write a backup; how many bytes it has. It is there whole or not at all."""
    part = path.with_name(f".{path.name}.part")
    digests: dict[str, str] = {}
    try:
        with tempfile.TemporaryDirectory(dir=path.parent) as folder, tarfile.open(part, "w") as out:
            dump = Path(folder) / _DATABASE
            _run("pg_dump", "--format=custom", "--no-owner", f"--file={dump}", _name())
            digests[_DATABASE] = _add(out, dump, _DATABASE)
            for kept in _kept_files():
                name = _FILES + kept.relative_to(settings.MEDIA_ROOT).as_posix()
                try:
                    digests[name] = _add(out, kept, name)
                except FileNotFoundError:  # Let go of meanwhile.
                    continue
            about = {"backup": VERSION, "made": timezone.now().isoformat(), "sha256": digests}
            data = json.dumps(about, indent=1).encode()
            last = tarfile.TarInfo(_ABOUT)
            last.size = len(data)
            out.addfile(last, io.BytesIO(data))
        part.chmod(0o600)
        with part.open("rb") as file:
            os.fsync(file.fileno())
        os.replace(part, path)
    finally:
        part.unlink(missing_ok=True)
    return path.stat().st_size


def _kept_files() -> Iterator[Path]:
    for path in sorted(Path(settings.MEDIA_ROOT).rglob("*")):
        if path.is_file() and not path.is_symlink() and not path.name.endswith(".part"):
            yield path


def _add(out: tarfile.TarFile, path: Path, name: str) -> str:
    with path.open("rb") as file:
        entry = tarfile.TarInfo(name)
        entry.size = os.fstat(file.fileno()).st_size
        source = _Digested(file)
        out.addfile(entry, source)
    return source.digest


def checked(path: Path) -> dict[str, str]:
    """Return the digests of what is in a backup, once all of it was read and is what it was. BackupError otherwise."""
    found: dict[str, str] = {}
    about: Any = None
    try:
        with tarfile.open(path, "r:") as packed:
            for entry in packed:
                file = packed.extractfile(entry)
                if file is None or not (entry.name == _ABOUT or _is_ours(entry.name)):
                    raise BackupError(_NO_BACKUP)
                if entry.name == _ABOUT:
                    about = json.loads(file.read())
                else:
                    found[entry.name] = _digest(file)
    except (tarfile.TarError, OSError, ValueError, EOFError):
        raise BackupError(_NO_BACKUP) from None
    if not isinstance(about, dict) or about.get("sha256") != found or _DATABASE not in found:
        raise BackupError(_NO_BACKUP)
    if about.get("backup") != VERSION:
        raise BackupError("A newer Tin Fork made this backup; bring this one up to date, then restore it.")
    return found


def _digest(file: IO[bytes]) -> str:
    source = _Digested(file)
    while source.read(_BLOCK):
        pass
    return source.digest


def restore(path: Path) -> int:
    """Bring a backup back to where nothing is; how many files that were. BackupError, with nothing changed, where there
    is something, or the backup is not what it was."""
    if not is_empty():
        raise BackupError("There is something here already; restore to an empty folder: TINFORK_DATA=… script/restore.")
    names = checked(path)
    root = Path(settings.MEDIA_ROOT)
    root.mkdir(mode=0o700, parents=True, exist_ok=True)
    with tarfile.open(path, "r:") as packed, tempfile.TemporaryDirectory(dir=settings.DATA) as folder:
        for name in names:
            _take_out(packed, name, Path(folder) / _DATABASE if name == _DATABASE else root / name.removeprefix(_FILES))
        _run("pg_restore", "--single-transaction", "--exit-on-error", "--no-owner", f"--dbname={_name()}",
             str(Path(folder) / _DATABASE))  # fmt: skip
    return len(names) - 1


def _take_out(packed: tarfile.TarFile, name: str, path: Path) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    source = packed.extractfile(name)
    assert source is not None
    with source, path.open("wb") as target:
        shutil.copyfileobj(source, target, _BLOCK)
    path.chmod(0o600)


def _is_ours(name: str) -> bool:
    """Whether something of this name is in a backup, and leads nowhere else."""
    return name == _DATABASE or (name.startswith(_FILES) and ".." not in name.split("/"))


def is_empty() -> bool:
    """Return whether nothing was ever made in this database, nor kept beside it."""
    return not connection.introspection.table_names() and not any(_kept_files())


def _name() -> str:
    return str(connection.settings_dict["NAME"])


def _run(*command: str) -> None:
    """A program of PostgreSQL's, on our database. BackupError with what it said when it fails."""
    known = connection.settings_dict
    where = {"PGHOST": known["HOST"], "PGPORT": known["PORT"], "PGUSER": known["USER"], "PGPASSWORD": known["PASSWORD"]}
    environment = os.environ | {name: str(value) for name, value in where.items()}
    done = subprocess.run(command, env=environment, check=False, capture_output=True, text=True)
    if done.returncode:
        raise BackupError(f"{command[0]} could not do it: {done.stderr.strip()[-300:]}")
