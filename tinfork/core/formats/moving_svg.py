"""A shot as one SVG that moves by itself (SVG 1.1 with its animation elements, SMIL), over and over."""

import re
from pathlib import Path
from xml.sax.saxutils import escape, quoteattr

from ..mouths.draw import BOX
from ..mouths.face import VIEW
from ..mouths.parts import MOUTH
from ..shot.flowing import flowing
from ..shot.shot import Plate, Role, Shot, plates
from ..shot.stage import Look, side_by_side
from ..timebase import frame_time
from .rig import PartTrack, chain, is_always_seen, rows, turns, visible


def write(path: Path, shot: Shot, look: Look) -> None:
    """One .svg file with everything in it; what is drawn stays lines and surfaces."""
    spots = side_by_side(shot.roles, look) | dict(look.spots)
    size = f'viewBox="0 0 {look.width} {look.height}" width="{look.width}" height="{look.height}"'
    parts = [f'<svg xmlns="http://www.w3.org/2000/svg" {size}>', f"<title>{escape(shot.name)}</title>"]
    if look.background:
        parts.append(f'<rect width="100%" height="100%" fill={quoteattr(look.background)}/>')
    for number, role in enumerate(map(flowing, shot.roles)):
        spot, view = spots[role.name], BOX if look.mouth else VIEW
        scale = spot.height * look.height / view[3]
        if look.mouth:
            scale = min(scale, look.width / view[2])
        x = spot.x * look.height - scale * (view[0] + view[2] / 2)
        y = spot.y * look.height - scale * (view[1] + view[3] / 2)
        parts.append(
            f'<g transform="translate({x:.2f} {y:.2f}) scale({scale:.4f})">{_role(role, shot, look, number)}</g>'
        )
    parts.append("</svg>")
    path.write_text("".join(parts), encoding="utf-8")


def _role(role: Role, shot: Shot, look: Look, number: int) -> str:
    own = plates(role)
    drawn = "".join(_drawing(name, role, own, shot, f"r{number}d{at}") for at, name in enumerate(role.drawings))
    eased = "".join(_eased(plate, role, shot, number) for plate in own if plate.shares)
    if look.mouth:
        return drawn + eased
    face = role.face
    if role.acts:
        return _acted(role, f'<g transform="{face.mouth_transform}">{drawn}{eased}</g>', shot, number)
    behind, before = (_unique(part, f"r{number}f{at}") for at, part in enumerate((face.behind, face.before)))
    return f'{behind}<g transform="{face.mouth_transform}">{drawn}{eased}</g>{before}'


def _acted(role: Role, mouths: str, shot: Shot, number: int) -> str:
    """A face whose parts move: each piece in groups that do what its part does, and what that hangs on."""
    found = []
    for at, piece in enumerate(role.face.pieces):
        drawn = mouths if piece.part == MOUTH else _unique(piece.markup, f"r{number}p{at}")
        spans = visible(role, piece)
        if not is_always_seen(piece):
            shown = {0: "none"} | {end: "none" for _, end in spans} | {first: "inline" for first, _ in spans}
            drawn = f'<g display="none">{drawn}{_animate("display", shown, shot)}</g>'
        for track in reversed(chain(role, piece)):
            drawn = _moved(track, drawn, shot)
        found.append(drawn)
    return "".join(found)


def _moved(track: PartTrack, drawn: str, shot: Shot) -> str:
    """Something drawn as a part moves it: nested groups, as an animated transform can only be of one kind."""
    back = f'<g transform="translate({-track.part.x:g} {-track.part.y:g})">{drawn}</g>'
    steps = [
        ("scale", (track.wide, track.tall), "1 1"),
        ("skewX", (-track.lean,), "0"),
        ("rotate", (track.turn,), "0"),
        ("translate", (track.x, track.y), f"{track.x[0]:.6g} {track.y[0]:.6g}"),
    ]
    for kind, values, still in steps:
        frames = turns(*values)
        shown = [" ".join(f"{value:.5g}" for value in row) for row in rows(*(own[frames] for own in values))]
        if shown == [still]:
            back = f'<g transform="{kind}({still})">{back}</g>' if kind == "translate" else back
        else:
            back = f"<g>{back}{_transformed(kind, frames, shown, shot)}</g>"
    return back


def _transformed(kind: str, frames: list[int], shown: list[str], shot: Shot) -> str:
    times = ";".join(f"{frame / shot.frames:.7f}" for frame in frames)
    return (
        f'<animateTransform attributeName="transform" type="{kind}" values="{";".join(shown)}" keyTimes="{times}" '
        f'dur="{frame_time(shot.frames, shot.rate):.6f}s" calcMode="discrete" repeatCount="indefinite"/>'
    )


def _drawing(name: str, role: Role, own: list[Plate], shot: Shot, ident: str) -> str:
    """A drawing that is seen whenever a plate of it is, and no longer eased in."""
    spans = [(p.first + len(p.shares), p.end) for p in own if p.drawing == name]
    values = {0: "none"} | {edge: shown for first, end in spans for edge, shown in ((end, "none"),)}
    values |= {first: "inline" for first, end in spans if first < end}
    return f'<g id="{ident}" display="none">{_unique(role.drawn[name], ident)}{_animate("display", values, shot)}</g>'


def _eased(plate: Plate, role: Role, shot: Shot, number: int) -> str:
    """A drawing over the one before it, as far as it is eased in."""
    ident, end = f"r{number}e{plate.first}", plate.first + len(plate.shares)
    shares = {0: "0"} | {plate.first + n: f"{share:.3f}" for n, share in enumerate(plate.shares)} | {end: "0"}
    shown = {0: "none", plate.first: "inline", end: "none"} if plate.first else {0: "inline", end: "none"}
    markup = _unique(role.drawn[plate.drawing], ident)
    return f'<g display="none">{markup}{_animate("display", shown, shot)}{_animate("opacity", shares, shot)}</g>'


def _animate(attribute: str, values: dict[int, str], shot: Shot) -> str:
    """An attribute that is another from each of some frames on."""
    frames = sorted(frame for frame in values if frame < shot.frames)
    times = ";".join(f"{frame / shot.frames:.7f}" for frame in frames)
    shown = ";".join(values[frame] for frame in frames)
    seconds = frame_time(shot.frames, shot.rate)
    return (
        f'<animate attributeName="{attribute}" values="{shown}" keyTimes="{times}" dur="{seconds:.6f}s" '
        'calcMode="discrete" repeatCount="indefinite"/>'
    )


def _unique(markup: str, ident: str) -> str:
    return re.sub(r'(\bid="|url\(#|href="#)([^")]+)', rf"\1{ident}-\2", markup)
