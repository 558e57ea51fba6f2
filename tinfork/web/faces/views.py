from dataclasses import replace
from typing import Any
from urllib.parse import quote

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.core.errors import ChartError, TinForkError
from tinfork.core.mouths.builds import BUILDS
from tinfork.core.mouths.draw import styled
from tinfork.core.mouths.face import MOUTH_SCALE, VIEW, face_svg, head
from tinfork.core.mouths.heads import mouth_style
from tinfork.core.mouths.parts import ROLES
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.mouths.views import FRONT, nearest_view, opposite
from tinfork.web.charts.models import worn_by
from tinfork.web.charts.moods import in_view, views_of_chart
from tinfork.web.charts.pictures import key_of
from tinfork.web.charts.showing import small_url
from tinfork.web.cleaning import clean
from tinfork.web.files.serving import kept_file
from tinfork.web.productions.actions import set_look
from tinfork.web.productions.models import Character
from tinfork.web.productions.permissions import check, may

from . import actions
from .models import Face, FaceLayer, FacePart, views_shown

_LAYER_FIELDS = (
    *("name", "x", "y", "scale", "turn", "in_front", "hidden", "part", "switched", "view", "depth", "each", "once"),
)
_PART_FIELDS = ("x", "y", "on", "role", "rest")
_MOST_MOUTHS = 24


def _character(request: HttpRequest, pk: int, need: str = "see") -> Character:
    found = get_object_or_404(Character.objects.select_related("production"), pk=pk)
    check(request.user, found.production, need)
    return found


def face(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a character's face: its layers in order, and where on it the mouth lies."""
    return _page(request, _character(request, pk))


def _page(request: HttpRequest, character: Character, problem: str = "") -> HttpResponse:
    own = Face.objects.filter(character=character).first()
    layers = list(own.layers.select_related("part")) if own else []
    worn = worn_by(character)
    view = request.GET.get("view", "") or FRONT
    views = views_shown(own, layers)
    chart_views = views_of_chart(worn.chart) if worn else []
    context = {
        "view": view,
        "views": views,
        "turned": [one for one in views if one != FRONT],
        "may_mirror": any(layer.view == view for layer in layers) and opposite(view) not in (view, *views),
        "other": opposite(view),
        "chart_views": chart_views,
        "stands_in": _stands_in(chart_views, view) if worn else "",
        "character": character,
        "production": character.production,
        "layers": layers,
        "shown": [layer for layer in layers if layer.view in ("", view)],
        "heads": [] if layers else _heads(character),
        "deleted": list(FaceLayer.everything.filter(face=own).exclude(removed=None)[:20]) if own else [],
        "worn": worn,
        "parts": list(own.parts.prefetch_related("layers")) if own else [],
        "roles": ROLES.items(),
        "may_edit": may(request.user, character.production, "edit"),
        "face": _document(character, own, layers, view),
        "notes": list(messages.get_messages(request)),
        "problem": problem,
    }
    return render(request, "faces/face.html", context, status=422 if problem else 200)


def _stands_in(chart_views: list[str], view: str) -> str:
    """What of a chart that has some views is shown in one it has no drawings of, in words; "" where it has some."""
    there, mirrored = nearest_view(view, [FRONT, *chart_views])
    return "" if there == view else f"those of the {there} are shown{', mirrored' if mirrored else ''}."


def _back(request: HttpRequest, pk: int) -> HttpResponse:
    """The face's page again, in the view it was seen in."""
    view, page = clean(request.GET.get("view", "")), reverse("face", args=[pk])
    return redirect(f"{page}?view={quote(view)}" if view and view != FRONT else page)


def _document(character: Character, own: Face | None, layers: list[FaceLayer], view: str) -> dict[str, Any]:
    """The face as its page draws it, in a view."""
    own = own or Face()
    shown = [layer for layer in layers if layer.view in ("", view)]
    return {
        "view": VIEW,
        "head": "" if layers else head(character.look),
        "usual": {"x": 0, "y": 0, "size": MOUTH_SCALE, "turn": 0},
        "mouth": {
            **own.mouth_in(view),
            "change": f"{reverse('face-mouth', args=[character.pk])}?view={quote(view)}",
        },
        "layers": [
            {
                "id": layer.pk,
                "name": layer.name,
                "href": layer.href,
                "width": layer.width,
                "height": layer.height,
                "x": layer.x,
                "y": layer.y,
                "scale": layer.scale,
                "turn": layer.turn,
                "inFront": layer.in_front,
                "hidden": layer.hidden,
                "inTurn": layer.switched and layer.part is not None and layer.name != layer.part.rest,
                "change": reverse("layer-change", args=[layer.pk]),
            }
            for layer in shown
        ],
        "mouths": _mouths(character, view),
    }


def _mouths(character: Character, view: str) -> list[dict[str, str]]:
    """What the character speaks with in a view, to see it in its place."""
    worn = worn_by(character)
    if worn is not None:
        every = {d.called: d for d in worn.chart.drawings.all()}
        seen = in_view(list(every.values()), view)
        found = []
        for drawing in worn.chart.usable()[:_MOST_MOUTHS]:
            name, mirrored = seen.get(drawing.called, (drawing.called, False))
            svg = every[name].markup(small_url(every[name]))
            found.append({"name": name, "svg": f'<g transform="scale(-1 1)">{svg}</g>' if mirrored else svg})
        return found
    style = mouth_style(character.look)
    return [{"name": s.name, "svg": styled(s.place, f"m{s.name}", style)} for s in SHAPES.values()]


@require_POST
def bring(request: HttpRequest, pk: int) -> HttpResponse:
    """Bring in pictures as layers of a face."""
    character = _character(request, pk, "edit")
    try:
        notes = actions.bring_layers(
            request.user, character, request.FILES.getlist("file"), clean(request.POST.get("view", ""))
        )
    except TinForkError as refused:
        return _page(request, character, problem=str(refused))
    for note in notes:
        messages.info(request, note)
    return _back(request, pk)


@require_POST
def look(request: HttpRequest, pk: int) -> HttpResponse:
    """Give a character a head of ours: a form with its name and colours."""
    character = _character(request, pk, "edit")
    try:
        set_look(request.user, character, clean(request.POST.get("form", "")), request.POST.dict())
    except TinForkError as refused:
        return _page(request, character, problem=str(refused))
    return redirect("face", pk)


def _heads(character: Character) -> list[dict[str, str]]:
    """The heads of ours in a character's colours, to choose one by its picture."""
    found = []
    for form, build in BUILDS.items():
        seen = replace(character.look, form=form)
        found.append({"form": form, "said": build.said, "svg": face_svg(seen, SHAPES["rest"].place)})
    return found


@require_POST
def mouth(request: HttpRequest, pk: int) -> JsonResponse:
    """Set where on the face the mouth lies: a form with x, y, size and turn."""
    try:
        asked = request.POST.dict() | {"view": clean(request.GET.get("view", ""))}
        actions.place_mouth(request.user, _character(request, pk, "edit"), asked)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse({})


@require_POST
def change_layer(request: HttpRequest, pk: int) -> HttpResponse:
    """Do what a form asks of a layer: place (answered as JSON), change, over, under, remove, bring back."""
    layer = get_object_or_404(FaceLayer.everything.select_related("face__character__production"), pk=pk)
    character = layer.face.character
    check(request.user, character.production, "edit")
    doing = request.POST.get("do", "place")
    try:
        _do(request, layer, doing)
    except TinForkError as refused:
        if doing == "place":
            return JsonResponse({"problem": str(refused)}, status=422)
        return _page(request, character, problem=str(refused))
    return JsonResponse({}) if doing == "place" else _back(request, character.pk)


def _do(request: HttpRequest, layer: FaceLayer, doing: str) -> None:
    if doing in ("place", "change"):
        asked = {name: clean(str(value)) for name, value in request.POST.items() if name in _LAYER_FIELDS}
        actions.change_layer(request.user, layer, asked)
    elif doing in ("over", "under"):
        actions.move_layer(request.user, layer, 1 if doing == "over" else -1)
    elif doing == "follow":
        actions.add_pictures(request.user, layer, request.FILES.getlist("file"))
    elif doing == "still":
        actions.make_still(request.user, layer)
    elif doing in ("remove", "bring-back"):
        actions.remove_layer(request.user, layer, back=doing == "bring-back")
    else:
        raise ChartError("This could not be understood; reload the page and do it again.")


@require_POST
def change_views(request: HttpRequest, pk: int) -> HttpResponse:
    """Do what a form asks of a face's views: add, mirror, remove the one that it names."""
    character = _character(request, pk, "edit")
    view, doing = clean(request.POST.get("view", "")), request.POST.get("do", "")
    try:
        if doing == "add":
            view = actions.add_view(request.user, character, view)
        elif doing == "mirror":
            view = actions.mirror_view(request.user, character, view)
        elif doing == "remove":
            actions.remove_view(request.user, character, view)
            view = FRONT
        else:
            raise ChartError("This could not be understood; reload the page and do it again.")
    except TinForkError as refused:
        return _page(request, character, problem=str(refused))
    return redirect(f"{reverse('face', args=[pk])}?view={quote(view)}")


@require_POST
def new_part(request: HttpRequest, pk: int) -> HttpResponse:
    """Make one more part of a face."""
    character = _character(request, pk, "edit")
    try:
        actions.add_part(request.user, character, clean(request.POST.get("name", "")))
    except TinForkError as refused:
        return _page(request, character, problem=str(refused))
    return redirect("face", pk)


@require_POST
def change_part(request: HttpRequest, pk: int) -> HttpResponse:
    """Do what a form asks of a part: change, remove."""
    part = get_object_or_404(FacePart.objects.select_related("face__character__production"), pk=pk)
    character = part.face.character
    check(request.user, character.production, "edit")
    try:
        if request.POST.get("do") == "remove":
            actions.remove_part(request.user, part)
        else:
            asked = {name: clean(str(value)) for name, value in request.POST.items() if name in _PART_FIELDS}
            actions.change_part(request.user, part, asked)
    except TinForkError as refused:
        return _page(request, character, problem=str(refused))
    return redirect("face", character.pk)


def picture(request: HttpRequest, pk: int, key: str) -> HttpResponseBase:
    """Return one of a layer's pictures, the first where it has none of the key: a PNG of our own making, whatever it
    came as."""
    layer = get_object_or_404(FaceLayer.everything.select_related("face__character__production"), pk=pk)
    check(request.user, layer.face.character.production, "see")
    name = next((one for one in layer.files if key_of(one) == key), layer.files[0])
    return kept_file(name, "image/png")
