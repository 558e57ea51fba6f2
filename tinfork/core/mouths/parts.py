"""The parts of a face: what hangs on what, and where each is drawn when its dials are turned.

Lengths are units of a face's picture (tinfork.core.mouths.face.VIEW), turns degrees, clockwise as one sees it.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from ..errors import ActingError
from ..limits import MAX_PARTS
from .cycles import Moving

HEAD, MOUTH = "head", "mouth"

FACING = "facing"
"""The dial of a head that turns it from side to side."""

ROLES = {
    "head": "the head: nods, tilts, turns",
    "body": "the body: goes with the head, later and less",
    "lids": "eyelids: blinks",
    "eyes": "what looks: pupils, or whole eyes",
    "left brow": "the brow at the left of the picture",
    "right brow": "the brow at the right of the picture",
}
"""What can be proposed for a part, and in words."""

HALF, SHUT = "half", "shut"
"""What the drawings of lids are called by which a blink is drawn."""

Matrix = tuple[float, float, float, float, float, float]
"""a, b, c, d, e, f as SVG has them: x' = a x + c y + e, y' = b x + d y + f."""

PLAIN: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


@dataclass(frozen=True)
class Dial:
    """What of a part can be moved. unit: what one of it is; least, most: how far it goes; hair: what nobody sees. It
    rests at 0."""

    unit: str
    least: float
    most: float
    hair: float


DIALS = {
    "x": Dial("to the right", -200.0, 200.0, 0.03),
    "y": Dial("down", -200.0, 200.0, 0.03),
    "turn": Dial("degrees clockwise", -180.0, 180.0, 0.03),
    "size": Dial("larger, in shares", -0.9, 3.0, 0.001),
    "stretch": Dial("taller, in shares, and thinner for it", -0.6, 1.5, 0.001),
    "bend": Dial("leaning to the right, in shares of the height", -1.0, 1.0, 0.001),
    FACING: Dial("degrees to the right that a head looks", -90.0, 90.0, 0.2),
}
"""What a part can do. A stretch keeps the area, and so does a bend; only heads face anywhere."""

ON, OUT, NEAR, EDGE = "on", "out", "near", "edge"
"""How a piece lies on a head: on its skin, narrower as it goes round and gone behind; sticking out of it, as wide as
ever; sticking out and seen only while it is on the near side; or reaching from the head's outline to where it lies."""


@dataclass(frozen=True)
class Relief:
    """Where a piece lies on a head. x: in the face's picture; z: how far before the head's axis; way: ON, OUT, NEAR
    or EDGE."""

    x: float
    z: float
    way: str = ON


@dataclass(frozen=True)
class Part:
    """A part of a face, as acting knows it. x, y: what it turns about; on: the part it hangs on, "" for none; role:
    what is proposed for it, "" for nothing; drawings: what it can show, none for a part that is only moved; rest:
    which of them it shows when nothing is decided, "" for nothing."""

    name: str
    x: float = 0.0
    y: float = 0.0
    on: str = ""
    role: str = ""
    drawings: tuple[str, ...] = ()
    rest: str = ""


WHOLE = (Part(HEAD, 0.0, 90.0, role="head"), Part(MOUTH, on=HEAD))
"""The parts of a face of which nothing is known."""


def with_head_and_mouth(parts: Iterable[Part]) -> tuple[Part, ...]:
    """Return parts with the head first and the mouth last, which every face has."""
    own = list(parts)
    names = {part.name for part in own}
    own += [part for part in WHOLE if part.name not in names]
    return tuple(sorted(own, key=lambda part: (part.name != HEAD, part.name == MOUTH)))


@dataclass(frozen=True)
class Turn:
    """When a picture of a drawing that moves is seen. of: what the drawing is called among all of a face; moving: how
    it moves; picture: which of its pictures, from 0 on."""

    of: str
    moving: Moving
    picture: int


@dataclass(frozen=True)
class PicturePiece:
    """What is drawn of a part, as SVG: always, or while it shows a drawing. relief: where it lies on a head that turns,
    None for what all of its sides show alike; view: the only view it is seen in, None for all; turn: when it is seen,
    of one that moves."""

    part: str
    markup: str
    drawing: str | None = None
    relief: Relief | None = None
    view: str | None = None
    turn: Turn | None = None


@dataclass(frozen=True)
class Pose:
    """What a part does on one frame. dials: those that do not rest; drawing: None for its rest; alone: whether a
    stretch leaves what hangs on it as it is."""

    dials: Mapping[str, float] = field(default_factory=dict)
    drawing: str | None = None
    alone: bool = False


def check_parts(parts: Iterable[Part]) -> None:
    """ActingError where two parts have one name, one hangs on what is not there, or on itself by others."""
    own = list(parts)
    if len(own) > MAX_PARTS:
        raise ActingError(f"A face has {MAX_PARTS} parts at the most.")
    known = {part.name: part for part in own}
    if len(known) < len(own):
        raise ActingError("Two parts cannot have the same name; give one of them another.")
    for part in own:
        seen = {part.name}
        above = part
        while above.on:
            if above.on not in known:
                raise ActingError(f"“{above.name}” hangs on “{above.on}”, which is not there.")
            above = known[above.on]
            if above.name in seen:
                raise ActingError(f"“{part.name}” would hang on itself; let one of them hang on something else.")
            seen.add(above.name)


def times(one: Matrix, other: Matrix) -> Matrix:
    """Return the matrix that does the other first, then the one."""
    a, b, c, d, e, f = one
    g, h, i, j, k, m = other
    return (a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f)


def matrix_of(part: Part, dials: Mapping[str, float]) -> Matrix:
    """Return where a part is drawn when its dials are turned, but for what it hangs on."""
    if not any(dials.values()):
        return PLAIN
    turn = math.radians(dials.get("turn", 0.0))
    tall = 1.0 + dials.get("stretch", 0.0)
    size = 1.0 + dials.get("size", 0.0)
    cos, sin = math.cos(turn), math.sin(turn)
    lean = (1.0, 0.0, -dials.get("bend", 0.0), 1.0, 0.0, 0.0)
    scaled = (size / tall, 0.0, 0.0, size * tall, 0.0, 0.0)
    moved = (cos, sin, -sin, cos, part.x + dials.get("x", 0.0), part.y + dials.get("y", 0.0))
    return times(times(times(moved, lean), scaled), (1.0, 0.0, 0.0, 1.0, -part.x, -part.y))


def matrices(parts: Iterable[Part], poses: Mapping[str, Pose]) -> dict[str, Matrix]:
    """Return where each part is drawn, with all that it hangs on."""
    return matrices_and_carried(parts, poses)[0]


def matrices_and_carried(
    parts: Iterable[Part], poses: Mapping[str, Pose]
) -> tuple[dict[str, Matrix], dict[str, Matrix]]:
    """Return where each part is drawn, and where what hangs on it is."""
    known = {part.name: part for part in parts}
    carried: dict[str, Matrix] = {}
    found: dict[str, Matrix] = {}

    def place(name: str) -> None:
        part, pose = known[name], poses.get(name, Pose())
        under = PLAIN
        if part.on in known:
            if part.on not in carried:
                place(part.on)
            under = carried[part.on]
        found[name] = carried[name] = times(under, matrix_of(part, pose.dials))
        if pose.alone and pose.dials.get("stretch"):
            carried[name] = times(under, matrix_of(part, {**pose.dials, "stretch": 0.0}))

    for name in known:
        if name not in found:
            place(name)
    return found, carried


def hangs_on(parts: Iterable[Part], name: str, other: str) -> bool:
    """Return whether a part is another, or hangs on it by whatever lies between."""
    known = {part.name: part for part in parts}
    while name in known and name != other:
        name = known[name].on
    return name == other


def svg_transform(matrix: Matrix) -> str:
    """Return a matrix as SVG writes it; "" for one that does nothing."""
    return "" if matrix == PLAIN else f"matrix({' '.join(f'{value:.5g}' for value in matrix)})"
