from dataclasses import replace
from typing import Any

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
from tinfork.web.charts.models import worn_by
from tinfork.web.charts.showing import small_url
from tinfork.web.cleaning import clean
from tinfork.web.files.serving import kept_file
from tinfork.web.productions.actions import set_look
from tinfork.web.productions.models import Character
from tinfork.web.productions.permissions import check, may

from . import actions
from .models import Face, FaceLayer, FacePart

_LAYER_FIELDS = ("name", "x", "y", "scale", "turn", "in_front", "hidden", "part", "switched")
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
    context = {
        "character": character,
        "production": character.production,
        "layers": layers,
        "heads": [] if layers else _heads(character),
        "deleted": list(FaceLayer.everything.filter(face=own).exclude(removed=None)[:20]) if own else [],
        "worn": worn,
        "parts": list(own.parts.prefetch_related("layers")) if own else [],
        "roles": ROLES.items(),
        "may_edit": may(request.user, character.production, "edit"),
        "face": _document(character, own, layers),
        "notes": list(messages.get_messages(request)),
        "problem": problem,
    }
    return render(request, "faces/face.html", context, status=422 if problem else 200)


def _document(character: Character, own: Face | None, layers: list[FaceLayer]) -> dict[str, Any]:
    """The face as its page draws it."""
    own = own or Face()
    return {
        "view": VIEW,
        "head": "" if layers else head(character.look),
        "usual": {"x": 0, "y": 0, "size": MOUTH_SCALE, "turn": 0},
        "mouth": {
            "x": own.x,
            "y": own.y,
            "size": own.size,
            "turn": own.turn,
            "change": reverse("face-mouth", args=[character.pk]),
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
            for layer in layers
        ],
        "mouths": _mouths(character),
    }


def _mouths(character: Character) -> list[dict[str, str]]:
    """What the character speaks with, to see it in its place."""
    worn = worn_by(character)
    if worn is not None:
        drawings = worn.chart.usable()[:_MOST_MOUTHS]
        return [{"name": d.called, "svg": d.markup(small_url(d))} for d in drawings]
    style = mouth_style(character.look)
    return [{"name": s.name, "svg": styled(s.place, f"m{s.name}", style)} for s in SHAPES.values()]


@require_POST
def bring(request: HttpRequest, pk: int) -> HttpResponse:
    """Bring in pictures as layers of a face."""
    character = _character(request, pk, "edit")
    try:
        notes = actions.bring_layers(request.user, character, request.FILES.getlist("file"))
    except TinForkError as refused:
        return _page(request, character, problem=str(refused))
    for note in notes:
        messages.info(request, note)
    return redirect("face", pk)


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
        actions.place_mouth(request.user, _character(request, pk, "edit"), request.POST.dict())
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
    return JsonResponse({}) if doing == "place" else redirect("face", character.pk)


def _do(request: HttpRequest, layer: FaceLayer, doing: str) -> None:
    if doing in ("place", "change"):
        asked = {name: clean(str(value)) for name, value in request.POST.items() if name in _LAYER_FIELDS}
        actions.change_layer(request.user, layer, asked)
    elif doing in ("over", "under"):
        actions.move_layer(request.user, layer, 1 if doing == "over" else -1)
    elif doing in ("remove", "bring-back"):
        actions.remove_layer(request.user, layer, back=doing == "bring-back")
    else:
        raise ChartError("This could not be understood; reload the page and do it again.")


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
    """Return a layer's picture: a PNG of our own making, whatever it came as."""
    layer = get_object_or_404(FaceLayer.everything.select_related("face__character__production"), pk=pk)
    check(request.user, layer.face.character.production, "see")
    return kept_file(layer.picture.name or "", "image/png")
