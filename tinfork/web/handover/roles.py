"""Everybody of a scene as the core takes them: what they do, and how they are drawn."""

import base64
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from operator import itemgetter

from tinfork.core.acting.lanes import PlacedLane
from tinfork.core.exposure.ranges import Bend
from tinfork.core.exposure.track import NOTHING, Exposure
from tinfork.core.exposure.verbs import alike_as_one
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.mouths.face import Face
from tinfork.core.mouths.heads import mouth_style
from tinfork.core.mouths.parts import FACING, HEAD
from tinfork.core.mouths.views import FRONT
from tinfork.core.shot.shot import Beat, Role
from tinfork.web.acting.document import moments_of
from tinfork.web.acting.models import Acting
from tinfork.web.acting.staging import Stage
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.faces.models import FaceLayer
from tinfork.web.productions.models import Scene
from tinfork.web.staves.flowing import with_drawings_between
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import Mouths, NamedDrawing, mouths_of
from tinfork.web.staves.placing import Placed
from tinfork.web.staves.planning import scene_reading
from tinfork.web.staves.seeing import Seen, seen_throughout


def staves_of(scene: Scene) -> list[Stave]:
    """Return the staves of a scene of those who are seen in it."""
    return [one for one in scene.staves.select_related("character", "scene__production") if one.is_seen]


def role_of(placed: Placed) -> Role:
    """Return what a stave's character does, planned to the end, with each drawing that is used as it is seen."""
    stave = placed.stave
    own, (lanes, beats) = mouths_of(stave), acted(stave)
    face = own.face(_embedded)
    whole = with_drawings_between(placed, seen_throughout(placed), own)
    found = moving(in_views(whole, own, views_on(face, lanes.get(HEAD), placed.frames)), own)
    named = tuple(replace(one.exposure, drawing=one.name) for one in found)
    exposures = alike_as_one(named, [e.drawing for e in named], decided=True)
    drawn = {one.name: _drawn(own, one) for one in {one.name: one for one in found}.values()}
    known = set(own.names)
    more = (Drawing(one.name, own.place_of(one.drawing)) for one in found if one.drawing and one.name not in known)
    chart = Chart((*own.chart.drawings, *dict.fromkeys(more)))
    reading = scene_reading(stave) or stave.reading_with(())
    eases = {frame: 0 if one.drawn else one.ease for span, one in placed.eases for frame in span}
    style = mouth_style(stave.character.look) if any(one.drawing is None for one in own.shown) else None
    return Role(stave.character.name, exposures, chart, drawn, reading, face, eases, lanes, beats, style)


@dataclass(frozen=True)
class InView:
    """An exposure, or as much of it as one view is shown. drawing: the one that is shown in the view; mirrored: whether
    as in a mirror; bend: how it is stretched; picture: which of its own, of a drawing that moves."""

    exposure: Exposure
    drawing: str
    bend: Bend
    mirrored: bool = False
    picture: int = 0

    @property
    def name(self) -> str:
        """What it is called in what is handed over."""
        which = f", picture {self.picture + 1}" if self.picture else ""
        return f"{self.bend.named(self.drawing)}{which}{', mirrored' if self.mirrored else ''}"


def views_on(face: Face, head: PlacedLane | None, frames: int) -> list[tuple[int, int, str]]:
    """Return the view in which the mouths of a face are seen, from which frame to before which: the one its head
    shows, or else the one it faces to by its dial."""
    if head is None or not face.views:
        return [(0, frames, FRONT)]
    shown = [(one.frame, one.end, one.drawing) for one in head.track(FRONT)]
    if not face.slides or FACING not in head.dials:
        return shown
    facing = head.curve(FACING, range(frames)).round(4).tolist()
    each = ((n, face.mouths_view(view, facing[n])) for first, end, view in shown for n in range(first, end))
    runs = ((view, [n for n, _ in own]) for view, own in groupby(each, itemgetter(1)))
    return [(own[0], own[-1] + 1, view) for view, own in runs]


def in_views(found: Sequence[Seen], own: Mouths, views: Sequence[tuple[int, int, str]]) -> list[InView]:
    """Return what is seen, each cut where another view is shown, with the drawings of the views; when mouths change
    stays as it is."""
    if not own.views:
        return [InView(one.exposure, one.exposure.drawing, one.bend) for one in found]
    return [piece for one in found for piece in _cut_by_views(one, own, views)]


def _cut_by_views(one: Seen, own: Mouths, views: Sequence[tuple[int, int, str]]) -> list[InView]:
    """An exposure, cut where it is seen as another drawing."""
    cut: list[InView] = []
    for begins, ends, view in views:
        first, end = max(begins, one.exposure.frame), min(ends, one.exposure.end)
        if end <= first:
            continue
        shown = own.in_view(one.exposure.drawing, view)
        if cut and shown == (cut[-1].drawing, cut[-1].mirrored):
            first = cut.pop().exposure.frame
        cut.append(InView(replace(one.exposure, frame=first, frames=end - first), shown[0], one.bend, shown[1]))
    return cut


def acted(stave: Stave) -> tuple[dict[str, PlacedLane], tuple[Beat, ...]]:
    """Return what a stave's character does beside speaking, where its sounds lie now, and what is said of the
    phrases."""
    acting = Acting.objects.filter(scene=stave.scene, character=stave.character).first()
    if acting is None:
        return {}, ()
    acting.scene, acting.character = stave.scene, stave.character
    stage, notes = Stage(acting), acting.notes
    lanes = {part: stage.place(lane) for part, lane in acting.all_lanes().items()}
    moments = moments_of(stage)
    beats = (Beat(s.frame, s.end, notes[s.line].note, tuple(moments[s.line])) for s in stage.lines if s.line in notes)
    return lanes, tuple(beats)


def moving(found: Sequence[InView], own: Mouths) -> list[InView]:
    """Return what is seen, of drawings that move each of their pictures for itself."""
    cut = []
    for one in found:
        named = own.names.get(one.drawing)
        how = named.drawing.moving if named and named.drawing else None
        e = one.exposure
        for first, end, picture in how.runs(e.frame, e.end, e.frame) if how else [(e.frame, e.end, 0)]:
            cut.append(replace(one, exposure=replace(e, frame=first, frames=end - first), picture=picture))
    return cut


def _drawn(own: Mouths, one: InView) -> str:
    """A drawing on its anchor, stretched and bent, as SVG; "" for nothing."""
    if one.drawing == NOTHING:
        return ""
    named = own.names[one.drawing]
    svg = own.markup(named, "m", _picture_of(named, one.picture))
    transform = f"{one.bend.transform} scale(-1 1)".strip() if one.mirrored else one.bend.transform
    return f'<g transform="{transform}">{svg}</g>' if transform else svg


def _picture_of(one: NamedDrawing, picture: int) -> str:
    """The address of one of a drawing's pictures; "" for one of ours."""
    return "" if one.drawing is None else _embedded(one.drawing, picture)


def _embedded(drawing: ChartDrawing | FaceLayer, picture: int = 0) -> str:
    """One of its pictures, inside the address that stands for it."""
    return f"data:image/png;base64,{base64.b64encode(drawing.data_of(picture)).decode()}"
