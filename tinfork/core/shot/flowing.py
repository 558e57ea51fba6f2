"""Mouths of ours that flow: where a seam is eased they are drawn between two places, and no two lie over each other.

Timing is that of the eased seams. A shut mouth is whole on all of its own frames: lips that only nearly meet are seen.
"""

from collections.abc import Iterator
from dataclasses import replace

from ..exposure.easing import Blend
from ..exposure.track import Exposure
from ..limits import MAX_EASE
from ..mouths.chart import Chart, Drawing
from ..mouths.draw import styled
from ..mouths.shapes import SHAPES, Articulation
from .shot import Role


def flowing(role: Role) -> Role:
    """Return a role whose eased seams are drawn, where the drawings on both sides are ours; as it is otherwise."""
    if role.style is None or not role.blends:
        return role
    places = {drawing.name: drawing.place for drawing in role.chart.drawings}
    ours = {name for name, svg in role.drawn.items() if name in places and svg == styled(places[name], "m", role.style)}
    mixed = {frame: one for frame, one in role.blends.items() if {one.before.drawing, one.after.drawing} <= ours}
    shut = shut_drawings(role)
    shares = {frame: share for frame, one in mixed.items() if (share := share_of(one, shut))}
    exposures = [piece for e in role.exposures for piece in _pieces(e, {f: _called(mixed[f]) for f in shares})]
    drawn = {
        _called(mixed[frame]): _between(places[mixed[frame].before.drawing], places[mixed[frame].after.drawing], share)
        for frame, share in shares.items()
    }
    seams = {one.after.frame for one in mixed.values()}
    return replace(
        role,
        exposures=tuple(exposures),
        chart=Chart((*role.chart.drawings, *(Drawing(name, place) for name, place in drawn.items()))),
        drawn=dict(role.drawn) | {name: styled(place, "m", role.style) for name, place in drawn.items()},
        eases={frame: ease for frame, ease in role.eases.items() if frame not in seams},
    )


def continuous(role: Role) -> list[Articulation]:
    """Return where a role's mouth is on each frame if it moves all through: in the middle of an exposure where its
    drawing is, on the way to the next in between, as far as the shorter of both lasts, and shut as long as it is
    shut. Where nothing is drawn it rests."""
    frames = role.exposures[-1].end
    places = {drawing.name: drawing.place for drawing in role.chart.drawings}
    shut = shut_drawings(role)
    rest = SHAPES["rest"].place
    found = [places.get(one.drawing, rest) for one in role.on_each_frame()]
    for frame, one in replace(role, eases=dict.fromkeys(range(frames), MAX_EASE)).blends.items():
        if share := share_of(one, shut):
            before, after = (places.get(own.drawing, rest) for own in (one.before, one.after))
            found[frame] = _between(before, after, share)
    return found


def shut_drawings(role: Role) -> set[str]:
    """Return the names of the drawings in which a mouth is shut."""
    return {role.chart.drawings[row].name for row in role.chart.shut()}


def share_of(blend: Blend, shut: set[str]) -> float:
    """Return how far a mouth is on its way; 0 where the exposure a frame is of is shut, and whole."""
    own = blend.after if blend.frame >= blend.after.frame else blend.before
    return 0.0 if own.drawing in shut else blend.weight


def _called(blend: Blend) -> str:
    return f"{blend.before.drawing} to {blend.after.drawing}, {round(100 * blend.weight)}%"


def _between(one: Articulation, other: Articulation, share: float) -> Articulation:
    return tuple(a + share * (b - a) for a, b in zip(one, other, strict=True))


def _pieces(own: Exposure, called: dict[int, str]) -> Iterator[Exposure]:
    """An exposure, cut where it is on its way from the one before or to the next. called: by frames what is seen."""
    first = own.frame
    for frame in range(own.frame, own.end):
        if frame in called:
            if frame > first:
                yield replace(own, frame=first, frames=frame - first)
            yield replace(own, frame=frame, frames=1, drawing=called[frame])
            first = frame + 1
    if own.end > first:
        yield replace(own, frame=first, frames=own.end - first)
