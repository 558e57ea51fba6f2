from collections.abc import Callable
from typing import Any
from urllib.parse import quote

from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.core.mouths.face import VIEW
from tinfork.core.speech.espeak import languages_by_name
from tinfork.core.timebase import COMMON_RATES
from tinfork.web.board.recasting import copy_character
from tinfork.web.board.rows import board_document, portraits_of
from tinfork.web.board.states import State
from tinfork.web.charts.actions import create_chart
from tinfork.web.charts.models import ChartDrawing, MouthChart
from tinfork.web.cleaning import natural
from tinfork.web.faces.portraits import portraits
from tinfork.web.productions import actions
from tinfork.web.productions.models import Character, Membership, Production, Scene
from tinfork.web.productions.permissions import EDITORS, check, may, number_of
from tinfork.web.sound.document import cast_document, voices_document

_MOST_NAMED = 4


def shelf(request: HttpRequest) -> HttpResponse:
    """Show the person's productions, and a form for a new one."""
    problem, typed = "", ""
    if request.method == "POST":
        try:
            if "thing" in request.POST:
                return _changed(request, reverse("shelf"))
            typed = request.POST.get("name", "")
            return redirect(actions.create_production(request.user, typed))
        except TinForkError as refused:
            problem = str(refused)
    productions = Production.objects.filter(people=number_of(request.user)).prefetch_related("scenes", "characters")
    own = Membership.objects.filter(person=number_of(request.user), role=Membership.Role.OWNER)
    owned = set(own.values_list("production", flat=True))
    faces = portraits(c for p in productions for c in p.characters.all())
    shown = [
        {
            "production": p,
            "owned": p.pk in owned,
            "faces": [faces[c.pk] for c in p.characters.all()],
        }
        for p in productions
    ]
    context = {"shown": shown, "problem": problem, "typed": typed, "removed": _removed(request)}
    return render(request, "productions/shelf.html", context, status=422 if problem else 200)


def production(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a production's board: its shots, and forms for new ones."""

    def shown(found: Production) -> dict[str, Any]:
        archived = "archived" in request.GET
        board = board_document(request.user, found, archived)
        return {
            "document": board,
            "archived": archived,
            "portraits": portraits_of(found),
            "portrait_box": f"0 0 {VIEW[2]} {VIEW[3]}",
            "members": found.membership_set.filter(role__in=EDITORS).select_related("person"),
            "rates": COMMON_RATES,
            "names": list(found.characters.values_list("name", flat=True)),
            "states": list(State),
            "sequences": list(found.sequences.all()),
            "cast": list(found.characters.all()),
            **_drawings(found),
            "names_of_members": sorted({row["who"] for row in board["rows"] if row["who"]}),
            "kept_views": found.board_views.filter(person=number_of(request.user)),
        }

    return _page(request, pk, "production", shown)


def _drawings(production: Production) -> dict[str, Any]:
    """The moods and charts that the cast's mouths can be shown in."""
    charts = MouthChart.objects.filter(production=production, part=MouthChart.Of.MOUTH, removed=None)
    worn = MouthChart.objects.filter(worn_by__character__production=production)
    moods = ChartDrawing.objects.filter(chart__in=worn, removed=None).values_list("mood", flat=True)
    return {"moods": sorted(set(moods)), "charts": list(charts)}


def cast(request: HttpRequest, pk: int) -> HttpResponse:
    """Show who speaks in a production, with what mouths and in what language, and forms for more."""
    return _page(request, pk, "cast", _cast)


def _cast(production: Production) -> dict[str, Any]:
    cast = list(production.characters.all())
    faces = portraits(cast)
    return {
        "cast": [{"character": c, "face": faces[c.pk]} for c in cast],
        "charts": production.charts.annotate(count=Count("drawings", filter=Q(drawings__removed=None))),
        "lent": MouthChart.objects.filter(production=None, worn_by__character__production=production).distinct(),
        "parts": MouthChart.Of.choices,
        "languages": languages_by_name(),
    }


def _page(request: HttpRequest, pk: int, tab: str, shown: Callable[[Production], dict[str, Any]]) -> HttpResponse:
    """Show a page of a production, named by its tab; first do what a form on it asks for."""
    found = get_object_or_404(Production, pk=pk)
    check(request.user, found, "see")
    problem = ""
    if request.method == "POST":
        try:
            return _create(request, found, tab)
        except TinForkError as refused:
            problem = str(refused)
    context = {
        "production": found,
        "tab": tab,
        "may_edit": may(request.user, found, "edit"),
        "problem": problem,
        "asked": request.POST,
        "removed": _removed(request, found),
    }
    return render(request, f"productions/{tab}.html", context | shown(found), status=422 if problem else 200)


@require_POST
def add_to_cast(request: HttpRequest, pk: int) -> JsonResponse:
    """Add somebody to the cast: a form with a name. Answers with them, and the voices that speak their language."""
    found = get_object_or_404(Production, pk=pk)
    check(request.user, found, "edit")
    try:
        character = actions.create_character(request.user, found, request.POST.get("name", ""))
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    (document,) = (one for one in cast_document(found) if one["id"] == character.pk)
    return JsonResponse({"character": document, "voices": voices_document([document["language"]])})


_THINGS: dict[str, Any] = {"production": Production, "scene": Scene, "character": Character}


def _thing(name: str, within: Production | None = None) -> Any:
    """What a name such as "scene 3" stands for, deleted or not; None for nothing, or nothing in the production."""
    kind, _, number = name.partition(" ")
    found = _THINGS[kind].everything.filter(pk=natural(number)).first() if kind in _THINGS else None
    if found is None or (within and getattr(found, "production_id", found.pk) != within.pk):
        return None
    return found


def _changed(request: HttpRequest, page: str, within: Production | None = None) -> HttpResponse:
    """Rename, move, delete or bring back what a form names as its thing; then the page it came from again."""
    asked = request.POST
    thing = _thing(asked["thing"], within)
    if thing is None:
        raise TinForkError("This is gone; reload the page.")
    doing = asked.get("do")
    if doing == "rename":
        actions.rename(request.user, thing, asked.get("name", ""))
    elif doing in ("up", "down") and not isinstance(thing, Production):
        actions.move(request.user, thing, -1 if doing == "up" else 1)
    elif doing == "copy" and isinstance(thing, Character):
        copy_character(request.user, thing)
    elif doing == "remove":
        if isinstance(thing, Character):
            _check_unused(thing)
        actions.remove(request.user, thing)
        return redirect(f"{page}?removed={quote(asked['thing'])}")
    elif doing == "bring-back":
        actions.bring_back(request.user, thing)
    else:
        raise TinForkError("This could not be understood; reload the page and do it again.")
    return redirect(page)


def _check_unused(character: Character) -> None:
    """TinForkError when scenes need a character, with their names."""
    own = {"character": character.pk}
    scenes = character.production.scenes.filter(
        Q(staves__character=character, staves__about__isnull=False)
        | Q(arrangement__body__tracks__contains=[own])
        | Q(script__body__lines__contains=[own])
    ).distinct()
    names = ", ".join(f"“{scene}”" for scene in scenes[:_MOST_NAMED])
    if names:
        raise TinForkError(f"{character} speaks in {names}; give those lines and tracks to somebody else first.")


def _removed(request: HttpRequest, within: Production | None = None) -> dict[str, str] | None:
    """Return what was just deleted, for the note that brings it back."""
    name = request.GET.get("removed", "")
    thing = _thing(name, within) if name else None
    if thing is None or not thing.removed:
        return None
    if not may(request.user, getattr(thing, "production", thing), "edit" if within else "own"):
        return None
    return {"thing": name, "name": thing.name}


def _create(request: HttpRequest, production: Production, tab: str) -> HttpResponse:
    asked, page = request.POST, reverse(tab, args=[production.pk])
    if "thing" in asked:
        return _changed(request, page, production)
    if asked.get("make") == "character":
        actions.create_character(request.user, production, asked.get("name", ""))
        return redirect(page)
    if asked.get("make") == "chart":
        return redirect(create_chart(request.user, production, asked.get("name", ""), asked.get("part", "mouth")))
    if asked.get("make") == "language":
        actions.set_language(request.user, production, asked.get("character", ""), asked.get("language", ""))
        return redirect(page)
    scene = actions.create_scene(
        request.user, production, asked.get("name", ""), asked.get("rate", ""), asked.get("start_frame", "")
    )
    return redirect("scene", scene.pk)
