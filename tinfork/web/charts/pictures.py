"""Pictures as they are kept: PNGs named after what is in them, each with a small one for the screen."""

import hashlib
import tempfile
from pathlib import Path
from typing import Any

from django.db import models

from tinfork.core.mouths.picture import Picture
from tinfork.web.files import store

SMALL = 400
"""No side of a small picture is longer, in pixels."""


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
    def picture_key(self) -> str:
        """What its picture's address changes with."""
        return (self.picture.name or "").rpartition("/")[2][:16]


def kept(picture: Picture) -> str:
    """Keep a picture; the name of its file."""
    data = picture.png
    digest = hashlib.sha256(data).hexdigest()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "drawing.png"
        path.write_bytes(picture.png_within(SMALL))
        store.keep(small(f"drawings/{digest[:2]}/{digest}.png"), path)
        path.write_bytes(data)
        return store.keep(f"drawings/{digest[:2]}/{digest}.png", path, digest)


def pictured(picture: Picture) -> dict[str, Any]:
    """Keep a picture; the fields of what it is the picture of."""
    height, width = picture.pixels.shape[:2]
    return {"picture": kept(picture), "width": width, "height": height}


def small(name: str) -> str:
    """The name of the small picture beside a kept one."""
    return f"{name.removesuffix('.png')}.small.png"
