"""A shot as a Lottie animation (the Lottie Animation Community's open specification), its drawings embedded."""

import base64
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

from ..shot.shot import Plate, Shot, plates
from ..shot.stage import Look, side_by_side
from ..timebase import frame_at
from .pictures import as_png, each

VERSION = "5.7.0"
"""Of the players the file is for; it uses no more than images, opacity and markers."""


def write(path: Path, shot: Shot, look: Look) -> None:
    """One .json file with everything in it."""
    path.write_text(json.dumps(document(shot, look), ensure_ascii=False), encoding="utf-8")


def document(shot: Shot, look: Look) -> dict[str, Any]:
    """An image layer for each exposure, the later over the earlier, and lines as markers. Frames count from 0."""
    assets, layers = [], []
    placed = replace(look, spots=side_by_side(shot.roles, look) | dict(look.spots), background="")
    for number, role in enumerate(shot.roles):
        ids = {name: f"r{number}d{at}" for at, name in enumerate(role.drawings)}
        assets += [
            {"id": ids[name], "w": look.width, "h": look.height, "u": "", "p": _embedded(as_png(picture)), "e": 1}
            for name, picture in each(role, shot, placed)
        ]
        layers += [_layer(plate, ids[plate.drawing], role.name) for plate in plates(role)]
    if look.background:
        layers.insert(0, _ground(look, shot.frames))
    top_first = [{**layer, "ind": at} for at, layer in enumerate(reversed(layers), 1)]
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
