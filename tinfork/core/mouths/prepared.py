"""Pictures as they come, made ready to be kept: opened, laid on their anchor, written as PNGs of our making. All of it
on paths and plain values, so that it can be done in a process of its own."""

import hashlib
import os
import signal
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..errors import ChartError
from ..plain import plain
from .drift import outline, reweighted
from .picture import Picture, open_picture
from .register import Registration, registered, registered_heads
from .shapes import Articulation

SMALL = 400
"""No side of a small picture is longer, in pixels."""

SECONDS_A_FILE = 12
"""So long one file may take to be opened and drawn, where that is limited."""


@dataclass(frozen=True)
class PictureSource:
    """A file that came: what it is called, and where it lies."""

    name: str
    file: Path


@dataclass(frozen=True)
class Prepared:
    """A picture as it will be kept. name: its file's, without the ending; digest: SHA-256 of its PNG, which lies in the
    folder given as DIGEST.png, and smaller as DIGEST.small.png."""

    name: str
    digest: str
    width: int
    height: int


@contextmanager
def opening(name: str) -> Iterator[None]:
    """Inside, one file is opened. Aside from others (tinfork.web.files.aside) it is said which, and what takes longer
    than it may ends the process there."""
    at_work = os.environ.get("TINFORK_AT_WORK")
    if not at_work:
        yield
        return
    Path(at_work).write_text(name)
    signal.alarm(SECONDS_A_FILE)
    try:
        yield
    finally:
        signal.alarm(0)


def prepared(picture: Picture, folder: Path) -> Prepared:
    """Return a picture, written into a folder."""
    data = picture.png
    digest = hashlib.sha256(data).hexdigest()
    (folder / f"{digest}.png").write_bytes(data)
    (folder / f"{digest}.small.png").write_bytes(picture.png_within(SMALL))
    height, width = picture.pixels.shape[:2]
    return Prepared(picture.name, digest, width, height)


def one_picture(source: PictureSource, folder: Path) -> Prepared:
    """Return a picture alone. ChartError when it is none that can be used."""
    return prepared(open_source(source), folder)


def flipped(source: PictureSource, folder: Path) -> Prepared:
    """Return a kept picture as a mirror shows it."""
    picture = open_source(source)
    return prepared(Picture(picture.name, picture.pixels[:, ::-1].copy()), folder)


def drawings(files: Sequence[tuple[PictureSource, float]], folder: Path) -> list[tuple[Prepared, Any]]:
    """Return pictures, and their outlines each at its scale. ChartError when one is none that can be used."""
    found = []
    for source, scale in files:
        picture = open_source(source)
        found.append((prepared(picture, folder), plain(outline(picture.pixels, scale))))
    return found


def layers(sources: Sequence[PictureSource], folder: Path) -> tuple[list[tuple[Prepared, Registration]], list[str]]:
    """Return pictures of heads and where each lies, and a sentence for each that cannot be used. ChartError when none
    can."""
    pictures: list[Picture] = []
    notes: list[str] = []
    for source in sources:
        try:
            pictures.append(open_source(source))
        except ChartError as amiss:
            notes.append(str(amiss))
    if not pictures:
        raise ChartError(notes[0] if notes else "No file came through; choose the pictures again.")
    lies = registered_heads([picture.pixels for picture in pictures])
    return [(prepared(picture, folder), at) for picture, at in zip(pictures, lies, strict=True)], notes


def replaced(
    source: PictureSource, was: tuple[int, int], at: Registration, place: Articulation, heads: bool, folder: Path
) -> tuple[Prepared, Registration, Any]:
    """Return another picture for a drawing of some width and height that lies somewhere: where it lies, and its
    outline."""
    fresh = open_source(source)
    height, width = fresh.pixels.shape[:2]
    if (width, height) != was:
        found = registered_heads([fresh.pixels]) if heads else registered([fresh.pixels], [place])
        scale = found[0].scale if heads else at.scale * was[0] / width
        at = Registration(found[0].x, found[0].y, scale, at.turn)
    return prepared(fresh, folder), at, plain(outline(fresh.pixels, at.scale))


def outlines(files: Sequence[tuple[PictureSource, float]]) -> list[Any]:
    """Return the outlines of kept pictures, each at its scale."""
    return [plain(outline(open_source(source).pixels, scale)) for source, scale in files]


def with_lines(source: PictureSource, line: float, by: float, scale: float, folder: Path) -> tuple[Prepared, Any]:
    """Return a kept picture whose lines of some weight are made heavier, in pixels; and its outline at a scale."""
    picture = open_source(source)
    drawn = Picture(picture.name, reweighted(picture.pixels, line, by))
    return prepared(drawn, folder), plain(outline(drawn.pixels, scale))


def open_source(source: PictureSource) -> Picture:
    """Return the picture in a file. ChartError when it is none that can be used."""
    with opening(source.name):
        return open_picture(source.name, source.file.read_bytes())
