"""A simple face for a character to speak with: a head around the mouth's anchor, drawn as SVG."""

from dataclasses import dataclass

from .draw import Palette, mouth
from .shapes import Articulation

VIEW = (-150, -210, 300, 360)
"""Left, top, width and height of the face's picture; the mouth's anchor is at (0, 0)."""

FORMS = ("round", "long", "box")

MOUTH_SCALE = 1.25
"""How much larger a mouth is on the face than on its own."""


@dataclass(frozen=True)
class Look:
    """form: one of FORMS; the rest CSS colours."""

    form: str = "round"
    skin: str = "#e3c3a5"
    trim: str = "#2f4a57"
    lip: str = "#b8705a"

    @property
    def palette(self) -> Palette:
        """The mouth's colours on this face."""
        return Palette(lip=self.lip)


def head(look: Look) -> str:
    """The head without its mouth, as an SVG group."""
    return {"long": _long, "box": _box}.get(look.form, _round)(look)


def face_svg(look: Look, place: Articulation, background: str | None = None) -> str:
    """A whole SVG document: the built-in face with the mouth at this place."""
    return on_face(built_in_face(look), mouth(place, "m", look.palette), background)


@dataclass(frozen=True)
class Face:
    """What a mouth is shown on, in the units of VIEW. behind, before: SVG under the mouth and over it; x, y: where the
    mouth's anchor lies; size: how large a mouth is drawn; turn: degrees."""

    behind: str = ""
    before: str = ""
    x: float = 0.0
    y: float = 0.0
    size: float = 1.0
    turn: float = 0.0

    @property
    def mouth_transform(self) -> str:
        """Where mouths are drawn, as an SVG transform."""
        turned = f" rotate({self.turn:.2f})" if self.turn else ""
        return f"translate({self.x:.2f} {self.y:.2f}){turned} scale({self.size:.4f})"


def built_in_face(look: Look) -> Face:
    """The simple face of a look."""
    return Face(head(look), size=MOUTH_SCALE)


def on_face(face: Face, markup: str, background: str | None = None) -> str:
    """A whole SVG document: a face with a mouth, drawn on its anchor."""
    left, top, width, height = VIEW
    ground = f'<rect x="{left}" y="{top}" width="{width}" height="{height}" fill="{background}"/>' if background else ""
    mouth_group = f'<g transform="{face.mouth_transform}">{markup}</g>'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{left} {top} {width} {height}" width="{width}" '
        f'height="{height}">{ground}{face.behind}{mouth_group}{face.before}</svg>'
    )


def _eyes(y: float, apart: float) -> str:
    return "".join(
        f'<ellipse cx="{side * apart}" cy="{y}" rx="7" ry="9.5" fill="#22302f"/>'
        f'<path d="M{side * (apart - 17)} {y - 24}Q{side * apart} {y - 33} {side * (apart + 17)} {y - 22}" fill="none" '
        f'stroke="#22302f" stroke-width="4.5" stroke-linecap="round"/>'
        for side in (-1, 1)
    )


def _round(look: Look) -> str:
    """A broad head under a captain's cap."""
    return (
        '<g stroke="#22302f" stroke-width="3" stroke-linejoin="round">'
        f'<path d="M-112 -92C-118 30 -82 116 0 118C82 116 118 30 112 -92Z" fill="{look.skin}"/>'
        f'<path d="M-118 -108C-70 -136 70 -136 118 -108L116 -76C66 -100 -66 -100 -116 -76Z" fill="#22302f"/>'
        f'<path d="M-126 -112C-140 -176 -70 -198 0 -198C70 -198 140 -176 126 -112C70 -140 -70 -140 -126 -112Z" '
        f'fill="{look.trim}"/>'
        '<circle cx="0" cy="-150" r="10" fill="#f4f1ea"/></g>'
        f'{_eyes(-58, 46)}<path d="M-2 -50C-14 -34 -14 -28 2 -28" fill="none" stroke="#22302f" stroke-width="3.5" '
        'stroke-linecap="round"/>'
    )


def _long(look: Look) -> str:
    """A long head with a knitted hat and side whiskers."""
    return (
        '<g stroke="#22302f" stroke-width="3" stroke-linejoin="round">'
        f'<path d="M-88 -104C-94 10 -74 132 0 134C74 132 94 10 88 -104Z" fill="{look.skin}"/>'
        f'<path d="M-94 -40C-96 30 -78 78 -62 92C-70 50 -78 -2 -80 -44Z" fill="{look.trim}"/>'
        f'<path d="M94 -40C96 30 78 78 62 92C70 50 78 -2 80 -44Z" fill="{look.trim}"/>'
        f'<path d="M-98 -96C-104 -176 -56 -202 0 -202C56 -202 104 -176 98 -96Z" fill="{look.trim}"/>'
        '<path d="M-102 -112H102V-86H-102Z" fill="#f4f1ea"/></g>'
        f'{_eyes(-56, 38)}<path d="M-4 -56C-18 -34 -14 -24 4 -26" fill="none" stroke="#22302f" stroke-width="3.5" '
        'stroke-linecap="round"/>'
    )


def _box(look: Look) -> str:
    """A ticket machine: a cabinet with two lamps, a slot and a screen to speak from."""
    return (
        '<g stroke="#22302f" stroke-width="3" stroke-linejoin="round">'
        f'<rect x="-118" y="-186" width="236" height="324" rx="14" fill="{look.trim}"/>'
        f'<rect x="-98" y="-66" width="196" height="178" rx="10" fill="{look.skin}"/>'
        '<rect x="-60" y="-172" width="120" height="14" rx="5" fill="#22302f"/>'
        '<path d="M-40 -165H40V-146L32 -152L24 -146L16 -152L8 -146L0 -152L-8 -146L-16 -152L-24 -146L-32 -152L-40 '
        '-146Z" fill="#f4f1ea" stroke-width="2"/>'
        '<circle cx="-48" cy="-108" r="23" fill="#f4f1ea"/><circle cx="48" cy="-108" r="23" fill="#f4f1ea"/></g>'
        '<circle cx="-44" cy="-106" r="9" fill="#22302f"/><circle cx="52" cy="-106" r="9" fill="#22302f"/>'
    )
