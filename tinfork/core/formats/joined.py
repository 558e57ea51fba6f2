"""Many shots as one film, each after a slate that says which it is."""

from collections.abc import Iterable, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from ..shot.shot import Shot
from ..shot.stage import Frames, Look, Picture, Progress
from .film import Codec, Film

SLATE_SECONDS = 1.0
_GROUND, _INK, _QUIET = "#22302f", "#f4f1ea", "#c9cfcc"
_LARGE, _SMALL = 10, 24
"""So many lines of a size a picture is high."""


@dataclass(frozen=True)
class Screened:
    """A shot of the film, how it looks, and what its slate says, the largest line first; nothing for no slate."""

    shot: Shot
    look: Look
    slate: Sequence[str] = ()


def write(
    path: Path, shots: Iterable[Screened], count: int, codec: Codec, progress: Progress = lambda share: None
) -> None:
    """Write a film of so many shots, one after another, each in its own time at the rate of the first."""
    film: Film | None = None
    with ExitStack() as stack:
        for done, one in enumerate(shots):

            def share(own: float, done: int = done) -> None:
                progress((done + own) / count)

            look = one.look
            film = film or stack.enter_context(Film(path, one.shot.rate, look, codec, clear=False, heard=True))
            if one.slate:
                film.hold(slate(one.slate, look), SLATE_SECONDS)
            film.add(one.shot, Frames(one.shot, look), share)


def slate(lines: Sequence[str], look: Look) -> Picture:
    """Return the picture that stands before a shot."""
    image = Image.new("RGBA", (look.width, look.height), _GROUND)
    draw = ImageDraw.Draw(image)
    left, y = look.width // 12, look.height // 4
    for place, line in enumerate(lines):
        size = max(8, look.height // (_SMALL if place else _LARGE))
        font = ImageFont.load_default(size)
        draw.text((left, y), _fitted(line, font, look.width - 2 * left), _QUIET if place else _INK, font)
        y += round(size * (1.5 if place else 1.7))
    return np.asarray(image)


def _fitted(line: str, font: "ImageFont.FreeTypeFont | ImageFont.ImageFont", width: int) -> str:
    """A line, cut where it is wider than its place."""
    while line and font.getlength(line) > width:
        line = f"{line[:-2]}…" if line.endswith("…") else f"{line[:-1]}…"
    return line
