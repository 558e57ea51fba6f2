"""Mouths drawn from their articulators, as SVG: two lips, teeth and tongue clipped to the opening.

The anchor is (0, 0), the middle of the line where the relaxed lips meet. x grows to the right, y down. Every mouth
fits the box BOX, so drawings laid on their anchor stay in place on the face. The skull does not move: upper lip and
upper teeth stay almost where they are, and the opening grows downwards with the jaw, its corners drawn down and in.
"""

import math
from dataclasses import dataclass, replace

from .shapes import ARTICULATORS, Articulation

BOX = (-90, -60, 180, 150)
"""Left, top, width and height that hold any mouth."""


@dataclass(frozen=True)
class Palette:
    """Fill colours of a mouth, as CSS colours."""

    ink: str = "#22302f"
    lip: str = "#b8705a"
    inside: str = "#4a1f2b"
    teeth: str = "#fbf8f0"
    tongue: str = "#b5566a"


@dataclass(frozen=True)
class Style:
    """How mouths are drawn. palette: their colours; lips: how thick, against ours, 0 for none; line: how heavy its ink
    is, against ours; filled: whether in colours or in lines alone; teeth: whether they are shown; corners: how far its
    corners are up, 1, or down, -1; turned: seen from the side a little, 0 to 1."""

    palette: Palette = Palette()
    lips: float = 1.0
    line: float = 1.0
    filled: bool = True
    teeth: bool = True
    corners: float = 0.0
    turned: float = 0.0


STYLES = {
    "plank": Style(),
    "rope": Style(lips=0.0, line=1.9, filled=False),
    "paper": Style(Palette(ink="none", lip="#c2543f", inside="#3a1a22", tongue="#d98c8c"), lips=1.5),
    "tar": Style(Palette(inside="#22302f", tongue="#7d8a8c"), lips=0.0, line=1.5),
}
"""Four ways to draw a chart."""


@dataclass(frozen=True)
class _Form:
    """A mouth's measures: half width, how far the opening goes up and down, lip thickness, fullness of the corners, how
    far down the corners are, and how much of that is mood."""

    half: float
    up: float
    down: float
    upper_lip: float
    lower_lip: float
    full: float
    lift: float
    smile: float


def _form(a: dict[str, float], style: Style) -> _Form:
    opening = 66.0 * a["jaw"]
    thin = 1.0 - 0.4 * _rolled(a)
    stretched = max(0.0, a["width"] - 0.7) / 0.3
    smile = 8.0 * style.corners * (1.0 - 0.6 * a["rounding"]) * (1.0 - 0.5 * _rolled(a)) * (1.0 - 0.4 * stretched)
    return _Form(
        half=(20.0 + 44.0 * a["width"]) * (1.0 - 0.42 * a["rounding"]) * (1.0 - 0.1 * a["jaw"]),
        up=0.06 * opening,
        down=0.94 * opening,
        upper_lip=(7.0 + 3.5 * a["rounding"]) * thin * style.lips,
        lower_lip=(9.5 + 4.0 * a["rounding"]) * thin * style.lips,
        full=0.5 + 0.5 * max(a["rounding"], 0.6 * a["jaw"]),
        lift=0.16 * opening - 5.0 * max(0.0, a["width"] - 0.6) / 0.4 - smile,
        smile=smile,
    )


def mouth_width(place: Articulation) -> float:
    """Return how wide the mouth at a place is, in units, without its lips."""
    return 2 * _form(dict(zip(ARTICULATORS, place, strict=True)), Style()).half


def rings(place: Articulation, count: int) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
    """Return the opening of the mouth at a place and the outside of its lips, as so many points each, from its right
    corner on and down; x to the right, y down."""
    form = _form(dict(zip(ARTICULATORS, place, strict=True)), Style())
    inner, outer = [], []
    for k in range(count):
        turn = 2 * math.pi * k / count
        across, down = math.cos(turn), math.sin(turn)
        corner = form.lift * abs(across) ** 3
        inner.append((form.half * across, (form.down if down > 0 else form.up) * down + corner))
        lip = form.lower_lip if down > 0 else form.upper_lip
        outer.append(
            (form.half * across * 1.1 + 3 * across, ((form.down if down > 0 else form.up) + lip) * down + corner)
        )
    return inner, outer


def _rolled(a: dict[str, float]) -> float:
    """How far the lips are rolled in, 0 to 1: not at all in a mouth at rest."""
    return float(min(1.0, max(0.0, (a["press"] - 0.3) / 0.7)))


def mouth(place: Articulation, ident: str, palette: Palette | None = None) -> str:
    """Return an SVG group of the mouth at a place, as the built-in faces have it. ident makes the ids inside it unique
    in its document."""
    return styled(place, ident, Style(palette or Palette()))


def styled(place: Articulation, ident: str, style: Style) -> str:
    """Return an SVG group of the mouth at a place in a style. ident makes the ids inside it unique in its document."""
    colours = style.palette if style.filled else _lines_alone(style.palette)
    a = dict(zip(ARTICULATORS, place, strict=True))
    form = _form(a, style)
    opening = _contour(form, 0.0, 0.0)
    parts = []
    if style.lips:
        parts.append(
            f'<path d="{_contour(form, form.upper_lip, form.lower_lip)}" fill="{colours.lip}" '
            f'stroke="{colours.ink}" stroke-width="{2.5 * style.line:.1f}" stroke-linejoin="round"/>'
        )
    if form.up + form.down > 4.0:
        parts.append(f'<clipPath id="{ident}-in"><path d="{opening}"/></clipPath>')
        parts.append(f'<path d="{opening}" fill="{colours.inside}"/>')
        parts.append(f'<g clip-path="url(#{ident}-in)">{_inside(a, form, colours, style)}</g>')
        heavy = 2 * style.line * (1.0 if style.lips else 1.6)
        parts.append(f'<path d="{opening}" fill="none" stroke="{colours.ink}" stroke-width="{heavy:.1f}"/>')
    else:
        weight = style.line if colours.ink != "none" else 0.5 * style.line
        pressed = 0.6 if style.lips else 2.0
        parts.append(_seam(form, a, replace(colours, ink=_seam_ink(style)), weight, pressed))
    if a["tuck"] > 0.3:
        parts.append(_bitten_lip(form, colours, style.line))
    turned = (
        f' transform="matrix({1 - 0.2 * style.turned:.3f} {0.03 * style.turned:.3f} 0 1 0 0)"' if style.turned else ""
    )
    return f'<g class="mouth"{turned}>{"".join(parts)}</g>'


_PAPER, _PAPER_SHADE = "#f4f1ea", "#e0d8c9"
"""What a mouth of lines alone is filled with, so that no skin is seen in it."""


def _lines_alone(palette: Palette) -> Palette:
    return replace(palette, lip="none", inside=_PAPER, tongue=_PAPER_SHADE)


def _seam_ink(style: Style) -> str:
    """A seam is seen where outlines are not drawn, too."""
    return style.palette.inside if style.palette.ink == "none" else style.palette.ink


def mouth_svg(place: Articulation, palette: Palette | None = None) -> str:
    """Return a whole SVG document of the mouth on a transparent ground, the anchor at the same spot for every place."""
    return alone(mouth(place, "m", palette))


def alone(markup: str) -> str:
    """Return a mouth on its anchor as a whole SVG document on a transparent ground."""
    left, top, width, height = BOX
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{left} {top} {width} {height}" '
        f'width="{width}" height="{height}">{markup}</svg>'
    )


def _contour(form: _Form, upper: float, lower: float) -> str:
    """A closed lip line: corner to corner over the top, back under the bottom. upper, lower: how far outside."""
    half = form.half + min(upper, lower) * 0.55
    top, bottom, corner = -(form.up + upper), form.down + lower, form.lift
    reach = half * (0.38 + 0.2 * form.full)
    rise_up, rise_down = (top - corner) * form.full * 0.62, (bottom - corner) * form.full * 0.62
    bow = 1.6 if upper else 0.0
    return (
        f"M{-half:.1f} {corner:.1f}"
        f"C{-half:.1f} {corner + rise_up:.1f} {-reach:.1f} {top:.1f} {-half * 0.12:.1f} {top:.1f}"
        f"Q0 {top + bow:.1f} {half * 0.12:.1f} {top:.1f}"
        f"C{reach:.1f} {top:.1f} {half:.1f} {corner + rise_up:.1f} {half:.1f} {corner:.1f}"
        f"C{half:.1f} {corner + rise_down:.1f} {reach:.1f} {bottom:.1f} 0 {bottom:.1f}"
        f"C{-reach:.1f} {bottom:.1f} {-half:.1f} {corner + rise_down:.1f} {-half:.1f} {corner:.1f}Z"
    )


def _inside(a: dict[str, float], form: _Form, colours: Palette, style: Style) -> str:
    parts = []
    height = form.up + form.down
    if a["tongue"] > 0.05:
        top = form.down - height * (0.15 + 0.45 * a["tongue"])
        parts.append(
            f'<ellipse cx="0" cy="{top + 30:.1f}" rx="{form.half * 0.62:.1f}" ry="30" fill="{colours.tongue}" '
            f'stroke="{colours.ink}" stroke-width="1.5"/>'
        )
    for amount, upper in ((a["upper_teeth"], True), (a["lower_teeth"], False)):
        if amount > 0.05 and style.teeth:
            parts.append(_teeth(amount, upper, form, height, colours))
    if a["tongue"] > 0.9:
        parts.append(
            f'<ellipse cx="0" cy="{form.down - height * 0.36:.1f}" rx="{form.half * 0.42:.1f}" '
            f'ry="{max(4.5, height * 0.24):.1f}" fill="{colours.tongue}" stroke="{colours.ink}" stroke-width="1.5"/>'
        )
    return "".join(parts)


def _teeth(amount: float, upper: bool, form: _Form, height: float, colours: Palette) -> str:
    """A row of teeth: the upper one hangs from the skull, the lower one moves with the jaw."""
    if upper:
        half, y = form.half * 0.86, -form.up - 6
        tall = min(14.0 * amount - 2.0, 0.52 * height - form.up) - y
    else:
        deep = min(10.0 * amount, 0.46 * height)
        half, y, tall = form.half * 0.74, form.down - deep, deep + 6
    return (
        f'<rect x="{-half:.1f}" y="{y:.1f}" width="{2 * half:.1f}" height="{max(0.0, tall):.1f}" rx="4" '
        f'fill="{colours.teeth}" stroke="{colours.ink}" stroke-width="1.2"/>'
    )


def _seam(form: _Form, a: dict[str, float], colours: Palette, line: float, pressed: float) -> str:
    """The line where shut lips meet: soft at rest; pressed, it is straight between two dimples, and so much heavier as
    asked: lips that are seen are pressed flat themselves."""
    rolled = _rolled(a)
    half, dip = form.half * (0.94 + 0.1 * rolled), 5.0 * (1.0 - rolled)
    heavy = line * (2.0 + pressed * rolled)
    parts = [
        f'<path d="M{-half:.1f} {form.lift:.1f}Q0 {form.lift + dip + 2 * form.smile:.1f} {half:.1f} {form.lift:.1f}" '
        f'fill="none" stroke="{colours.ink}" stroke-width="{heavy:.1f}" stroke-linecap="round"/>'
    ]
    if rolled > 0.3:
        for side in (-1, 1):
            x = side * (half + 6)
            parts.append(
                f'<path d="M{x:.1f} {form.lift - 9:.1f}q{side * 5} 9 0 18" '
                f'fill="none" stroke="{colours.ink}" stroke-width="2.5" stroke-linecap="round"/>'
            )
        parts.append(
            f'<path d="M-11 {form.lift + 19:.1f}Q0 {form.lift + 14:.1f} 11 {form.lift + 19:.1f}" fill="none" '
            f'stroke="{colours.ink}" stroke-width="2" stroke-linecap="round"/>'
        )
    return "".join(parts)


def _bitten_lip(form: _Form, colours: Palette, line: float) -> str:
    """The edge of the upper teeth resting on the lower lip."""
    half = form.half * 0.62
    return (
        f'<rect x="{-half:.1f}" y="{-form.up - 1:.1f}" width="{2 * half:.1f}" height="9" rx="3.5" '
        f'fill="{colours.teeth}" stroke="{colours.ink}" stroke-width="{1.8 * line:.1f}"/>'
    )
