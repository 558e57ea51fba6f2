"""A simple face for a character to speak with: a head around the mouth's anchor, drawn as SVG, in parts."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from .builds import FaceStyle
from .draw import styled
from .heads import mouth_style, parts_of_build, pieces_of_build
from .parts import (
    HEAD,
    MOUTH,
    NEAR,
    WHOLE,
    Matrix,
    Part,
    PicturePiece,
    Pose,
    hangs_on,
    matrices_and_carried,
    svg_transform,
)
from .shapes import Articulation
from .turning import facing_of, on_head

VIEW = (-170, -240, 340, 408)
"""Left, top, width and height of the face's picture; the mouth's anchor is at (0, 0). Heads of ours leave a margin all
around, in which they nod and lean."""

MOUTH_SCALE = 1.25
"""How much larger a mouth is on the face than on its own."""


def head(look: FaceStyle) -> str:
    """Return the head without its mouth, as SVG."""
    return built_in_face(look).behind


def face_svg(look: FaceStyle, place: Articulation, background: str | None = None) -> str:
    """Return a whole SVG document: the built-in face with the mouth at this place."""
    return on_face(built_in_face(look), styled(place, "m", mouth_style(look)), background)


@dataclass(frozen=True)
class Face:
    """What a mouth is shown on, in the units of VIEW. behind, before: SVG under the mouth and over it, at rest; x, y:
    where the mouth's anchor lies; size: how large a mouth is drawn; turn: degrees; parts: what of it moves; pieces:
    what is drawn of them, the lowest first, with the mouth's own among them."""

    behind: str = ""
    before: str = ""
    x: float = 0.0
    y: float = 0.0
    size: float = 1.0
    turn: float = 0.0
    parts: tuple[Part, ...] = WHOLE
    pieces: tuple[PicturePiece, ...] = (PicturePiece(MOUTH, ""),)

    @classmethod
    def of(cls, parts: tuple[Part, ...], pieces: tuple[PicturePiece, ...], **lies: float) -> "Face":
        """Return a face of parts; lies: where its mouth does."""
        rests = {part.name: part.rest for part in parts}
        at = next(n for n, piece in enumerate(pieces) if piece.part == MOUTH)
        seen = [p.markup if _at_rest(p, rests) else "" for p in pieces]
        return cls("".join(seen[:at]), "".join(seen[at + 1 :]), parts=parts, pieces=pieces, **lies)

    def part(self, name: str) -> Part | None:
        """Return the part of a name."""
        return next((part for part in self.parts if part.name == name), None)

    @cached_property
    def turns(self) -> bool:
        """Whether it can face to a side: something of it lies on a head that turns."""
        return any(piece.relief for piece in self.pieces)

    @property
    def mouth_transform(self) -> str:
        """Where mouths are drawn, as an SVG transform."""
        turned = f" rotate({self.turn:.2f})" if self.turn else ""
        return f"translate({self.x:.2f} {self.y:.2f}){turned} scale({self.size:.4f})"


def built_in_face(look: FaceStyle) -> Face:
    """Return the simple face of a look: a head that turns, with eyes whose lids and pupils move, and brows."""
    return Face.of(parts_of_build(look), pieces_of_build(look), size=MOUTH_SCALE)


def on_face(face: Face, markup: str, background: str | None = None, poses: Mapping[str, Pose] | None = None) -> str:
    """Return a whole SVG document: a face with a mouth, drawn on its anchor. poses: what its parts do, none for
    rest."""
    left, top, width, height = VIEW
    ground = f'<rect x="{left}" y="{top}" width="{width}" height="{height}" fill="{background}"/>' if background else ""
    mouth_group = f'<g transform="{face.mouth_transform}">{markup}</g>'
    seen = posed(face, mouth_group, poses) if poses else f"{face.behind}{mouth_group}{face.before}"
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{left} {top} {width} {height}" width="{width}" '
        f'height="{height}">{ground}{seen}</svg>'
    )


def posed(face: Face, mouth_group: str, poses: Mapping[str, Pose]) -> str:
    """Return a face whose parts do something, with its mouth, as SVG."""
    found = []
    for piece, matrix in laid(face, poses):
        drawn, transform = mouth_group if piece.part == MOUTH else piece.markup, svg_transform(matrix)
        found.append(f'<g transform="{transform}">{drawn}</g>' if transform else drawn)
    return "".join(found)


def laid(face: Face, poses: Mapping[str, Pose]) -> list[tuple[PicturePiece, Matrix]]:
    """Return the pieces that are seen while the parts do something, the lowest first, each with where it is drawn."""
    placed, carried = matrices_and_carried(face.parts, poses)
    facing, head = facing_of(poses), face.part(HEAD)
    found = []
    for piece in seen_pieces(face, poses):
        own = placed.get(piece.part, placed[MOUTH])
        if piece.relief and head and hangs_on(face.parts, piece.part, HEAD):
            on = placed[HEAD] if piece.part == HEAD else carried[HEAD]
            own = on_head(piece.relief, head.x, facing, on, own)
        if own[0] or own[1]:
            found.append((piece, own))
    return found


def seen_pieces(face: Face, poses: Mapping[str, Pose]) -> list[PicturePiece]:
    """Return the pieces that are seen while the parts do something, wherever the head faces, the lowest first."""
    shown = {part.name: part.rest for part in face.parts}
    shown |= {name: pose.drawing for name, pose in poses.items() if pose.drawing is not None}
    return [piece for piece in face.pieces if piece.drawing is None or piece.drawing == shown.get(piece.part)]


def _at_rest(piece: PicturePiece, rests: Mapping[str, str]) -> bool:
    """Whether a piece is seen on a face that looks to the front and does nothing."""
    behind = piece.relief is not None and piece.relief.way == NEAR and piece.relief.z <= 0
    return not behind and (piece.drawing is None or piece.drawing == rests[piece.part])
