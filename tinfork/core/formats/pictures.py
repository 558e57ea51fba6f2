"""Pictures of a shot in a ZIP: one for each frame, or each drawing once with its timing, or all on one sheet."""

import io
import json
import zipfile
from collections.abc import Hashable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any

import numpy as np
from msgspec import Meta
from PIL import Image

from ..errors import HandoverError
from ..mouths.face import VIEW, Face, on_face
from ..mouths.raster import png
from ..naming import Pattern, stems
from ..shot.shot import Role, Shot
from ..shot.stage import Frames, Look, Picture, Progress
from ..timebase import format_rate
from . import acting_csv, exposure_csv, reading_json
from .options import Options

PATTERN = "{character}_#####"
"""How pictures of frames are called when nobody says."""

MOST_ON_A_SHEET = 16_384
MOST_PACKED = 256


class SequenceOptions(Options, frozen=True):
    """How a sequence is written."""

    pattern: Annotated[
        str,
        Meta(
            title="Naming pattern",
            description="# for each digit of the frame’s number; {character} and {scene} stand for their names",
            max_length=80,
        ),
    ] = PATTERN

    def check(self) -> None:
        """HandoverError where the pattern is none."""
        pattern_of(self.pattern)


def told_inside(shot_frames: range, who: str, scene: str, options: SequenceOptions) -> str:
    """Return the first and the last picture of a sequence. shot_frames: as they are numbered; who: is seen."""
    pattern = pattern_of(options.pattern)
    first, last = (f"{pattern.name(n, character=who, scene=scene)}.png" for n in (shot_frames[0], shot_frames[-1]))
    return f"frames/{first} to {last}"


def pattern_of(text: str) -> Pattern:
    """Return the pattern that pictures of frames are called by. HandoverError where it is none."""
    if "{drawing}" in text:
        raise HandoverError("Pictures of frames are not called after their drawings; leave {drawing} out.")
    return Pattern(text)


def names(shot: Shot, pattern: Pattern) -> Iterator[str]:
    """Return what the pictures of a sequence are called, in order; several together have the name of their scene."""
    who = shot.roles[0].name if len(shot.roles) == 1 else shot.name
    return (f"{pattern.name(shot.start_frame + n, character=who, scene=shot.name)}.png" for n in range(shot.frames))


def write_sequence(
    path: Path, shot: Shot, frames: Frames, options: SequenceOptions, progress: Progress = lambda share: None
) -> None:
    """frames/ with a picture for each frame, and of each role its exposures as CSV and JSON."""
    pattern = pattern_of(options.pattern)
    packed: dict[Hashable, bytes] = {}
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        _timing(out, shot)
        for number, name in enumerate(names(shot, pattern)):
            token = frames.token(number)
            if token not in packed:
                if len(packed) >= MOST_PACKED:
                    packed.clear()
                packed[token] = as_png(frames[number])
            # A PNG is packed already.
            out.writestr(f"frames/{name}", packed[token], compress_type=zipfile.ZIP_STORED)
            progress((number + 1) / shot.frames)


def write_drawings(path: Path, shot: Shot, look: Look) -> None:
    """drawings/ with each drawing once, by its own name, and the exposures as CSV and JSON: for what swaps drawings."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        _timing(out, shot)
        for role in shot.roles:
            own = {name: as_png(picture) for name, picture in each(role, shot, look)}
            files = stems(own)
            rows = [{"drawing": name, "file": f"{files[name]}.png"} for name in own]
            out.writestr(f"{role.stem}/drawings.json", json.dumps(rows, ensure_ascii=False, indent=1))
            for name, data in own.items():
                out.writestr(f"{role.stem}/drawings/{files[name]}.png", data, compress_type=zipfile.ZIP_STORED)
            if role.acts:
                _parts(out, role, look)
        if any(role.acts for role in shot.roles):
            out.writestr("acting.csv", acting_csv.text(shot))


def _parts(out: zipfile.ZipFile, role: Role, look: Look) -> None:
    """parts/ with each piece of the face alone, where it lies on the whole, and parts.json, which says how they
    hang."""
    wide = max(2, round(look.height * VIEW[2] / VIEW[3]))
    pieces = [piece for piece in role.face.pieces if piece.markup]
    rows = []
    for at, piece in enumerate(pieces):
        name = f"{at:02d} {piece.part}{f', {piece.drawing}' if piece.drawing else ''}"
        (file,) = stems([name]).values()
        turn = {"picture": piece.turn.picture, "of": piece.turn.moving.pictures} if piece.turn else {}
        rows.append({"part": piece.part, "drawing": piece.drawing, "file": f"{file}.png", **turn})
        data = png(on_face(Face(piece.markup), ""), wide)
        out.writestr(f"{role.stem}/parts/{file}.png", data, compress_type=zipfile.ZIP_STORED)
    hang = [
        {"part": p.name, "on": p.on, "pivot": [p.x - VIEW[0], p.y - VIEW[1]], "rest": p.rest} for p in role.face.parts
    ]
    document = {"width": VIEW[2], "height": VIEW[3], "parts": hang, "pieces": rows}
    out.writestr(f"{role.stem}/parts.json", json.dumps(document, ensure_ascii=False, indent=1))


def write_sheet(path: Path, shot: Shot, look: Look) -> None:
    """For each role sheet.png with all of their drawings, and sheet.json, which says where each lies and when."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        for role in shot.roles:
            pictures = dict(each(role, shot, look))
            columns = max(1, min(len(pictures), MOST_ON_A_SHEET // look.width, round(len(pictures) ** 0.5)))
            rows = -(-len(pictures) // columns)
            if rows * look.height > MOST_ON_A_SHEET:
                raise HandoverError("These drawings do not fit on one sheet; choose a smaller size.")
            sheet = Image.new("RGBA", (columns * look.width, rows * look.height))
            places: dict[str, dict[str, int]] = {}
            for at, (name, picture) in enumerate(pictures.items()):
                x, y = at % columns * look.width, at // columns * look.height
                sheet.paste(Image.fromarray(picture), (x, y))
                places[name] = {"x": x, "y": y, "w": look.width, "h": look.height}
            data = as_png(np.asarray(sheet))
            out.writestr(f"{role.stem}/sheet.png", data, compress_type=zipfile.ZIP_STORED)
            out.writestr(
                f"{role.stem}/sheet.json", json.dumps(_sheet(role, shot, places), ensure_ascii=False, indent=1)
            )


def _sheet(role: Role, shot: Shot, places: dict[str, dict[str, int]]) -> dict[str, Any]:
    shown = [{"frame": e.frame, "frames": e.frames, "drawing": e.drawing} for e in role.exposures]
    return {"fps": format_rate(shot.rate), "start_frame": shot.start_frame, "drawings": places, "exposures": shown}


def each(role: Role, shot: Shot, look: Look) -> Iterator[tuple[str, Picture]]:
    """Yield each drawing of a role that is used, alone."""
    for name in role.drawings:
        first = replace(next(e for e in role.exposures if e.drawing == name), frame=0, frames=1)
        alone = replace(role, exposures=(first,), eases={}, lanes={})
        yield name, Frames(replace(shot, roles=(alone,)), replace(look, burnt=()))[0]


def as_png(picture: Picture) -> bytes:
    """Return a picture as a PNG."""
    data = io.BytesIO()
    Image.fromarray(picture).save(data, "PNG", compress_level=3)
    return data.getvalue()


def _timing(out: zipfile.ZipFile, shot: Shot) -> None:
    for role in shot.roles:
        at = "" if len(shot.roles) == 1 else f"{role.stem}/"
        document = reading_json.document(role.reading, role.exposures, role.chart, shot.rate)
        out.writestr(f"{at}exposures.json", json.dumps(document, ensure_ascii=False, indent=1))
        text = exposure_csv.text(role.reading, role.exposures, role.chart, shot.rate, shot.start_frame)
        out.writestr(f"{at}exposures.csv", text)
