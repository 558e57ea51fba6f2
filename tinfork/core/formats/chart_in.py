"""Files that are brought into a mouth chart: pictures, ZIPs of them, sheets to be cut; made ready to be kept, on paths
and plain values, so that it can be done in a process of its own."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ..errors import ChartError
from ..mouths import sheet
from ..mouths.drift import outline
from ..mouths.layers import by_layers
from ..mouths.picture import Picture, open_picture
from ..mouths.prepared import PictureSource, Prepared, open_source, opening, prepared
from ..mouths.register import Registration, registered, registered_heads
from ..mouths.shapes import Articulation
from ..plain import plain
from . import chart_folder
from .chart_folder import Charted, Hinted

_ALIKE = 0.02
_MOST_BESIDE = 40_000_000
"""So many pixels of a chart's drawings say how large a mouth is that comes later: 40 of 1000x1000."""


@dataclass(frozen=True)
class Cut:
    """How sheets are cut into their drawings: by "layers", "gaps", or a "grid" of so many across and down."""

    how: str
    columns: int = 0
    rows: int = 0

    def pieces(self, name: str, data: bytes) -> list[Picture]:
        """Return the drawings of a sheet. ChartError when there are none."""
        if self.how == "layers":
            return by_layers(name, data)
        picture = open_picture(name, data)
        return sheet.by_gaps(picture) if self.how == "gaps" else sheet.by_grid(picture, self.columns, self.rows)


@dataclass(frozen=True)
class Brought:
    """A drawing that is to be kept, as tinfork.core.formats.chart_folder.Charted has it; at: where it lies; outline: a
    tinfork.core.mouths.drift.Outline as plain values."""

    name: str
    mood: str
    place: Articulation
    special: bool
    picture: Prepared
    at: Registration
    outline: Any


@dataclass(frozen=True)
class Beside:
    """What a chart holds already. heads: its drawings are whole heads; drawings: of each its picture, its mood, and the
    height and width of that picture."""

    heads: bool
    drawings: tuple[tuple[PictureSource, str, tuple[int, int]], ...]

    def measured_with(self, fresh: Sequence[Charted]) -> list[Hinted]:
        """Return the drawings that fresh ones are measured with, as they are seen beside them: heads, and mouths of
        their canvas."""
        canvases = {one.opened.pixels.shape[:2] for one in fresh}
        found: list[Hinted] = []
        room = _MOST_BESIDE
        for source, mood, canvas in self.drawings:
            if self.heads or canvas in canvases:
                room -= canvas[0] * canvas[1]
                if room < 0:
                    break
                found.append((open_source(source), None, mood))
        return found


def brought(
    sources: Sequence[PictureSource], cut: Cut | None, beside: Beside, folder: Path
) -> tuple[list[Brought], list[str]]:
    """Return the drawings in some files, their PNGs in a folder, and a sentence for each thing amiss. ChartError when
    there is none. beside: what they come to lie beside."""
    files: dict[str, bytes] = {}
    notes: list[str] = []
    for source in sources:
        try:
            found = _files_in(source)
            if cut is not None:
                found = _pieces(found, cut)
            files |= {path if path not in files else f"{len(files)} {path}": data for path, data in found.items()}
        except ChartError as amiss:
            notes.append(str(amiss))
    if not files:
        raise ChartError(notes[0] if notes else "No file came through; choose the drawings again.")
    fresh = chart_folder.read(files, opening, beside.measured_with)
    return laid(fresh.drawings, beside.heads, folder), [*notes, *fresh.notes]


def _files_in(source: PictureSource) -> dict[str, bytes]:
    data = source.file.read_bytes()
    if not source.name.lower().endswith(".zip"):
        return {source.name: data}
    with opening(source.name):
        return chart_folder.unpacked(data)


def _pieces(files: dict[str, bytes], cut: Cut) -> dict[str, bytes]:
    found: dict[str, bytes] = {}
    for path, data in files.items():
        with opening(path):
            found |= {f"{piece.name}.png": piece.png for piece in cut.pieces(Path(path).name, data)}
    return found


def laid(drawings: Sequence[Charted], heads: bool, folder: Path) -> list[Brought]:
    """Return drawings laid on one anchor, with their PNGs in a folder."""
    pictures = [one.opened.pixels for one in drawings]
    lies = registered_heads(pictures) if heads else registered(pictures, [one.place for one in drawings])
    return [as_brought(one, at, folder) for one, at in zip(drawings, lies, strict=True)]


def as_brought(one: Charted, at: Registration, folder: Path) -> Brought:
    """Return a drawing that lies somewhere, its PNGs in a folder."""
    drawn = plain(outline(one.opened.pixels, at.scale))
    return Brought(one.name, one.mood, one.place, one.special, prepared(one.opened, folder), at, drawn)


def places(drawings: Sequence[tuple[PictureSource, float, str]]) -> list[Articulation]:
    """Kept drawings measured anew: of each its picture, its scale and its mood. Those that were brought to another size
    are measured as they are seen beside the others."""
    usual = float(np.median([scale for _, scale, _ in drawings])) if drawings else 1.0
    found = []
    for source, scale, mood in drawings:
        picture = open_source(source)
        seen = picture if abs(scale / usual - 1) < _ALIKE else picture.scaled(scale / usual)
        found.append((seen, None, mood))
    return [place for place, _ in chart_folder.measured_with_hints(found)]
