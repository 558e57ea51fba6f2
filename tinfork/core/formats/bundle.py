"""A bundle: everything of a production in one ZIP, its document bundle.json beside the files it names.

    bundle.json                  {"bundle": 3, "production": {…}}; what is in it, see docs/formats.md
    sounds/SHA-256               the sounds, as they were brought in
    pictures/SHA-256.png         drawings and layers of faces
    versions/SHA-256             shots as they were shown for review, JSON

A file is called after the SHA-256 of its content, so that one that was changed on its way is known.
"""

import errno
import hashlib
import json
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Any, BinaryIO

from ..errors import BundleError
from ..limits import MAX_BUNDLE_FILES, MAX_DOCUMENT_BYTES, MAX_SOUND_BYTES

VERSION = 5
DOCUMENT = "bundle.json"
_PACKED = ("sounds/", "pictures/")
_BLOCK = 1 << 20
_EARLY = (1980, 1, 1, 0, 0, 0)
_DAMAGED = "This bundle is cut off or damaged; send it again, or take it out again where it came from."
_BROKEN = (zipfile.BadZipFile, NotImplementedError, OSError, EOFError, ValueError, RuntimeError, zlib.error)


def name_of(folder: str, digest: str) -> str:
    """Return what a file is called in a bundle. folder: sounds, pictures or versions; digest: the SHA-256 of its
    content."""
    return f"{folder}/{digest}{'.png' if folder == 'pictures' else ''}"


def write(path: Path, production: Mapping[str, Any], files: Mapping[str, Path]) -> None:
    """A bundle of a plain document and the files it names, by their names in it. The same is the same, byte by byte."""
    document = json.dumps({"bundle": VERSION, "production": production}, ensure_ascii=False, indent=1, sort_keys=True)
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as packed:
        packed.writestr(_entry(DOCUMENT), document)
        for name in sorted(files):
            with files[name].open("rb") as source, packed.open(_entry(name), "w", force_zip64=True) as target:
                while block := source.read(_BLOCK):
                    target.write(block)


def _entry(name: str) -> zipfile.ZipInfo:
    """An entry of no time, so that the same is the same; what is packed in itself is not packed again."""
    found = zipfile.ZipInfo(name, _EARLY)
    found.compress_type = zipfile.ZIP_STORED if name.startswith(_PACKED) else zipfile.ZIP_DEFLATED
    return found


class OpenBundle:
    """A bundle that was opened, with nothing in it believed. production: its document, as plain values."""

    def __init__(self, packed: zipfile.ZipFile) -> None:
        self._packed = packed
        own = [one for one in packed.infolist() if not one.is_dir()]
        self._files = {one.filename: one for one in own}
        if len(own) > MAX_BUNDLE_FILES:
            raise BundleError(f"This bundle holds more than {MAX_BUNDLE_FILES:,} files; bring its scenes in alone.")
        if len(self._files) != len(own):
            raise BundleError(f"Two files in this bundle have one name. {_DAMAGED}")
        if DOCUMENT not in self._files:
            raise BundleError("This ZIP is no bundle of a production; choose one that Hand-over made.")
        self.production = self._document()

    def _document(self) -> dict[str, Any]:
        one = self._files[DOCUMENT]
        if one.file_size > MAX_DOCUMENT_BYTES:
            raise BundleError(f"The document of this bundle is larger than {MAX_DOCUMENT_BYTES // 2**20} MB.")
        with self._packed.open(one) as file:
            data = file.read(one.file_size + 1)
        if len(data) != one.file_size or b"\\u0000" in data:
            raise BundleError(_DAMAGED)
        try:
            found = json.loads(data)
        except (ValueError, RecursionError):
            raise BundleError(_DAMAGED) from None
        version = found.get("bundle") if isinstance(found, dict) else None
        if not isinstance(version, int) or isinstance(version, bool) or version < 1:
            raise BundleError("This ZIP is no bundle of a production; choose one that Hand-over made.")
        if version > VERSION:
            raise BundleError("A newer Tin Fork made this bundle; bring this one up to date, then bring it in.")
        production = found.get("production")
        if not isinstance(production, dict):
            raise BundleError(_DAMAGED)
        return production

    def take(self, name: str, path: Path) -> None:
        """A file that the document names, into a place. BundleError when it is not there, or not what it was."""
        one = self._files.get(name)
        if one is None:
            raise BundleError(f"{name} is missing in this bundle. {_DAMAGED}")
        with _damage_told(), self._packed.open(one) as source, path.open("wb") as target:
            digest = _copied(source, target)
        if name_of(name.partition("/")[0], digest) != name:
            raise BundleError(f"{name} is not what it was when this bundle was made. {_DAMAGED}")


def _copied(source: Any, target: BinaryIO) -> str:
    found, room = hashlib.sha256(), MAX_SOUND_BYTES
    while block := source.read(_BLOCK):
        room -= len(block)
        if room < 0:
            raise BundleError(f"A file in this bundle is larger than {MAX_SOUND_BYTES // 2**20} MB.")
        found.update(block)
        target.write(block)
    return found.hexdigest()


@contextmanager
def _damage_told() -> Iterator[None]:
    try:
        yield
    except _BROKEN as broken:
        # A place that cannot be in the file is the bundle's doing; a disk that fails is not.
        if isinstance(broken, OSError) and broken.errno not in (None, errno.EINVAL):
            raise
        raise BundleError(_DAMAGED) from None


@contextmanager
def open_bundle(path: Path) -> Iterator[OpenBundle]:
    """A bundle, open as long as it is needed. BundleError, with a sentence, when it is none that can be used."""
    with ExitStack() as stack:
        with _damage_told():
            found = OpenBundle(stack.enter_context(zipfile.ZipFile(path)))
        yield found
