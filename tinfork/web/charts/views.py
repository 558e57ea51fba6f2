import re
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.db.models import Count, Q
from django.http import Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import ChartError, TinForkError
from tinfork.core.formats.chart_in import Cut
from tinfork.core.mouths.draw import STYLES, Style, styled
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.shapes import NAMES, SHAPES
from tinfork.core.naming import file_stem
from tinfork.web.cleaning import clean, natural
from tinfork.web.files.serving import kept_file
from tinfork.web.productions.models import Character, Production
from tinfork.web.productions.permissions import EDITORS, number_of

from . import actions
from .access import check_chart, may_change
from .mending import cure, jumps, mean_it, own_lines, sentence
from .models import ChartDrawing, MouthChart
from .pictures import small
from .showing import cast_of, cell_of, moods, mouth_map, on_table, restless

_DIALS = {"line": "1", "corners": "0", "turned": "0"}
_COLUMNS, _CELL_WIDTH, _CELL_HEIGHT = 5, 150, 130
"""How our thirteen lie in one picture (as browser/chart/drawing.ts knows)."""
_NO_FIELDS = ("csrfmiddlewaretoken", "do")
_NOT_UNDERSTOOD = "This could not be understood; reload the page and do it again."


def _chart(request: HttpRequest, pk: int, need: str = "see") -> MouthChart:
    found = get_object_or_404(MouthChart.everything.select_related("production"), pk=pk)
    check_chart(request.user, found, need)
    return found


def _drawing(request: HttpRequest, pk: int, need: str = "see") -> ChartDrawing:
    found = get_object_or_404(ChartDrawing.everything.select_related("chart__production"), pk=pk)
    check_chart(request.user, found.chart, need)
    return found


def library(request: HttpRequest) -> HttpResponse:
    """Show the charts of a person's own, for any production of theirs."""
    problem = ""
    if request.method == "POST":
        try:
            asked = request.POST
            return redirect(actions.create_chart(request.user, None, asked.get("name", ""), asked.get("part", "mouth")))
        except TinForkError as refused:
            problem = str(refused)
    own = MouthChart.objects.filter(owner=number_of(request.user))
    context = {
        "charts": own.annotate(count=Count("drawings", filter=Q(drawings__removed=None))),
        "parts": MouthChart.Of.choices,
        "problem": problem,
    }
    return render(request, "charts/library.html", context, status=422 if problem else 200)


def chart(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a chart: its drawings, what they cover, and who speaks with it."""
    return _page(request, _chart(request, pk))


def _page(request: HttpRequest, found: MouthChart, **extra: Any) -> HttpResponse:
    drawings = list(found.drawings.select_related("chart"))
    editable = may_change(request.user, found)
    context = {
        "chart": found,
        "production": found.production,
        "moods": moods(drawings),
        "map": mouth_map(found, drawings),
        "restless": restless(drawings),
        "jumps": [{"drawing": d, "said": sentence(d, one)} for d, one in jumps(drawings)],
        "cast": cast_of(request.user, found),
        "places": Production.objects.filter(membership__person=number_of(request.user), membership__role__in=EDITORS),
        "deleted": list(ChartDrawing.everything.filter(chart=found).exclude(removed=None)[:50]),
        "may_edit": editable,
        "styles": STYLES,
        "box": cell_of(found),
        "table": [on_table(d) for d in drawings],
        "notes": list(messages.get_messages(request)),
        **extra,
    }
    return render(request, "charts/chart.html", context, status=422 if extra else 200)


def drawing_form(request: HttpRequest, pk: int) -> HttpResponse:
    """Show what can be set of a drawing, fetched when it is opened."""
    drawing = _drawing(request, pk, "edit")
    return render(request, "charts/drawing.html", {"drawing": drawing, "shapes": [SHAPES[name] for name in NAMES]})


def _cut(how: str, columns: str, rows: str) -> Cut | None:
    """How a sheet is to be cut; None when pictures are drawings."""
    return Cut(how, natural(columns) or 0, natural(rows) or 0) if how in ("layers", "gaps", "grid") else None


@require_POST
def bring(request: HttpRequest, pk: int) -> HttpResponse:
    """Bring pictures, or ZIPs of them, into a chart."""
    found = _chart(request, pk, "edit")
    try:
        cut = _cut(request.POST.get("cut", ""), request.POST.get("columns", ""), request.POST.get("rows", ""))
        uploads, paths = request.FILES.getlist("file"), request.POST.get("paths", "")
        notes = actions.bring_in(request.user, found, uploads, cut, paths.splitlines())
    except TinForkError as refused:
        return _page(request, found, problem=str(refused))
    for note in notes:
        messages.info(request, note)
    return redirect(found)


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
    """Return our thirteen in the style a form asks for, in rows, as an SVG picture: what a chart drawn so looks
    like."""
    try:
        style = _style(request.GET)
    except ChartError as refused:
        return HttpResponse(str(refused), content_type="text/plain; charset=utf-8", status=422)
    cells = [
        f'<g transform="translate({_CELL_WIDTH * (at % _COLUMNS)} {_CELL_HEIGHT * (at // _COLUMNS)})">'
        f"{styled(SHAPES[name].place, name, style)}</g>"
        for at, name in enumerate(NAMES)
    ]
    width, height = _CELL_WIDTH * _COLUMNS, _CELL_HEIGHT * -(-len(NAMES) // _COLUMNS)
    picture = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-75 -45 {width} {height}" width="{width}" '
        f'height="{height}">{"".join(cells)}</svg>'
    )
    return HttpResponse(picture, content_type="image/svg+xml")


@require_POST
def change(request: HttpRequest, pk: int) -> HttpResponse:
    """Do what a form asks of a chart: draw, measure, cure, wear or take off (character, mood), copy, remove, bring
    back, which drawing rests."""
    asked = request.POST.get("do", "")
    found = _chart(request, pk, "see" if asked in _FOR_ALL else "edit")
    doing = _CHANGES.get(asked)
    try:
        if doing is None:
            raise ChartError(_NOT_UNDERSTOOD)
        return redirect(doing(request, found) or found)
    except TinForkError as refused:
        return _page(request, found, problem=str(refused))


def _draw(request: HttpRequest, found: MouthChart) -> None:
    actions.draw(request.user, found, _style(request.POST), clean(request.POST.get("mood", "")))


def _wear(request: HttpRequest, found: MouthChart) -> None:
    who = get_object_or_404(
        Character.objects.select_related("production"), pk=natural(request.POST.get("character")) or 0
    )
    takes = request.POST["do"] == "wear"
    mood = clean(request.POST.get("mood", "")) or NEUTRAL
    for told in actions.wear(request.user, who, found if takes else None, mood):
        messages.info(request, told)


def _rests(request: HttpRequest, found: MouthChart) -> None:
    drawing = found.drawings.filter(pk=natural(request.POST.get("drawing")) or 0).first()
    if drawing is None:
        raise ChartError("Choose the drawing that is shown in silence.")
    actions.change_drawing(request.user, drawing, {"shape": "rest"})


def _copy(request: HttpRequest, found: MouthChart) -> MouthChart:
    to = natural(request.POST.get("to"))
    return actions.copy_chart(request.user, found, get_object_or_404(Production, pk=to) if to else None)


def _cure(request: HttpRequest, found: MouthChart) -> None:
    cure(request.user, found, natural(request.POST.get("drawing")))


def _remove(request: HttpRequest, found: MouthChart) -> Any:
    actions.remove(request.user, found)
    return found.production or "library"


_CHANGES: dict[str, Callable[[HttpRequest, MouthChart], Any]] = {
    "draw": _draw,
    "rests": _rests,
    "measure": lambda request, found: actions.measure_again(request.user, found),
    "cure": _cure,
    "wear": _wear,
    "take-off": _wear,
    "copy": _copy,
    "remove": _remove,
    "bring-back": lambda request, found: actions.bring_back(request.user, found),
}
"""What can be asked of a chart; each answers with where to go then, None for the chart itself."""

_FOR_ALL = ("copy", "wear", "take-off")
"""What may be asked without the right to change the chart: its actions check what they change."""


@require_POST
def change_drawing(request: HttpRequest, pk: int) -> HttpResponse:
    """Do what a form asks of a drawing: change, earlier, later, duplicate, replace, own lines, meant, look again,
    remove, bring back."""
    drawing = _drawing(request, pk, "edit")
    doing = _DRAWING_CHANGES.get(request.POST.get("do", "change"))
    try:
        if doing is None:
            raise ChartError(_NOT_UNDERSTOOD)
        doing(request, drawing)
    except actions.InUseError as used:
        return _page(request, drawing.chart, used=str(used), used_drawing=drawing)
    except TinForkError as refused:
        return _page(request, drawing.chart, problem=str(refused))
    return redirect(f"{drawing.chart.get_absolute_url()}#drawing-{pk}")


def _change(request: HttpRequest, drawing: ChartDrawing) -> None:
    asked = {name: clean(str(value)) for name, value in request.POST.items() if name not in _NO_FIELDS}
    actions.change_drawing(request.user, drawing, asked)


def _replace(request: HttpRequest, drawing: ChartDrawing) -> None:
    upload = request.FILES.get("file")
    if upload is None:
        raise ChartError("No file came through; choose the picture again.")
    actions.replace_picture(request.user, drawing, upload)


def _follow(request: HttpRequest, drawing: ChartDrawing) -> None:
    actions.add_pictures(request.user, drawing, request.FILES.getlist("file"))


_DRAWING_CHANGES: dict[str, Callable[[HttpRequest, ChartDrawing], None]] = {
    "change": _change,
    "earlier": lambda request, drawing: actions.move(request.user, drawing, -1),
    "later": lambda request, drawing: actions.move(request.user, drawing, 1),
    "duplicate": lambda request, drawing: actions.duplicate(request.user, drawing),
    "replace": _replace,
    "follow": _follow,
    "still": lambda request, drawing: actions.make_still(request.user, drawing),
    "own-lines": lambda request, drawing: own_lines(request.user, drawing),
    "meant": lambda request, drawing: mean_it(request.user, drawing, True),
    "look-again": lambda request, drawing: mean_it(request.user, drawing, False),
    "remove": lambda request, drawing: actions.remove(request.user, drawing, sure="sure" in request.POST),
    "bring-back": lambda request, drawing: actions.bring_back(request.user, drawing),
}
"""What can be asked of a drawing."""


def picture(request: HttpRequest, pk: int, key: str) -> HttpResponseBase:
    """Return a drawing's picture: a PNG of our own making, whatever it came as."""
    return kept_file(_drawing(request, pk).picture.name or "", "image/png")


def further_picture(request: HttpRequest, pk: int, number: int, key: str) -> HttpResponseBase:
    """Return one of the pictures a drawing has beside its first, at the size it is seen in on a screen."""
    drawing = _drawing(request, pk)
    if not 1 <= number <= len(drawing.also):
        raise Http404("This drawing has no such picture.")
    return kept_file(small(drawing.also[number - 1]), "image/png")


def small_picture(request: HttpRequest, pk: int, key: str) -> HttpResponseBase:
    """Return a drawing's picture at the size it is seen in on a screen."""
    return kept_file(small(_drawing(request, pk).picture.name or ""), "image/png")


def vector(request: HttpRequest, pk: int) -> HttpResponse:
    """Return a drawing of ours as the SVG it was drawn as, to go on from."""
    drawing = _drawing(request, pk)
    if not drawing.vector:
        raise Http404("This was not drawn by us.")
    response = HttpResponse(drawing.vector, content_type="image/svg+xml")
    response["Content-Disposition"] = f'attachment; filename="{file_stem(drawing.called)}.svg"'
    return response
