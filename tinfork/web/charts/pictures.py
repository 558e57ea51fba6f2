"""Pictures as they are kept: PNGs named after what is in them, each with a small one for the screen."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import models

from tinfork.core.mouths.prepared import PictureSource, Prepared
from tinfork.web.files import store
from tinfork.web.files.aside import in_turn


class Pictured(models.Model):
    """Something with a picture of its own, kept as a PNG of so many pixels."""

    picture = models.FileField(max_length=200)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()

    class Meta:
        abstract = True

    @property
    def data(self) -> bytes:
        """Its picture, as a PNG."""
        with self.picture.open("rb") as file:
            found: bytes = file.read()
        return found

    @property
    def source(self) -> PictureSource:
        """Its picture, to be opened elsewhere."""
        return PictureSource(f"{self}.png", Path(self.picture.path))

    @property
    def picture_key(self) -> str:
        """What its picture's address changes with."""
        return (self.picture.name or "").rpartition("/")[2][:16]


@contextmanager
def opened_aside(named: "Sequence[tuple[str, UploadedFile[Any]]]") -> Iterator[tuple[list[PictureSource], Path]]:
    """Inside, uploads lie where they can be opened in a process of their own, in turn with others'; and a folder for
    what comes of it."""
    with in_turn(), TemporaryDirectory() as name:
        came, folder = Path(name) / "came", Path(name) / "made"
        came.mkdir()
        folder.mkdir()
        sources = []
        for number, (called, upload) in enumerate(named):
            sources.append(PictureSource(called, came / str(number)))
            with sources[-1].file.open("wb") as out:
                for chunk in upload.chunks():
                    out.write(chunk)
        yield sources, folder


def keep_picture(picture: Prepared, folder: Path) -> str:
    """Keep a picture whose PNGs lie in a folder; the name of its file."""
    name = f"drawings/{picture.digest[:2]}/{picture.digest}.png"
    store.keep(small(name), folder / f"{picture.digest}.small.png")
    return store.keep(name, folder / f"{picture.digest}.png", picture.digest)


def pictured(picture: Prepared, folder: Path) -> dict[str, Any]:
    """Keep a picture whose PNGs lie in a folder; the fields of what it is the picture of."""
    return {"picture": keep_picture(picture, folder), "width": picture.width, "height": picture.height}


def small(name: str) -> str:
    """Return the name of the small picture beside a kept one."""
    return f"{name.removesuffix('.png')}.small.png"
