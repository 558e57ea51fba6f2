"""What the page of a chart shows of it."""

from typing import Any

from django.urls import reverse

from tinfork.core.mouths.chart import coverage, shape_at
from tinfork.core.mouths.face import VIEW
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.shapes import LETTERS, SHAPES
from tinfork.web.productions.models import Production
from tinfork.web.productions.permissions import Person, may, number_of

from .models import ChartDrawing, MouthChart
from .moods import lacking, moods_of, set_of
from .pictures import key_of

_CELL = "-75 -45 150 140"
_HEAD_CELL = " ".join(str(side) for side in VIEW)
_BANDS = (0.12, 0.32, 2.0)
"""The rows of the mouth map: how far open the mouths of each are at the most."""

_SHUT = ("rest", "press")
"""What can be shown in silence."""

_FEWEST_TO_ASK = 2


def picture_url(drawing: ChartDrawing) -> str:
    """Where a drawing's picture is, under an address that changes with it."""
    return reverse("drawing-picture", args=[drawing.pk, drawing.picture_key])


def small_url(drawing: ChartDrawing) -> str:
    """Where a drawing's picture is at the size it is seen in on a screen."""
    return reverse("drawing-small", args=[drawing.pk, drawing.picture_key])


def further_urls(drawing: ChartDrawing) -> list[str]:
    """Where the pictures are that a drawing has beside its first."""
    return [reverse("drawing-further", args=[drawing.pk, at, key_of(name)]) for at, name in enumerate(drawing.also, 1)]


def cell_of(found: MouthChart) -> str:
    """What is seen of a drawing in its cell."""
    return _HEAD_CELL if found.is_heads else _CELL


def moods(drawings: list[ChartDrawing]) -> list[dict[str, Any]]:
    """The moods of a chart, each with its drawings and the neutral ones that stand in for what it lacks."""
    return [
        {
            "name": mood,
            "view": set_of(mood)[0],
            "drawings": [_cell(d) for d in drawings if d.mood == mood],
            "lacking": lacking(drawings, mood),
        }
        for mood in moods_of(drawings)
    ]


def mouth_map(found: MouthChart, drawings: list[ChartDrawing]) -> list[list[dict[str, Any]]]:
    """The thirteen shapes from closed to open, each row from wide to round, with the drawings that lie nearest to each,
    and what stands in where none does."""
    plan = found.planning()
    if plan is None:
        return []
    covered = {one.shape: one for one in coverage(plan)}
    own: dict[str, list[dict[str, Any]]] = {name: [] for name in SHAPES}
    for drawing in drawings:
        cell = _cell(drawing)
        if drawing.mood == NEUTRAL and not drawing.special:
            own[cell["shape"]].append(cell)
    bands: list[list[dict[str, Any]]] = [[] for _ in _BANDS]
    for shape in sorted(SHAPES.values(), key=lambda shape: shape.place[2] - shape.place[1]):
        band = next(row for row, top in enumerate(_BANDS) if shape.place[0] < top)
        letters, known = LETTERS[shape.name], own[shape.name]
        bands[band].append({"shape": shape, "letters": letters, "drawings": known, "covered": covered[shape.name]})
    return bands


def restless(drawings: list[ChartDrawing]) -> list[ChartDrawing]:
    """The drawings that mouths are planned with, the most closed first, where none of them has a mouth at rest."""
    own = [d for d in drawings if d.mood == NEUTRAL and not d.special]
    if len(own) < _FEWEST_TO_ASK or any(shape_at(d.articulation) in _SHUT for d in own):
        return []
    return sorted(own, key=lambda d: d.articulation[0])


def cast_of(person: Person, found: MouthChart) -> list[dict[str, Any]]:
    """Who may speak with a chart: for each production its cast, with what mood they wear it in; "" for not."""
    if found.production is not None:
        productions = [found.production]
    else:
        productions = list(Production.objects.filter(people=number_of(person)))
    moods = dict(found.worn_by.values_list("character_id", "mood"))
    return [
        {
            "production": production,
            "may_edit": may(person, production, "edit"),
            "people": [{"character": c, "mood": moods.get(c.pk, "")} for c in production.characters.all()],
        }
        for production in productions
    ]


def _cell(drawing: ChartDrawing) -> dict[str, Any]:
    shape, svg = shape_at(drawing.articulation), drawing.markup(small_url(drawing)).replace(" href=", " data-href=")
    return {"drawing": drawing, "shape": shape, "meaning": SHAPES[shape].meaning, "svg": svg}


def on_table(drawing: ChartDrawing) -> dict[str, Any]:
    """A drawing as the light table shows it, with where its picture lies."""
    return {
        "id": drawing.pk,
        "name": drawing.called,
        "href": picture_url(drawing),
        "change": reverse("drawing-change", args=[drawing.pk]),
        "width": drawing.width,
        "height": drawing.height,
        "x": drawing.x,
        "y": drawing.y,
        "scale": drawing.scale,
        "turn": drawing.turn,
    }
