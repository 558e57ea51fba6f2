"""Faces as pieces that move, for formats that have transforms of their own: what each part does as tracks of plain
translation, turn, lean and scale."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..mouths.face import faced, is_seen, view_of
from ..mouths.parts import DIALS, HEAD, MOUTH, PLAIN, Part, PicturePiece, hangs_on
from ..mouths.turning import slid, turned
from ..shot.shot import Role

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class PartTrack:
    """A part frame by frame; each (frames,). x, y: where its pivot lies; turn: degrees clockwise; lean: degrees to the
    right; wide, tall: factors. Applied to what is drawn around the pivot in the order scale, lean, turn, place."""

    part: Part
    x: Array
    y: Array
    turn: Array
    lean: Array
    wide: Array
    tall: Array

    @property
    def moves(self) -> bool:
        """Whether it does anything at all."""
        still = (self.x == self.part.x).all() and (self.y == self.part.y).all()
        straight = not (self.turn.any() or self.lean.any())
        return not (still and straight and (self.wide == 1).all() and (self.tall == 1).all())


def part_track(role: Role, part: Part, carried: bool = False) -> PartTrack:
    """Return what a part does in a shot. carried: as it is for what hangs on it, which a stretch may leave alone."""
    frames = len(role.poses)
    own = {dial: np.zeros(frames) for dial in DIALS}
    for frame, poses in enumerate(role.poses):
        pose = poses.get(part.name)
        if pose:
            for dial, value in pose.dials.items():
                if not (carried and pose.alone and dial == "stretch"):
                    own[dial][frame] = value
    lean = np.degrees(np.arctan(own["bend"]))
    size, tall = 1 + own["size"], 1 + own["stretch"]
    return PartTrack(part, part.x + own["x"], part.y + own["y"], own["turn"], lean, size / tall, size * tall)


def chain(role: Role, piece: PicturePiece) -> list[PartTrack]:
    """Return what a piece hangs on, from the first, with how it slides over a head that turns, and its part itself;
    what does nothing is left out."""
    known = {part.name: part for part in role.face.parts}
    names = [piece.part]
    while (above := known[names[-1]].on) in known:
        names.append(above)
    tracks = []
    for name in reversed(names):
        tracks.append(part_track(role, known[name], carried=name != piece.part))
        if name == HEAD:
            tracks += [own for own in (slide_track(role, piece), view_track(role, piece)) if own]
    return [track for track in tracks if track.moves]


def slide_track(role: Role, piece: PicturePiece) -> PartTrack | None:
    """Return how a piece slides over a head that turns; None for one that does not."""
    head, relief = role.face.part(HEAD), piece.relief
    if relief is None or head is None or not hangs_on(role.face.parts, piece.part, HEAD):
        return None
    facing = [faced(role.face, poses) for poses in role.poses]
    seen = {one: slid(relief, head.x, one) for one in set(facing)}
    own = np.array([seen[one] for one in facing])
    still, wide = np.zeros(len(own)), own[:, 0]
    pivot = Part(f"{piece.part}, turned", relief.x)
    return PartTrack(pivot, own[:, 4] + wide * relief.x, still, still, still, wide, np.ones(len(own)))


def view_track(role: Role, piece: PicturePiece) -> PartTrack | None:
    """Return where the mouth goes by the views that are shown; None for other pieces, and where it lies alike in all
    of them."""
    lies = role.face.lies
    if piece.part != MOUTH or not lies or not hangs_on(role.face.parts, MOUTH, HEAD):
        return None
    own = np.array([lies.get(view_of(role.face, poses), PLAIN) for poses in role.poses])
    size = np.hypot(own[:, 0], own[:, 1])
    turn = np.degrees(np.arctan2(own[:, 1], own[:, 0]))
    return PartTrack(Part(f"{MOUTH}, in its view"), own[:, 4], own[:, 5], turn, np.zeros(len(own)), size, size)


def facing_track(role: Role) -> Array:
    """Return (frames,) by how many degrees the head is turned to the right of the picture."""
    return np.array([turned(faced(role.face, poses)) for poses in role.poses])


def is_always_seen(piece: PicturePiece) -> bool:
    """Return whether a piece is seen whatever its part, its head and time do."""
    return piece.part == MOUTH or (piece.drawing is None and piece.view is None and piece.turn is None)


def visible(role: Role, piece: PicturePiece) -> list[tuple[int, int]]:
    """Return from which frame to before which a piece is seen."""
    if is_always_seen(piece):
        return [(0, len(role.poses))]
    own = role.face.part(piece.part)
    rest = own.rest if own else ""
    shown = []
    for poses in role.poses:
        pose = poses.get(piece.part)
        drawing = rest if pose is None or pose.drawing is None else pose.drawing
        shown.append(is_seen(piece, drawing, role.face.drawn_view(view_of(role.face, poses)), poses))
    edges = np.flatnonzero(np.diff([False, *shown, False])).tolist()
    return list(zip(edges[::2], edges[1::2], strict=True))


def turns(*values: Array) -> list[int]:
    """Return the frames on which any of some tracks is another than on the frame before, the first among them."""
    changed = np.zeros(len(values[0]), bool)
    changed[0] = True
    for one in values:
        changed[1:] |= one[1:] != one[:-1]
    return np.flatnonzero(changed).tolist()


def rows(*values: Array) -> Sequence[tuple[float, ...]]:
    """Return tracks side by side."""
    return list(zip(*(one.tolist() for one in values), strict=True))
