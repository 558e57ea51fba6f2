"""Pictures as they are kept: PNGs named after what is in them, each with a small one for the screen."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import models, transaction
from django.db.models.fields.files import FieldFile

from tinfork.core.errors import ChartError
from tinfork.core.mouths.cycles import Moving
from tinfork.core.mouths.prepared import PictureSource, Prepared, one_picture
from tinfork.web.cleaning import natural
from tinfork.web.files import store
from tinfork.web.files.aside import aside, in_turn


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
        return key_of(self.picture.name or "")


def key_of(name: str) -> str:
    """Return what the address of a kept picture changes with."""
    return name.rpartition("/")[2][:16]


class MovingPictured(Pictured):
    """Something that may have further pictures of its canvas, by which it moves. also: their files; each, once: how
    (tinfork.core.mouths.cycles)."""

    also = models.JSONField(default=list, blank=True)
    each = models.PositiveSmallIntegerField(default=2)
    once = models.BooleanField(default=False)

    class Meta:
        abstract = True

    @property
    def moving(self) -> Moving | None:
        """How it moves; None for one that does not."""
        return Moving(1 + len(self.also), self.each, self.once) if self.also else None

    @property
    def files(self) -> list[str]:
        """The files of its pictures, in order."""
        return [self.picture.name or "", *self.also]

    @property
    def sources(self) -> list[PictureSource]:
        """Its pictures, to be opened elsewhere."""
        return [PictureSource(f"{self}.png", Path(self.file_of(at).path)) for at in range(len(self.files))]

    def set_moving(self, asked: Mapping[str, str]) -> None:
        """Set how it moves, as far as that is named. ChartError where it is out of range."""
        if "once" in asked:
            self.once = asked["once"] == "yes"
        if "each" in asked:
            self.each = Moving(1, natural(asked["each"]) or 0).each

    def make_still(self) -> None:
        """Take its further pictures away: it does not move any more."""
        self.also = []
        self.save(update_fields=["also"])

    def file_of(self, picture: int) -> FieldFile:
        """Return one of its pictures, by their order. IndexError where there is none."""
        return type(self)(picture=self.files[picture]).picture

    def data_of(self, picture: int) -> bytes:
        """Return one of its pictures, as a PNG."""
        with self.file_of(picture).open("rb") as file:
            found: bytes = file.read()
        return found


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


def keep_further(
    owner: MovingPictured, named: str, uploads: "Sequence[UploadedFile[Any]]", hold: Callable[[], None]
) -> None:
    """Give something further pictures, of its canvas, after those it has: it moves from now on. ChartError where one is
    of another size, or they are too many. named: what it is called; hold: what locks it, and checks who asks."""
    if not uploads:
        raise ChartError("No file came through; choose the pictures that follow.")
    Moving(1 + len(owner.also) + len(uploads))
    with opened_aside([(Path(upload.name or "picture").name, upload) for upload in uploads]) as (sources, folder):
        fresh = [aside(one_picture, source, folder) for source in sources]
        with transaction.atomic():
            hold()
            owner.refresh_from_db(fields=["also", "width", "height"])
            Moving(1 + len(owner.also) + len(fresh))
            for upload, one in zip(uploads, fresh, strict=True):
                if (one.width, one.height) != (owner.width, owner.height):
                    told = f"{one.width} by {one.height} pixels, and {named} {owner.width} by {owner.height}"
                    raise ChartError(f"{upload.name} is {told}; pictures of one drawing have one canvas.")
            owner.also = [*owner.also, *(keep_picture(one, folder) for one in fresh)]
            owner.save(update_fields=["also"])


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
