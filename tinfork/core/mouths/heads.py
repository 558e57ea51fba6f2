"""Heads of ours, a dozen builds, as parts that move and pieces that lie somewhere on a head that turns."""

from .builds import BUILDS, INK, Build, FaceStyle
from .draw import Style
from .parts import HALF, HEAD, MOUTH, SHUT, Part, PicturePiece, Relief

_WHITE = f'fill="#fbfaf5" stroke="{INK}" stroke-width="2.5"'

FORMS = tuple(BUILDS)

COMMON = tuple(form for form in FORMS if form not in ("round", "box"))
"""Those that a new character may be given unasked: nobody is made a captain, or a machine, by chance."""

_MOUTHS = {"child": (0.0, 1.5), "beard": (0.8, 1.0), "elder": (0.7, 1.0), "goat": (0.0, 1.7), "bald": (0.8, 1.0)}
"""How thick the lips of some are, and how heavy their lines, against those of others."""


def mouth_style(look: FaceStyle) -> Style:
    """Return how the mouths of a face of ours are drawn."""
    lips, line = _MOUTHS.get(look.form, (1.0, 1.0))
    return Style(look.palette, lips, line)


def parts_of_build(look: FaceStyle) -> tuple[Part, ...]:
    """Return the parts of a face of ours."""
    apart, y, _ = _build(look).eyes
    return (
        Part(HEAD, 0.0, 96.0, role="head"),
        Part("eyes", 0.0, y, HEAD, role="eyes"),
        Part("lids", 0.0, y, HEAD, role="lids", drawings=(HALF, SHUT)),
        Part("left brow", -apart, y - 28.0, HEAD, role="left brow"),
        Part("right brow", apart, y - 28.0, HEAD, role="right brow"),
        Part(MOUTH, on=HEAD),
    )


def pieces_of_build(look: FaceStyle) -> tuple[PicturePiece, ...]:
    """Return what is drawn of a face of ours, the lowest first, with the mouth's place among it."""
    build = _build(look)
    apart, y, radius = build.eyes
    found = [PicturePiece(HEAD, markup, None, relief) for markup, relief in build.under(look)]
    sides = [(side, Relief(side * apart, build.deep)) for side in (-1, 1)]
    for side, relief in sides:
        found.append(PicturePiece(HEAD, f'<circle cx="{side * apart}" cy="{y}" r="{radius}" {_WHITE}/>', None, relief))
    for side, relief in sides:
        pupil = f'<circle cx="{side * apart}" cy="{y}" r="{build.pupil}" fill="{INK}"/>'
        found.append(PicturePiece("eyes", pupil, None, relief))
    lid = getattr(look, build.lid)
    for drawing in (HALF, SHUT):
        for side, relief in sides:
            found.append(PicturePiece("lids", _lid(drawing, side * apart, y, radius + 1.2, lid), drawing, relief))
    found += [PicturePiece(HEAD, markup, None, lies) for markup, lies in build.over(look)]
    if build.brow[0]:
        for name, (side, relief) in zip(("left brow", "right brow"), sides, strict=True):
            found.append(PicturePiece(name, _brow(side, build, look.skin), None, relief))
    found.append(PicturePiece(MOUTH, "", None, Relief(0.0, build.deep - 4.0)))
    return tuple(found)


def _build(look: FaceStyle) -> Build:
    return BUILDS.get(look.form, BUILDS["round"])


def _brow(side: int, build: Build, skin: str) -> str:
    """A brow edged with skin, so that it is seen in front of a cap when it is raised."""
    (apart, y, _), (over, heavy) = build.eyes, build.brow
    x = side * apart
    line = f'd="M{x - side * 18} {y - over + 3}Q{x} {y - over - 7} {x + side * 17} {y - over + 2}" fill="none"'
    strokes = ((skin, heavy + 4), (INK, heavy))
    return "".join(f'<path {line} stroke="{ink}" stroke-width="{w:g}" stroke-linecap="round"/>' for ink, w in strokes)


def _lid(drawing: str, x: float, y: float, r: float, fill: str) -> str:
    """What covers an eye, with its edge as the lashes."""
    line = f'stroke="{INK}" stroke-width="3" stroke-linecap="round"'
    if drawing == HALF:
        return f'<path d="M{x - r} {y}A{r} {r} 0 0 1 {x + r} {y}Z" fill="{fill}" {line}/>'
    low = y + r * 0.45
    lash = f'<path d="M{x - r} {low}Q{x} {low + r * 0.6} {x + r} {low}" fill="none" {line}/>'
    return f'<circle cx="{x}" cy="{y}" r="{r}" fill="{fill}"/>{lash}'
