"""A shot as a Lottie animation (the Lottie Animation Community's open specification), its drawings embedded."""

import base64
import json
from collections.abc import Iterator
from dataclasses import replace
from itertools import takewhile
from pathlib import Path
from typing import Any

import numpy as np

from ..mouths.face import VIEW, Face, on_face
from ..mouths.parts import HEAD, MOUTH, Part, PicturePiece, Relief
from ..mouths.raster import png
from ..shot.flowing import flowing
from ..shot.shot import Plate, Role, Shot, plates
from ..shot.stage import Look, side_by_side
from ..timebase import frame_at
from .pictures import as_png, each
from .rig import Array, PartTrack, part_track, rows, slide_track, turns, view_track, visible

VERSION = "5.7.0"
"""Of the players the file is for; it uses no more than images, transforms, opacity and markers."""

_FIRST_OF_ROLE = 100_000
"""Layers that others hang on have numbers from here on, those of each role from the next."""


def write(path: Path, shot: Shot, look: Look) -> None:
    """One .json file with everything in it."""
    path.write_text(json.dumps(document(shot, look), ensure_ascii=False), encoding="utf-8")


def document(shot: Shot, look: Look) -> dict[str, Any]:
    """Return an image layer for each exposure, the later over the earlier, and lines as markers. Frames count from
    0."""
    assets, layers = [], []
    placed = replace(look, spots=side_by_side(shot.roles, look) | dict(look.spots), background="")
    for number, role in enumerate(map(flowing, shot.roles)):
        if role.acts and not look.mouth:
            own_assets, own_layers = _acted(role, placed, number)
            assets += own_assets
            layers += own_layers
            continue
        ids = {name: f"r{number}d{at}" for at, name in enumerate(role.drawings)}
        assets += [
            {"id": ids[name], "w": look.width, "h": look.height, "u": "", "p": _embedded(as_png(picture)), "e": 1}
            for name, picture in each(role, shot, placed)
        ]
        layers += [_layer(plate, ids[plate.drawing], role.name) for plate in plates(role)]
    if look.background:
        layers.insert(0, _ground(look, shot.frames))
    top_first = [{"ind": at, **layer} for at, layer in enumerate(reversed(layers), 1)]
    return {
        "v": VERSION,
        "nm": shot.name,
        "fr": float(shot.rate),
        "ip": 0,
        "op": shot.frames,
        "w": look.width,
        "h": look.height,
        "ddd": 0,
        "assets": assets,
        "layers": top_first,
        "markers": [_marker(line.text, line.start, line.end, shot) for _, line in shot.lines()],
    }


def _acted(role: Role, look: Look, number: int) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """A face whose parts move: its pieces as pictures, hung on layers without a picture that do what the parts do."""
    spot, base = look.spots[role.name], _FIRST_OF_ROLE * (number + 1)
    high = max(2, round(spot.height * look.height))
    wide, scale = max(2, round(high * VIEW[2] / VIEW[3])), high / VIEW[3]
    corner = [spot.x * look.height - wide / 2 - VIEW[0] * scale, spot.y * look.height - high / 2 - VIEW[1] * scale]
    frames = len(role.poses)
    hung = _null(
        base, f"{role.name}", frames, _still() | {"p": _flat([*corner, 0]), "s": _flat([100 * scale, 100 * scale, 100])}
    )
    bones: dict[str, tuple[int, int]] = {}
    layers = [hung]
    for part in _parents_first(role):
        parent = bones[part.on][1] if part.on in bones else base
        own = base + 1 + 2 * len(bones)
        layers.append(
            {**_null(own, f"{role.name}, {part.name}", frames, _moving(part_track(role, part))), "parent": parent}
        )
        carried = part_track(role, part, carried=True)
        bones[part.name] = (own, own + 1)
        layers.append({**_null(own + 1, f"{role.name}, on {part.name}", frames, _moving(carried)), "parent": parent})
    turned: dict[tuple[Relief | None, str], int] = {}

    def hung_on(piece: PicturePiece) -> int:
        """The layer that a piece hangs on: its part's, or one of its own that slides over a head that turns."""
        slides = [own for own in (slide_track(role, piece), view_track(role, piece)) if own and own.moves]
        if not slides:
            return bones[piece.part][0]
        under = list(takewhile(lambda part: part.name != HEAD, _upwards(role, piece.part)))
        tracks = [*slides, *(part_track(role, part, carried=part.name != piece.part) for part in reversed(under))]
        parent = bones[HEAD][1 if under else 0]
        for track in tracks:
            key = (piece.relief, track.part.name)
            if key not in turned:
                turned[key] = base + 1 + 2 * len(bones) + len(turned)
                named = f"{role.name}, {track.part.name}"
                layers.append({**_null(turned[key], named, frames, _moving(track)), "parent": parent})
            parent = turned[key]
        return parent

    assets: dict[str, dict[str, Any]] = {}

    def picture(markup: str) -> str:
        if markup not in assets:
            data = png(on_face(Face(markup), ""), wide)
            ident = f"r{number}p{len(assets)}"
            assets[markup] = {"id": ident, "w": wide, "h": high, "u": "", "p": _embedded(data), "e": 1}
        return str(assets[markup]["id"])

    for piece in role.face.pieces:
        bone = hung_on(piece)
        placed = _still() | {"p": _flat([VIEW[0], VIEW[1], 0]), "s": _flat([100 / scale, 100 / scale, 100])}
        if piece.part == MOUTH:
            for plate in plates(role):
                svg = f'<g transform="{role.face.mouth_transform}">{role.drawn[plate.drawing]}</g>'
                own_layer = _layer(plate, picture(svg), role.name)
                layers.append({**own_layer, "ks": {**placed, "o": own_layer["ks"]["o"]}, "parent": bone})
        else:
            for first, end in visible(role, piece):
                shown = _layer(Plate(piece.drawing or piece.part, first, end), picture(piece.markup), role.name)
                layers.append({**shown, "ks": placed, "parent": bone})
    return list(assets.values()), layers


def _parents_first(role: Role) -> list[Part]:
    known, found = {part.name: part for part in role.face.parts}, dict[str, Part]()

    def put(part: Part) -> None:
        if part.on in known and part.on not in found:
            put(known[part.on])
        found[part.name] = part

    for part in known.values():
        put(part)
    return list(found.values())


def _upwards(role: Role, name: str) -> Iterator[Part]:
    """A part and what it hangs on, one after the other."""
    part = role.face.part(name)
    while part:
        yield part
        part = role.face.part(part.on)


def _null(ind: int, name: str, frames: int, transform: dict[str, Any]) -> dict[str, Any]:
    return {
        "ty": 3,
        "ind": ind,
        "nm": name,
        "ip": 0,
        "op": frames,
        "st": 0,
        "sr": 1,
        "bm": 0,
        "ddd": 0,
        "ks": transform,
    }


def _flat(value: list[float]) -> dict[str, Any]:
    return {"a": 0, "k": value}


def _moving(track: PartTrack) -> dict[str, Any]:
    """A layer's transform that does what a part does: about its pivot scale, skew, rotation, position."""
    return {
        "o": {"a": 0, "k": 100},
        "a": _flat([track.part.x, track.part.y, 0]),
        "s": _stepped(100 * track.wide, 100 * track.tall, np.full(len(track.wide), 100.0)),
        "sk": _stepped(track.lean),
        "sa": {"a": 0, "k": 0},
        "r": _stepped(track.turn),
        "p": _stepped(track.x, track.y, np.zeros(len(track.x))),
    }


def _stepped(*values: Array) -> dict[str, Any]:
    frames = turns(*values)
    shown = [[round(value, 4) for value in row] for row in rows(*(own[frames] for own in values))]
    if len(frames) == 1:
        return {"a": 0, "k": shown[0] if len(values) > 1 else shown[0][0]}
    return {"a": 1, "k": [{"t": frame, "s": row, "h": 1} for frame, row in zip(frames, shown, strict=True)]}


def _embedded(data: bytes) -> str:
    return f"data:image/png;base64,{base64.b64encode(data).decode()}"


def _layer(plate: Plate, asset: str, who: str) -> dict[str, Any]:
    opacity: dict[str, Any] = {"a": 0, "k": 100}
    if plate.shares:
        steps = [
            *((plate.first + n, share) for n, share in enumerate(plate.shares)),
            (plate.first + len(plate.shares), 1.0),
        ]
        opacity = {"a": 1, "k": [{"t": frame, "s": [round(100 * share, 3)], "h": 1} for frame, share in steps]}
    return {
        "ty": 2,
        "nm": f"{who}: {plate.drawing}",
        "refId": asset,
        "ip": plate.first,
        "op": plate.end,
        "st": 0,
        "sr": 1,
        "bm": 0,
        "ddd": 0,
        "ks": _still(opacity),
    }


def _ground(look: Look, frames: int) -> dict[str, Any]:
    size = {"sw": look.width, "sh": look.height, "sc": look.background}
    return {
        "ty": 1,
        "nm": "background",
        "ip": 0,
        "op": frames,
        "st": 0,
        "sr": 1,
        "bm": 0,
        "ddd": 0,
        **size,
        "ks": _still(),
    }


def _still(opacity: dict[str, Any] | None = None) -> dict[str, Any]:
    return {
        "o": opacity or {"a": 0, "k": 100},
        "r": {"a": 0, "k": 0},
        "p": {"a": 0, "k": [0, 0, 0]},
        "a": {"a": 0, "k": [0, 0, 0]},
        "s": {"a": 0, "k": [100, 100, 100]},
    }


def _marker(text: str, start: float, end: float, shot: Shot) -> dict[str, Any]:
    first = max(0, frame_at(start, shot.rate))
    return {"cm": text, "tm": first, "dr": max(1, min(shot.frames, frame_at(end, shot.rate)) - first)}
