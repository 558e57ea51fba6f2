"""Characters at rest, as they are seen on the shelf and in a cast: their own faces and mouths."""

from collections.abc import Iterable

from tinfork.core.mouths.chart import distance
from tinfork.core.mouths.draw import styled
from tinfork.core.mouths.face import Face as DrawnFace
from tinfork.core.mouths.face import built_in_face, on_face
from tinfork.core.mouths.heads import mouth_style
from tinfork.core.mouths.shapes import SHAPES
from tinfork.web.charts.models import ChartDrawing, Worn
from tinfork.web.charts.showing import small_url
from tinfork.web.productions.models import Character

from .models import Face, FaceLayer, shown_face

_REST = SHAPES["rest"].place


def portraits(characters: Iterable[Character]) -> dict[int, str]:
    """Return each character's face as an SVG document, by their numbers; in as many questions to the database whatever
    their number."""
    known = list(characters)
    faces = {face.character_id: face for face in Face.objects.filter(character__in=known)}
    layers: dict[int, list[FaceLayer]] = {}
    for layer in FaceLayer.objects.filter(face__in=faces.values()):
        layers.setdefault(layer.face_id, []).append(layer)
    worn = {one.character_id: one for one in Worn.objects.filter(character__in=known, chart__removed=None)}
    drawings: dict[int, list[ChartDrawing]] = {}
    own = ChartDrawing.objects.filter(chart__in={one.chart_id for one in worn.values()}).select_related("chart")
    for drawing in own.defer(*ChartDrawing.LARGE):
        drawings.setdefault(drawing.chart_id, []).append(drawing)
    found = {}
    for character in known:
        one, face = worn.get(character.pk), faces.get(character.pk)
        shown = shown_face(character, face, layers.get(face.pk, [])) if face else built_in_face(character.look)
        found[character.pk] = _at_rest(character, shown, one, drawings)
    return found


def _at_rest(character: Character, face: DrawnFace, worn: Worn | None, drawings: dict[int, list[ChartDrawing]]) -> str:
    own = drawings.get(worn.chart_id, []) if worn else []
    if not worn or not own:
        return on_face(face, styled(_REST, f"rest-{character.pk}", mouth_style(character.look)))
    in_mood = [drawing for drawing in own if drawing.mood == worn.mood] or own
    drawing = min(in_mood, key=lambda d: distance(d.articulation, _REST))
    return on_face(DrawnFace() if drawing.chart.is_heads else face, drawing.markup(small_url(drawing)))
