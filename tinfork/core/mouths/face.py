"""A simple face for a character to speak with: a head around the mouth's anchor, drawn as SVG, in parts."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from .builds import FaceStyle
from .draw import styled
from .heads import mouth_style, parts_of_build, pieces_of_build
from .parts import (
    DIALS,
    FACING,
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
    times,
)
from .shapes import Articulation
from .turning import facing_of, inverse, on_head
from .views import FRONT, angle_of, in_order, nearest_view

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
    what is drawn of them, the lowest first, with the mouth's own among them; lies: for views in which the mouth lies
    elsewhere, the matrix that takes it there."""

    behind: str = ""
    before: str = ""
    x: float = 0.0
    y: float = 0.0
    size: float = 1.0
    turn: float = 0.0
    parts: tuple[Part, ...] = WHOLE
    pieces: tuple[PicturePiece, ...] = (PicturePiece(MOUTH, ""),)
    lies: Mapping[str, Matrix] = field(default_factory=dict)

    @classmethod
    def of(
        cls,
        parts: tuple[Part, ...],
        pieces: tuple[PicturePiece, ...],
        lies: Mapping[str, Matrix] | None = None,
        **mouth: float,
    ) -> "Face":
        """Return a face of parts; mouth: where it lies from the front."""
        rests = {part.name: part.rest for part in parts}
        view = _drawn_view(rests.get(HEAD, "") or FRONT, pieces)
        at = next(n for n, piece in enumerate(pieces) if piece.part == MOUTH)
        seen = [p.markup if p.view in (None, view) and _at_rest(p, rests) else "" for p in pieces]
        return cls("".join(seen[:at]), "".join(seen[at + 1 :]), parts=parts, pieces=pieces, lies=lies or {}, **mouth)

    def with_views(self, names: Iterable[str]) -> "Face":
        """Return the face with a head that shows views: those of its own pieces, and others by their names; itself
        where there are none."""
        own = {*names, *(piece.view for piece in self.pieces if piece.view), *self.lies}
        if not own - {FRONT}:
            return self
        views = tuple(in_order({FRONT, *own}))
        parts = (replace(p, drawings=views, rest=FRONT) if p.name == HEAD else p for p in self.parts)
        return replace(self, parts=tuple(parts))

    @property
    def views(self) -> tuple[str, ...]:
        """The views its head can show; none where it has but one."""
        head = self.part(HEAD)
        return head.drawings if head else ()

    def drawn_view(self, view: str) -> str:
        """Return the view that is drawn where another is asked for: that one, if the face has pieces of it."""
        return _drawn_view(view, self.pieces)

    def part(self, name: str) -> Part | None:
        """Return the part of a name."""
        return next((part for part in self.parts if part.name == name), None)

    def facing_in(self, view: str) -> float:
        """Return by how many degrees the head is turned for a view it has no pieces of its own for."""
        if not self.turns or any(piece.view == view for piece in self.pieces):
            return 0.0
        return max(-DIALS[FACING].most, min(DIALS[FACING].most, angle_of(view) or 0.0))

    @cached_property
    def turns(self) -> bool:
        """Whether it can face to a side by its dial: something of it lies on a head that turns."""
        return any(piece.relief for piece in self.pieces)

    @property
    def slides(self) -> bool:
        """Whether that is how it turns: it is not drawn in views."""
        return self.turns and not any(piece.view for piece in self.pieces)

    def mouths_view(self, view: str, facing: float) -> str:
        """Return the view whose mouths are seen while the head shows a view and faces so many degrees to the right by
        its dial: the nearest that its mouths are drawn in, on a head that turns by it and shows its front."""
        if view != FRONT or not facing or not self.slides:
            return view
        return min(self.angles, key=lambda own: abs(self.angles[own] - facing), default=view)

    @cached_property
    def angles(self) -> dict[str, float]:
        """By how many degrees its head is turned in each of its views."""
        return {view: self.facing_in(view) for view in self.views}

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
    facing, head, view = faced(face, poses), face.part(HEAD), view_of(face, poses)
    found = []
    for piece in seen_pieces(face, poses):
        own = placed.get(piece.part, placed[MOUTH])
        if piece.part == MOUTH and view in face.lies and head:
            own = times(times(times(carried[HEAD], face.lies[view]), inverse(carried[HEAD])), own)
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
    view = face.drawn_view(view_of(face, poses))
    return [piece for piece in face.pieces if is_seen(piece, shown.get(piece.part), view, poses)]


def is_seen(piece: PicturePiece, drawing: str | None, view: str, poses: Mapping[str, Pose]) -> bool:
    """Return whether a piece is seen, wherever the head faces, while its part shows a drawing and its face is drawn in
    a view; of what moves, while it is its turn: poses have under what it is called which is seen."""
    if piece.view not in (None, view) or piece.drawing not in (None, drawing):
        return False
    if piece.turn is None:
        return True
    pose = poses.get(piece.turn.of)
    return str(piece.turn.picture) == (pose.drawing if pose and pose.drawing else "0")


def turns_on(face: Face, drawings: Mapping[str, Sequence[str | None]], frames: int) -> list[dict[str, Pose]]:
    """Return which picture is seen on each frame of all that moves of a face, but for the first ones; what a part shows
    goes on from where it began to. drawings: by parts what they show on each frame, None for their rest."""
    found: list[dict[str, Pose]] = [{} for _ in range(frames)]
    rests = {part.name: part.rest for part in face.parts}
    moving = {piece.turn.of: (piece.turn.moving, piece) for piece in face.pieces if piece.turn}
    for name, (how, piece) in moving.items():
        shown = drawings.get(piece.part, ())
        first, before = 0, False
        for frame in range(frames):
            now = shown[frame] if frame < len(shown) else None
            there = piece.drawing is None or piece.drawing == (rests.get(piece.part) if now is None else now)
            first = frame if there and not before else first
            before = there
            if there and (picture := how.on(frame, first)):
                found[frame][name] = Pose({}, str(picture))
    return found


def faced(face: Face, poses: Mapping[str, Pose]) -> float:
    """Return by how many degrees to the right a head faces, by its dial and by the view that is shown."""
    return facing_of(poses) + face.facing_in(view_of(face, poses))


def view_of(face: Face, poses: Mapping[str, Pose]) -> str:
    """Return the view of a face that is shown while the parts do something."""
    head, pose = face.part(HEAD), poses.get(HEAD)
    return (pose.drawing if pose and pose.drawing is not None else head.rest if head else "") or FRONT


def _drawn_view(view: str, pieces: Iterable[PicturePiece]) -> str:
    own = {piece.view for piece in pieces if piece.view}
    return nearest_view(view, own | {FRONT}, mirror=False)[0] if own else view


def _at_rest(piece: PicturePiece, rests: Mapping[str, str]) -> bool:
    """Whether a piece is seen on a face that looks to the front and does nothing."""
    behind = piece.relief is not None and piece.relief.way == NEAR and piece.relief.z <= 0
    first = piece.turn is None or not piece.turn.picture
    return first and not behind and (piece.drawing is None or piece.drawing == rests[piece.part])
