"""A shot as glTF 2.0 (Khronos, ISO/IEC 12113): for each character a plain mouth with a morph target for each of their
drawings, and an animation of the weights, stepped, or with a key on every frame where seams are eased."""

import base64
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..mouths.draw import Palette, rings
from ..mouths.parts import HEAD, MOUTH
from ..mouths.shapes import SHAPES, Articulation
from ..shot.flowing import share_of, shut_drawings
from ..shot.shot import Role, Shot
from ..timebase import frame_time
from .rig import facing_track, part_track, turns

_POINTS = 32
_METRES = 0.001
"""A unit of a drawing in metres: a mouth is about as wide as a hand is long."""

_APART = 0.4
"""Metres between two characters."""

_FLOAT, _SHORT = 5126, 5123
_TYPES = {1: "SCALAR", 3: "VEC3", 4: "VEC4"}
Floats = NDArray[np.float32]


def write(path: Path, shot: Shot) -> None:
    """One .gltf file with everything in it."""
    path.write_text(json.dumps(document(shot), ensure_ascii=False), encoding="utf-8")


def document(shot: Shot) -> dict[str, Any]:
    """Return the glTF. Times are seconds from the first frame; weights add up to one, and to none where nothing is
    shown."""
    made = _Buffer()
    nodes: list[dict[str, Any]] = []
    meshes: list[dict[str, Any]] = []
    channels: list[dict[str, Any]] = []
    samplers: list[dict[str, Any]] = []
    roots: list[int] = []

    def animate(node: int, path: str, times: Floats, values: Floats, easing: str) -> None:
        if len(times):
            channels.append({"sampler": len(samplers), "target": {"node": node, "path": path}})
            keys, out = made.add(times, bounds=True), made.add(values)
            samplers.append({"input": keys, "output": out, "interpolation": easing})

    for place, role in enumerate(shot.roles):
        meshes.append(_mesh(role, made))
        own = len(nodes)
        roots.append(own)
        nodes.append({"name": role.name, "translation": [_APART * place, 0.0, 0.0]})
        mouth = _rig(role, nodes, own, shot, animate) if role.acts else own
        nodes[mouth]["mesh"] = place
        for path, times, values, easing in (_weights(role, shot), _sizes(role, shot)):
            animate(mouth, path, times, values, easing)
    return {
        "asset": {"version": "2.0", "generator": "Tin Fork"},
        "scene": 0,
        "scenes": [{"name": shot.name, "nodes": roots}],
        "nodes": nodes,
        "meshes": meshes,
        "materials": [_material("lips", Palette().lip), _material("inside", Palette().inside)],
        "animations": [{"name": shot.name, "channels": channels, "samplers": samplers}],
        **made.document(),
    }


def _rig(
    role: Role,
    nodes: list[dict[str, Any]],
    root: int,
    shot: Shot,
    animate: Callable[[int, str, Floats, Floats, str], None],
) -> int:
    """A node for each part of a face, hung as the parts hang, with what it does; a bend has no place in glTF and is
    left out. The number of the node on which the mouth is."""
    parts = {part.name: part for part in role.face.parts}
    numbers = {name: len(nodes) + at for at, name in enumerate(parts)}
    nodes += [{"name": f"{role.name}, {name}"} for name in parts]
    for name, part in parts.items():
        above = parts.get(part.on)
        node, own = nodes[numbers[name]], part_track(role, part)
        nodes[numbers[part.on] if above else root].setdefault("children", []).append(numbers[name])
        origin = (above.x, above.y) if above else (0.0, 0.0)
        node["translation"] = [_METRES * (part.x - origin[0]), -_METRES * (part.y - origin[1]), 0.0]
        moves = np.column_stack([_METRES * (own.x - origin[0]), -_METRES * (own.y - origin[1]), np.zeros(len(own.x))])
        faced = facing_track(role) if name == HEAD else np.zeros(len(own.turn))
        turned = _quaternions(-np.radians(own.turn) / 2, np.radians(faced) / 2)
        scaled = np.column_stack([own.wide, own.tall, np.ones(len(own.wide))])
        still = {"translation": (own.x, own.y), "rotation": (own.turn, faced), "scale": (own.wide, own.tall)}
        for path, values in (("translation", moves), ("rotation", turned), ("scale", scaled)):
            keys = turns(*still[path])
            moves_at_once = path != "translation" and not all((one == (path == "scale")).all() for one in still[path])
            if len(keys) > 1 or moves_at_once:
                animate(numbers[name], path, _times(keys, shot), values[keys].astype(np.float32), "STEP")
    mouth = len(nodes)
    part = parts[MOUTH]
    before = next((piece.relief.z for piece in role.face.pieces if piece.part == MOUTH and piece.relief), 0.0)
    place = [-_METRES * part.x, _METRES * part.y, _METRES * before]
    nodes.append({"name": f"{role.name}, mouth drawings", "translation": place})
    nodes[numbers[MOUTH]].setdefault("children", []).append(mouth)
    return mouth


def _quaternions(about_z: NDArray[np.float64], about_y: NDArray[np.float64]) -> NDArray[np.float64]:
    """(frames, 4) turns by twice some angles, in radians: first about the upright axis, then about the one that comes
    out of the picture."""
    (sin_z, cos_z), (sin_y, cos_y) = ((np.sin(one), np.cos(one)) for one in (about_z, about_y))
    return np.column_stack([-sin_z * sin_y, cos_z * sin_y, sin_z * cos_y, cos_z * cos_y])


class _Buffer:
    """Arrays in one buffer, each with a view and an accessor of its own."""

    def __init__(self) -> None:
        self._data = b""
        self._views: list[dict[str, Any]] = []
        self._accessors: list[dict[str, Any]] = []

    def add(self, values: NDArray[Any], bounds: bool = False) -> int:
        """Return the number of the accessor of some values, (count,) or (count, 3)."""
        data = values.tobytes()
        self._views.append({"buffer": 0, "byteOffset": len(self._data), "byteLength": len(data)})
        self._data += data + b"\0" * (-len(data) % 4)
        width = 1 if values.ndim == 1 else values.shape[1]
        found = {
            "bufferView": len(self._views) - 1,
            "componentType": _SHORT if values.dtype == np.uint16 else _FLOAT,
            "count": len(values),
            "type": _TYPES[width],
        }
        if bounds:
            rows = values.reshape(len(values), width)
            found |= {"min": rows.min(axis=0).tolist(), "max": rows.max(axis=0).tolist()}
        self._accessors.append(found)
        return len(self._accessors) - 1

    def document(self) -> dict[str, Any]:
        """Return what of a glTF holds them."""
        text = base64.b64encode(self._data).decode()
        buffer = {"byteLength": len(self._data), "uri": f"data:application/octet-stream;base64,{text}"}
        return {"buffers": [buffer], "bufferViews": self._views, "accessors": self._accessors}


def _material(name: str, colour: str) -> dict[str, Any]:
    channels = [(int(colour[at : at + 2], 16) / 255) ** 2.2 for at in (1, 3, 5)]
    return {
        "name": name,
        "doubleSided": True,
        "pbrMetallicRoughness": {"baseColorFactor": [*channels, 1.0], "metallicFactor": 0.0},
    }


def _points(place: Articulation) -> Floats:
    """(1 + 2 n, 3) the middle of a mouth, its opening and the outside of its lips, in metres, y up."""
    inner, outer = rings(place, _POINTS)
    middle = np.mean(inner, axis=0)
    flat = np.array([middle, *inner, *outer]) * (_METRES, -_METRES)
    return np.column_stack([flat, np.zeros(len(flat))]).astype(np.float32)


def _mesh(role: Role, made: _Buffer) -> dict[str, Any]:
    rest = _points(SHAPES["rest"].place)
    places = {d.name: d.place for d in role.chart.drawings}
    targets = [{"POSITION": made.add(_points(places[name]) - rest, bounds=True)} for name in role.drawings]
    ring = np.arange(_POINTS)
    after = (ring + 1) % _POINTS
    fan = np.column_stack([np.zeros(_POINTS), 1 + ring, 1 + after])
    own, other = 1 + ring, 1 + after
    band = np.concatenate(
        [np.column_stack([own, own + _POINTS, other]), np.column_stack([other, own + _POINTS, other + _POINTS])]
    )
    position = made.add(rest, bounds=True)
    primitives = [
        {
            "attributes": {"POSITION": position},
            "indices": made.add(faces.astype(np.uint16).reshape(-1)),
            "material": material,
            **({"targets": targets} if targets else {}),
        }
        for material, faces in enumerate((band, fan))
    ]
    named = {"weights": [0.0] * len(targets), "extras": {"targetNames": list(role.drawings)}} if targets else {}
    return {"name": f"{role.name}, mouth", "primitives": primitives, **named}


def _weights(role: Role, shot: Shot) -> tuple[str, Floats, Floats, str]:
    if not role.drawings:
        return "weights", np.zeros(0, np.float32), np.zeros(0, np.float32), "STEP"
    column = {name: at for at, name in enumerate(role.drawings)}
    track = list(role.on_each_frame())
    keys = list(range(len(track))) if role.blends else [e.frame for e in role.exposures]
    values = np.zeros((len(keys), len(column)), np.float32)
    shut = shut_drawings(role)
    for row, frame in enumerate(keys):
        blend = role.blends.get(frame)
        share = share_of(blend, shut) if blend else 0.0
        shares = [(blend.before, 1 - share), (blend.after, share)] if blend and share else [(track[frame], 1.0)]
        for e, share in shares:
            if e.drawing:
                values[row, column[e.drawing]] += share
    return "weights", _times(keys, shot), values.reshape(-1), "LINEAR" if role.blends else "STEP"


def _sizes(role: Role, shot: Shot) -> tuple[str, Floats, Floats, str]:
    """The mouth away where nothing is shown."""
    if all(e.drawing for e in role.exposures):
        return "scale", np.zeros(0, np.float32), np.zeros(0, np.float32), "STEP"
    shown = [[1.0 if e.drawing else 0.0] * 3 for e in role.exposures]
    return "scale", _times([e.frame for e in role.exposures], shot), np.array(shown, np.float32), "STEP"


def _times(frames: list[int], shot: Shot) -> Floats:
    return np.array([frame_time(frame, shot.rate) for frame in frames], np.float32)
