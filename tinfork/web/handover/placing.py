"""Where what was made is put: a file each, or all in one ZIP, by a folder for each scene."""

import tempfile
import zipfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Protocol

from tinfork.core.naming import folders
from tinfork.web.files import store
from tinfork.web.productions.models import Scene

from .models import Handover
from .wishes import Wish, packed_in


class Place(Protocol):
    """Somewhere files are put as they are made."""

    def put(self, path: Path, name: str, scene: Scene | None = None) -> None:
        """Take a file that was made, of a scene or of all of them; it is not there any more afterwards."""


class _Each:
    """A file each."""

    def __init__(self, asked: Handover) -> None:
        self._asked = asked

    def put(self, path: Path, name: str, scene: Scene | None = None) -> None:
        """Keep it as a file of the hand-over, in the place of another of that name."""
        digest = store.digest(path)
        size = path.stat().st_size
        kept = store.keep(f"handover/{self._asked.job_id}/{name}", path, digest)
        self._asked.files.filter(name=name).delete()
        self._asked.files.create(name=name, file=kept, size=size, sha256=digest)


class _Packed:
    """A ZIP with a folder for each scene."""

    def __init__(self, out: zipfile.ZipFile, named: dict[int, str]) -> None:
        self._out, self._named = out, named

    def put(self, path: Path, name: str, scene: Scene | None = None) -> None:
        """Put it into its scene's folder; what is of all of them beside the folders."""
        self._out.write(path, f"{self._named[scene.pk]}/{name}" if scene else name)


@contextmanager
def place_of(asked: Handover, wish: Wish, scenes: Sequence[Scene]) -> Iterator[Place]:
    """Where the files of a hand-over are put; they are kept when the work is done."""
    each = _Each(asked)
    if not wish.folders:
        yield each
        return
    names = dict(zip((scene.pk for scene in scenes), folders(wish.folders, map(_fields, scenes)), strict=True))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "packed"
        # What is made is packed already: pictures, films, sounds.
        with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as out:
            yield _Packed(out, names)
        each.put(path, packed_in(wish, scenes[0]))


def _fields(scene: Scene) -> dict[str, str]:
    """What a folder's name can have of a scene."""
    shot = getattr(scene, "shot", None)
    newest = scene.shown_versions.values_list("number", flat=True).first()
    return {
        "number": shot.number if shot else "",
        "name": scene.name,
        "sequence": str(shot.sequence) if shot and shot.sequence else "",
        "version": f"v{newest}" if newest else "",
    }
