import re
from dataclasses import replace
from typing import Any

from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.core.errors import ChartError, TinForkError
from tinfork.core.mouths import sheet
from tinfork.core.mouths.chart import coverage, shape_at
from tinfork.core.mouths.draw import STYLES, Style, styled
from tinfork.core.mouths.shapes import NAMES, SHAPES
from tinfork.web.cleaning import clean, natural
from tinfork.web.productions.permissions import check, may

from . import actions
from .models import ChartDrawing, MouthChart

_A_YEAR = "private, max-age=31536000, immutable"
_DIALS = {"line": "1", "corners": "0", "turned": "0"}
_SAMPLE = ("rest", "press", "tuck", "teeth", "half", "open", "round", "purse")
_NO_FIELDS = ("csrfmiddlewaretoken", "do")
_CELL = "-75 -45 150 140"


def picture_url(drawing: ChartDrawing) -> str:
    """Where a drawing's picture is, under an address that changes with it."""
    return reverse("drawing-picture", args=[drawing.pk, (drawing.picture.name or "").rpartition("/")[2][:16]])


def _chart(request: HttpRequest, pk: int, need: str = "see") -> MouthChart:
    found = get_object_or_404(MouthChart.everything.select_related("production"), pk=pk)
    check(request.user, found.production, need)
    return found


def _drawing(request: HttpRequest, pk: int, need: str = "see") -> ChartDrawing:
    found = get_object_or_404(ChartDrawing.everything.select_related("chart__production"), pk=pk)
    check(request.user, found.chart.production, need)
    return found


def chart(request: HttpRequest, pk: int) -> HttpResponse:
    """A chart: its drawings, what they cover, and who speaks with it."""
    return _page(request, _chart(request, pk))


def _page(request: HttpRequest, found: MouthChart, notes: list[str] | None = None, problem: str = "") -> HttpResponse:
    drawings = list(found.drawings.all())
    plan = found.planning()
    worn = {one.character_id for one in found.worn_by.all()}
    context = {
        "chart": found,
        "production": found.production,
        "moods": [
            {"name": mood, "drawings": [_cell(d) for d in drawings if d.mood == mood]}
            for mood in actions.moods_of(drawings)
        ],
        "coverage": [_covered(one) for one in coverage(plan)] if plan else [],
        "cast": [{"character": c, "wears": c.pk in worn} for c in found.production.characters.all()],
        "shapes": [SHAPES[name] for name in NAMES],
        "deleted": list(ChartDrawing.everything.filter(chart=found).exclude(removed=None)[:50]),
        "may_edit": may(request.user, found.production, "edit"),
        "styles": STYLES,
        "cell": _CELL,
        "table": [_on_table(d) for d in drawings],
        "notes": notes or [],
        "problem": problem,
    }
    return render(request, "charts/chart.html", context, status=422 if problem else 200)


def _cell(drawing: ChartDrawing) -> dict[str, Any]:
    shape, svg = shape_at(drawing.articulation), drawing.markup(picture_url(drawing))
    return {"drawing": drawing, "shape": shape, "meaning": SHAPES[shape].meaning, "svg": svg}


def _on_table(drawing: ChartDrawing) -> dict[str, Any]:
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


def _covered(one: Any) -> dict[str, Any]:
    return {"shape": one.shape, "meaning": SHAPES[one.shape].meaning, "drawing": one.drawing, "covered": one.covered,
            "distance": one.distance}  # fmt: skip


def _cut(how: str, columns: str, rows: str) -> actions.Cut | None:
    """How a sheet is to be cut; None when pictures are drawings."""
    if how == "gaps":
        return sheet.by_gaps
    if how == "grid":
        return lambda picture: sheet.by_grid(picture, natural(columns) or 0, natural(rows) or 0)
    return None


@require_POST
def bring(request: HttpRequest, pk: int) -> HttpResponse:
    """Pictures, or ZIPs of them, into a chart."""
    found = _chart(request, pk, "edit")
    try:
        cut = _cut(request.POST.get("cut", ""), request.POST.get("columns", ""), request.POST.get("rows", ""))
        notes = actions.bring_in(request.user, found, request.FILES.getlist("file"), cut)
    except TinForkError as refused:
        return _page(request, found, problem=str(refused))
    return _page(request, found, notes=notes) if notes else redirect(found)


def _style(asked: Any) -> Style:
    """The style a form asks for. ChartError when it asks for none."""
    named = STYLES.get(asked.get("style", ""))
    if named is None:
        raise ChartError("Choose one of the styles to draw in.")
    lip = asked.get("lip", "")
    palette = replace(named.palette, lip=lip) if re.fullmatch("#[0-9a-fA-F]{6}", lip) else named.palette
    try:
        line, corners, turned = (float(asked.get(name, known)) for name, known in _DIALS.items())
    except ValueError:
        raise ChartError("Set weight, corners and view by their dials.") from None
    if not (0.3 <= line <= 3 and -1 <= corners <= 1 and 0 <= turned <= 1):
        raise ChartError("Set weight, corners and view by their dials.")
    return replace(named, palette=palette, line=named.line * line, corners=corners, turned=turned)


def styles(request: HttpRequest) -> HttpResponse:
    """One mouth after another in the style a form asks for, as an SVG picture: what a chart drawn so looks like."""
    try:
        style = _style(request.GET)
    except ChartError as refused:
        return HttpResponse(str(refused), content_type="text/plain; charset=utf-8", status=422)
    cells = [
        f'<g transform="translate({150 * (at % 4)} {130 * (at // 4)})">{styled(SHAPES[name].place, name, style)}</g>'
        for at, name in enumerate(_SAMPLE)
    ]
    picture = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-75 -45 600 260">{"".join(cells)}</svg>'
    return HttpResponse(picture, content_type="image/svg+xml")


@require_POST
def change(request: HttpRequest, pk: int) -> HttpResponse:
    """What a form asks of a chart: measure, wear (character, chart or none), remove."""
    found = _chart(request, pk, "edit")
    doing = request.POST.get("do", "")
    try:
        if doing == "draw":
            actions.draw(request.user, found, _style(request.POST), clean(request.POST.get("mood", "")))
        elif doing == "measure":
            actions.measure_again(request.user, found)
        elif doing in ("wear", "take-off"):
            who = get_object_or_404(found.production.characters, pk=natural(request.POST.get("character")) or 0)
            actions.wear(request.user, who, found if doing == "wear" else None)
        elif doing == "remove":
            actions.remove(request.user, found)
            return redirect(found.production)
        elif doing == "bring-back":
            actions.bring_back(request.user, found)
        else:
            raise ChartError("This could not be understood; reload the page and do it again.")
    except TinForkError as refused:
        return _page(request, found, problem=str(refused))
    return redirect(found)


@require_POST
def change_drawing(request: HttpRequest, pk: int) -> HttpResponse:
    """What a form asks of a drawing: change, earlier, later, replace, remove, bring-back."""
    drawing = _drawing(request, pk, "edit")
    doing = request.POST.get("do", "change")
    try:
        if doing == "change":
            asked = {name: clean(str(value)) for name, value in request.POST.items() if name not in _NO_FIELDS}
            actions.change_drawing(request.user, drawing, asked)
        elif doing in ("earlier", "later"):
            actions.move(request.user, drawing, -1 if doing == "earlier" else 1)
        elif doing == "replace":
            upload = request.FILES.get("file")
            if upload is None:
                raise ChartError("No file came through; choose the picture again.")
            actions.replace_picture(request.user, drawing, upload)
        elif doing == "remove":
            actions.remove(request.user, drawing)
        elif doing == "bring-back":
            actions.bring_back(request.user, drawing)
        else:
            raise ChartError("This could not be understood; reload the page and do it again.")
    except TinForkError as refused:
        return _page(request, drawing.chart, problem=str(refused))
    return redirect(f"{drawing.chart.get_absolute_url()}#drawing-{drawing.pk}")


def picture(request: HttpRequest, pk: int, key: str) -> FileResponse:
    """A drawing's picture: a PNG of our own making, whatever it came as."""
    drawing = _drawing(request, pk)
    response = FileResponse(drawing.picture.open("rb"), content_type="image/png")
    response["Cache-Control"] = _A_YEAR
    return response
