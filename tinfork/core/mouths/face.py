"""A simple face for a character to speak with: a head around the mouth's anchor, drawn as SVG, in parts."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from .draw import Palette, mouth
from .parts import HALF, HEAD, MOUTH, SHUT, WHOLE, Part, PicturePiece, Pose, matrices, svg_transform
from .shapes import Articulation

VIEW = (-170, -240, 340, 408)
"""Left, top, width and height of the face's picture; the mouth's anchor is at (0, 0). Heads of ours leave a margin all
around, in which they nod and lean."""

FORMS = ("round", "long", "box")

MOUTH_SCALE = 1.25
"""How much larger a mouth is on the face than on its own."""


@dataclass(frozen=True)
class FaceStyle:
    """How a face of ours is drawn. form: one of FORMS; the rest CSS colours."""

    form: str = "round"
    skin: str = "#e3c3a5"
    trim: str = "#2f4a57"
    lip: str = "#b8705a"

    @property
    def palette(self) -> Palette:
        """The mouth's colours on this face."""
        return Palette(lip=self.lip)


def head(look: FaceStyle) -> str:
    """Return the head without its mouth, as SVG."""
    return built_in_face(look).behind


def face_svg(look: FaceStyle, place: Articulation, background: str | None = None) -> str:
    """Return a whole SVG document: the built-in face with the mouth at this place."""
    return on_face(built_in_face(look), mouth(place, "m", look.palette), background)


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
        seen = [p.markup if p.drawing is None or p.drawing == rests[p.part] else "" for p in pieces]
        return cls("".join(seen[:at]), "".join(seen[at + 1 :]), parts=parts, pieces=pieces, **lies)

    def part(self, name: str) -> Part | None:
        """Return the part of a name."""
        return next((part for part in self.parts if part.name == name), None)

    @property
    def mouth_transform(self) -> str:
        """Where mouths are drawn, as an SVG transform."""
        turned = f" rotate({self.turn:.2f})" if self.turn else ""
        return f"translate({self.x:.2f} {self.y:.2f}){turned} scale({self.size:.4f})"


def built_in_face(look: FaceStyle) -> Face:
    """Return the simple face of a look: a head, with eyes whose lids and pupils move, and brows."""
    drawn = {"long": _LONG, "box": _BOX}.get(look.form, _ROUND)
    apart, y, radius = drawn.eyes
    parts = (
        Part(HEAD, 0.0, 96.0, role="head"),
        Part("eyes", 0.0, y, HEAD, role="eyes"),
        Part("lids", 0.0, y, HEAD, role="lids", drawings=(HALF, SHUT)),
        Part("left brow", -apart, y - 28.0, HEAD, role="left brow"),
        Part("right brow", apart, y - 28.0, HEAD, role="right brow"),
        Part(MOUTH, on=HEAD),
    )
    own = drawn.head(look), drawn.nose, _lids(drawn, look.skin if drawn is not _BOX else look.trim)
    pieces = (
        PicturePiece(HEAD, own[0]),
        PicturePiece(HEAD, _both(lambda side: f'<circle cx="{side * apart}" cy="{y}" r="{radius}" {_WHITE}/>')),
        PicturePiece(
            "eyes", _both(lambda side: f'<circle cx="{side * apart}" cy="{y}" r="{drawn.pupil}" fill="#22302f"/>')
        ),
        *(PicturePiece("lids", markup, drawing) for drawing, markup in own[2].items()),
        PicturePiece("left brow", _brow(-1, apart, y, drawn.brow, look.skin)),
        PicturePiece("right brow", _brow(1, apart, y, drawn.brow, look.skin)),
        PicturePiece(HEAD, own[1]),
        PicturePiece(MOUTH, ""),
    )
    return Face.of(parts, tuple(piece for piece in pieces if piece.markup or piece.part == MOUTH), size=MOUTH_SCALE)


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
    placed = {name: svg_transform(matrix) for name, matrix in matrices(face.parts, poses).items()}
    found = []
    for piece in seen_pieces(face, poses):
        drawn, transform = mouth_group if piece.part == MOUTH else piece.markup, placed.get(piece.part, "")
        found.append(f'<g transform="{transform}">{drawn}</g>' if transform else drawn)
    return "".join(found)


def seen_pieces(face: Face, poses: Mapping[str, Pose]) -> list[PicturePiece]:
    """Return the pieces that are seen while the parts do something, the lowest first."""
    shown = {part.name: part.rest for part in face.parts}
    shown |= {name: pose.drawing for name, pose in poses.items() if pose.drawing is not None}
    return [piece for piece in face.pieces if piece.drawing is None or piece.drawing == shown.get(piece.part)]


_WHITE = 'fill="#fbfaf5" stroke="#22302f" stroke-width="2.5"'


@dataclass(frozen=True)
class _Drawn:
    """eyes: how far from the middle, how high, and how large; brow: how far over the eye, 0 for none."""

    head: Callable[[FaceStyle], str]
    nose: str
    eyes: tuple[float, float, float]
    pupil: float
    brow: float


def _both(draw: Callable[[int], str]) -> str:
    return draw(-1) + draw(1)


def _brow(side: int, apart: float, y: float, over: float, skin: str) -> str:
    """A brow edged with skin, so that it is seen in front of a cap when it is raised."""
    if not over:
        return ""
    x = side * apart
    line = f'd="M{x - side * 18} {y - over + 3}Q{x} {y - over - 7} {x + side * 17} {y - over + 2}" fill="none"'
    strokes = ((skin, 9), ("#22302f", 5))
    return "".join(f'<path {line} stroke="{ink}" stroke-width="{w}" stroke-linecap="round"/>' for ink, w in strokes)


def _lids(drawn: _Drawn, skin: str) -> dict[str, str]:
    """Half shut and shut: what covers the eye, with its edge as the lashes."""
    apart, y, r = drawn.eyes[0], drawn.eyes[1], drawn.eyes[2] + 1.2
    line = 'stroke="#22302f" stroke-width="3" stroke-linecap="round"'

    def half(side: int) -> str:
        x = side * apart
        return f'<path d="M{x - r} {y}A{r} {r} 0 0 1 {x + r} {y}Z" fill="{skin}" {line}/>'

    def shut(side: int) -> str:
        x, low = side * apart, y + r * 0.45
        lash = f'<path d="M{x - r} {low}Q{x} {low + r * 0.6} {x + r} {low}" fill="none" {line}/>'
        return f'<circle cx="{x}" cy="{y}" r="{r}" fill="{skin}"/>{lash}'

    return {HALF: _both(half), SHUT: _both(shut)}


def _round(look: FaceStyle) -> str:
    """A broad head under a captain's cap."""
    return (
        '<g stroke="#22302f" stroke-width="3" stroke-linejoin="round">'
        f'<path d="M-112 -112C-118 30 -82 116 0 118C82 116 118 30 112 -112Z" fill="{look.skin}"/>'
        f'<path d="M-118 -126C-70 -152 70 -152 118 -126L116 -76C66 -100 -66 -100 -116 -76Z" fill="#22302f"/>'
        f'<path d="M-126 -112C-140 -176 -70 -198 0 -198C70 -198 140 -176 126 -112C70 -140 -70 -140 -126 -112Z" '
        f'fill="{look.trim}"/>'
        '<circle cx="0" cy="-150" r="10" fill="#f4f1ea"/></g>'
    )


def _long(look: FaceStyle) -> str:
    """A long head with a knitted hat and side whiskers."""
    return (
        '<g stroke="#22302f" stroke-width="3" stroke-linejoin="round">'
        f'<path d="M-88 -104C-94 10 -74 132 0 134C74 132 94 10 88 -104Z" fill="{look.skin}"/>'
        f'<path d="M-94 -40C-96 30 -78 78 -62 92C-70 50 -78 -2 -80 -44Z" fill="{look.trim}"/>'
        f'<path d="M94 -40C96 30 78 78 62 92C70 50 78 -2 80 -44Z" fill="{look.trim}"/>'
        f'<path d="M-98 -96C-104 -176 -56 -202 0 -202C56 -202 104 -176 98 -96Z" fill="{look.trim}"/>'
        '<path d="M-102 -112H102V-86H-102Z" fill="#f4f1ea"/></g>'
    )


def _box(look: FaceStyle) -> str:
    """A ticket machine: a cabinet with two lamps, a slot and a screen to speak from."""
    return (
        '<g stroke="#22302f" stroke-width="3" stroke-linejoin="round">'
        f'<rect x="-118" y="-186" width="236" height="324" rx="14" fill="{look.trim}"/>'
        f'<rect x="-98" y="-66" width="196" height="178" rx="10" fill="{look.skin}"/>'
        '<rect x="-60" y="-172" width="120" height="14" rx="5" fill="#22302f"/>'
        '<path d="M-40 -165H40V-146L32 -152L24 -146L16 -152L8 -146L0 -152L-8 -146L-16 -152L-24 -146L-32 -152L-40 '
        '-146Z" fill="#f4f1ea" stroke-width="2"/></g>'
    )


_NOSE = 'fill="none" stroke="#22302f" stroke-width="3.5" stroke-linecap="round"'
_ROUND = _Drawn(_round, f'<path d="M-2 -50C-14 -34 -14 -28 2 -28" {_NOSE}/>', (46, -56, 15), 7.5, 27)
_LONG = _Drawn(_long, f'<path d="M-4 -56C-18 -34 -14 -24 4 -26" {_NOSE}/>', (38, -54, 14), 7, 26)
_BOX = _Drawn(_box, "", (48, -108, 23), 9, 0)
