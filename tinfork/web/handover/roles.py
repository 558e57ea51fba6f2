"""Everybody of a scene as the core takes them: what they do, and how they are drawn."""

import base64
from dataclasses import replace

from tinfork.core.acting.lanes import PlacedLane
from tinfork.core.exposure.ranges import Bend
from tinfork.core.exposure.track import NOTHING
from tinfork.core.exposure.verbs import alike_as_one
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.shot.shot import Beat, Role
from tinfork.web.acting.document import moments_of
from tinfork.web.acting.models import Acting
from tinfork.web.acting.staging import Stage
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.faces.models import FaceLayer
from tinfork.web.productions.models import Scene
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import Mouths, NamedDrawing, mouths_of
from tinfork.web.staves.placing import Placed
from tinfork.web.staves.planning import scene_reading
from tinfork.web.staves.seeing import seen_throughout


def staves_of(scene: Scene) -> list[Stave]:
    """Return the staves of a scene whose mouths do anything."""
    return [one for one in scene.staves.select_related("character", "scene__production") if one.has_mouths]


def role_of(placed: Placed) -> Role:
    """Return what a stave's character does, planned to the end, with each drawing that is used as it is seen."""
    stave = placed.stave
    own, found = mouths_of(stave), seen_throughout(placed)
    used = {(one.exposure.drawing, one.bend) for one in found}
    drawn = {bend.named(name): _bent(own, name, bend) for name, bend in used}
    named = tuple(replace(one.exposure, drawing=one.bend.named(one.exposure.drawing)) for one in found)
    exposures = alike_as_one(named, [e.drawing for e in named], decided=True)
    bent = (Drawing(bend.named(name), own.place_of(name)) for name, bend in used if bend.transform and name)
    reading = scene_reading(stave) or stave.reading_with(())
    eases = {frame: one.ease for span, one in placed.eases for frame in span}
    chart, face = Chart((*own.chart.drawings, *bent)), own.face(_embedded)
    lanes, beats = acted(stave)
    return Role(stave.character.name, exposures, chart, drawn, reading, face, eases, lanes, beats)


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


def _bent(own: Mouths, name: str, bend: Bend) -> str:
    """A drawing on its anchor, stretched and bent, as SVG; "" for nothing."""
    if name == NOTHING:
        return ""
    one = own.names[name]
    svg = own.markup(one, "m", _picture_of(one))
    return f'<g transform="{bend.transform}">{svg}</g>' if bend.transform else svg


def _picture_of(one: NamedDrawing) -> str:
    """The address of a drawing's picture; "" for one of ours."""
    return "" if one.drawing is None else _embedded(one.drawing)


def _embedded(drawing: ChartDrawing | FaceLayer) -> str:
    """A picture inside the address that stands for it."""
    return f"data:image/png;base64,{base64.b64encode(drawing.data).decode()}"
