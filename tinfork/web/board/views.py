import functools
from collections.abc import Callable
from typing import Annotated, Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST
from msgspec import Meta, Struct

from tinfork.core.errors import TinForkError
from tinfork.core.naming import file_stem
from tinfork.web.cleaning import natural
from tinfork.web.edits.requests import Integer, parsed
from tinfork.web.faces.portraits import portraits
from tinfork.web.productions.actions import check_in_cast, checked_name
from tinfork.web.productions.models import Production
from tinfork.web.productions.permissions import Person, check, find_scene, number_of
from tinfork.web.reading.asking import ask_to_read
from tinfork.web.shots import changing
from tinfork.web.shots.models import MAX_QUERY_CHARACTERS, BoardView

from . import cutting, joining, many, recasting, tables
from . import recut as recutting
from .facts import look_for_checks
from .reelcut import shots_of_cut
from .report import as_csv, as_pdf
from .rows import board_document
from .strip import strip_of

Scenes = Annotated[list[Integer], Meta(max_length=changing.MOST_SHOTS)]


class Set(Struct, frozen=True, forbid_unknown_fields=True):
    """One thing to be set of many shots: its name (see changing.FIELDS), and what it is to be, as a form says it."""

    name: str
    value: str
    scenes: Scenes


class Cut(Struct, frozen=True, forbid_unknown_fields=True):
    """A scene that is cut: at the headings of its script, or before a frame, as it is numbered."""

    scene: Integer
    frame: Integer | None = None


class Chosen(Struct, frozen=True, forbid_unknown_fields=True):
    """Shots that something is done with."""

    scenes: Scenes


def _production(request: HttpRequest, pk: int, need: str = "edit") -> Production:
    found = get_object_or_404(Production, pk=pk)
    check(request.user, found, need)
    return found


def _board(request: HttpRequest, production: Production, archived: bool = False, said: str = "") -> HttpResponse:
    told = {"said": said} if said else {}
    return JsonResponse(board_document(request.user, production, archived) | told)


def _refused(refused: TinForkError) -> HttpResponse:
    return JsonResponse({"problem": str(refused)}, status=422)


def _does(do: Callable[[HttpRequest, Production], str]) -> Callable[[HttpRequest, int], HttpResponse]:
    """Return the view that does something with a production's shots, for who may, and answers with what was done, in
    words, and the board as it is then; or with why it cannot be done."""

    @require_POST
    @functools.wraps(do)
    def view(request: HttpRequest, pk: int) -> HttpResponse:
        production = _production(request, pk)
        try:
            said = do(request, production)
        except TinForkError as refused:
            return _refused(refused)
        return _board(request, production, "archived" in request.GET, said)

    return view


@_does
def set_field(request: HttpRequest, production: Production) -> str:
    """Set one thing of many shots."""
    asked: Set = parsed(request, Set)
    step = changing.set_field(request.user, production, asked.scenes, asked.name, asked.value)
    return f"{step.text.capitalize()}."


@_does
def undo(request: HttpRequest, production: Production) -> str:
    """Take back what the person did last on the board."""
    return many.undo(request.user, production)


@_does
def read(request: HttpRequest, production: Production) -> str:
    """Have the sound of many shots read."""
    asked: Chosen = parsed(request, Chosen)
    return _read(request.user, production, asked.scenes)


def _read(person: Person, production: Production, scenes: list[int]) -> str:
    asked, left = 0, []
    for scene in production.scenes.filter(pk__in=scenes):
        try:
            ask_to_read(person, scene)
            asked += 1
        except TinForkError as refused:
            left.append(f"{scene}: {refused}")
    if not asked and left:
        raise TinForkError(left[0])
    more = f" {len(left)} left out, the first: {left[0]}" if left else ""
    return f"{asked} shot{'' if asked == 1 else 's'} will be read.{more}"


def look(request: HttpRequest, pk: int) -> HttpResponse:
    """Look for open checks where nobody has yet, for about a second; the board as it is then, or nothing new (204)."""
    production = _production(request, pk, "see")
    if not look_for_checks(production):
        return HttpResponse(status=204)
    return _board(request, production)


def parts(request: HttpRequest, pk: int) -> HttpResponse:
    """Return the shots that a scene (?scene=) falls into at the headings of its script."""
    scene = get_object_or_404(_production(request, pk).scenes, pk=natural(request.GET.get("scene")) or 0)
    try:
        found = cutting.parts_of(scene)
    except TinForkError as refused:
        return _refused(refused)
    rows = [{"name": one.name, "seconds": one.end - one.start, "lines": len(one.lines)} for one in found]
    return JsonResponse({"parts": rows})


@_does
def cut(request: HttpRequest, production: Production) -> str:
    """Cut a scene into shots."""
    asked: Cut = parsed(request, Cut)
    scene = get_object_or_404(production.scenes, pk=asked.scene)
    return cutting.cut_scene(request.user, scene, asked.frame)


@_does
def copy(request: HttpRequest, production: Production) -> str:
    """Make another of each of some shots."""
    asked: Chosen = parsed(request, Chosen)
    return " ".join(cutting.copy_scene(request.user, one) for one in production.scenes.filter(pk__in=asked.scenes))


@_does
def join(request: HttpRequest, production: Production) -> str:
    """Make one shot of two, in the order of the film."""
    asked: Chosen = parsed(request, Chosen)
    both = list(changing.in_film_order(production.scenes.filter(pk__in=asked.scenes)))
    if len(both) != 2:
        raise TinForkError("Tick the two shots that are to be one.")
    return joining.join_scenes(request.user, *both)


def _answered(request: HttpRequest, do: Callable[[], str]) -> HttpResponse:
    """What a form of the Changes page asked for, in words for that page."""
    try:
        return render(request, "board/told.html", {"said": do()})
    except TinForkError as problem:
        return render(request, "board/told.html", {"problem": str(problem)})


def recut(request: HttpRequest, pk: int) -> HttpResponse:
    """Show what a cut makes of the shots that are there, and with do=apply make them so. The cut is sent each time."""
    production = _production(request, pk)
    sequence = natural(request.POST.get("sequence")) or None
    context: dict[str, Any] = {"production": production, "tab": "production", "sequences": production.sequences.all()}
    if request.method == "POST":
        try:
            cut = recutting.read_of(request.FILES.get("cut"))
            if request.POST.get("do") == "apply":
                context["said"] = recutting.apply(request.user, production, cut, sequence)
            else:
                context["rows"] = recutting.compared(production, cut, sequence)
                context["strip"] = strip_of(context["rows"])
        except TinForkError as problem:
            context["problem"] = str(problem)
    return render(request, "board/recut.html", context, status=422 if "problem" in context else 200)


@require_POST
def recast(request: HttpRequest, pk: int) -> HttpResponse:
    """Put one of the cast in another's place, in a scene or in all of its production."""
    scene = find_scene(request.user, pk, "edit")
    asked, production = request.POST, scene.production

    def do() -> str:
        both = [check_in_cast(production, natural(asked.get(one)) or 0) for one in ("old", "new")]
        scenes = list(production.scenes.all()) if asked.get("everywhere") else [scene]
        return recasting.swap(request.user, scenes, both[0], both[1]).words

    return _answered(request, do)


def elsewhere(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a copy of a scene into another production, or move it there; asked for without doing it, who speaks as whom
    there, with their pictures."""
    scene = find_scene(request.user, pk)
    asked = request.POST or request.GET
    production = get_object_or_404(Production, pk=natural(asked.get("to")) or 0)
    check(request.user, production, "edit")
    if request.method != "POST":
        own, there = recasting.cast_of(scene), list(production.characters.all())
        drawn = portraits([*own, *there])
        rows = [{"who": one, "face": drawn[one.pk]} for one in own]
        others = [{"who": one, "face": drawn[one.pk]} for one in there]
        return render(request, "board/who_there.html", {"own": rows, "there": others})

    def do() -> str:
        moved = bool(request.POST.get("move"))
        chosen = {one.pk: natural(asked.get(f"who-{one.pk}")) or 0 for one in recasting.cast_of(scene)}
        as_whom = {who: to for who, to in chosen.items() if f"who-{who}" in asked}
        made = recasting.copy_scene_to(request.user, scene, production, moved, as_whom)
        return f"“{made}” is in “{production}” now." + (f" “{scene}” is put away here." if moved else "")

    return _answered(request, do)


@_does
def mouths(request: HttpRequest, production: Production) -> str:
    """Set how the mouths of many shots are planned, or what mood they are in."""
    return many.change_mouths(request.user, production, parsed(request, many.Mouths))


@require_POST
def sequence(request: HttpRequest, pk: int) -> HttpResponse:
    """Rename a sequence, move it among the others, or take an empty one away."""
    production = _production(request, pk)
    asked = request.POST
    try:
        changing.change_sequence(
            request.user, production, natural(asked.get("sequence")) or 0, asked.get("do", ""), asked.get("name", "")
        )
    except TinForkError as refused:
        return _refused(refused)
    return redirect(production)


def now(request: HttpRequest, pk: int) -> HttpResponse:
    """Return the board as it is now."""
    return _board(request, _production(request, pk, "see"), "archived" in request.GET)


@require_POST
def views(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep what the person filters by (a query) under a name, or forget the view of a number."""
    production, who = _production(request, pk, "see"), number_of(request.user)
    own = BoardView.objects.filter(production=production, person=who)
    try:
        if request.POST.get("do") == "forget":
            own.filter(pk=natural(request.POST.get("view")) or 0).delete()
        else:
            _keep_view(production, who, request.POST.get("name", ""), request.POST.get("query", ""))
    except TinForkError as refused:
        return _refused(refused)
    return redirect(production)


def _keep_view(production: Production, person: int, name: str, query: str) -> None:
    if len(query) > MAX_QUERY_CHARACTERS:
        raise TinForkError("What is looked for here is too long to be kept.")
    BoardView.objects.update_or_create(
        production=production, person_id=person, name=checked_name(name, "view"), defaults={"query": query}
    )


def table(request: HttpRequest, pk: int) -> HttpResponse:
    """Return the shots as a table (CSV); with POST bring one in: pasted, or as a file."""
    if request.method != "POST":
        production = _production(request, pk, "see")
        return HttpResponse(
            tables.written(production),
            content_type="text/csv; charset=utf-8",
            headers={"Content-Disposition": 'attachment; filename="shots.csv"'},
        )
    production = _production(request, pk)
    try:
        told = tables.bring_in(request.user, production, tables.text_in(request), "good" in request.POST)
    except TinForkError as refused:
        return _refused(refused)
    return _board(request, production, said=told)


def report(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """Return what is approved, open and missing, as a PDF or as CSV."""
    production = _production(request, pk, "see")
    writers = {"pdf": (as_pdf, "application/pdf"), "csv": (as_csv, "text/csv; charset=utf-8")}
    if kind not in writers:
        raise Http404("No such report.")
    write, content_type = writers[kind]
    name = f"{file_stem(production.name)}_report.{kind}"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(write(production), content_type=content_type, headers=headers)


@_does
def reel(request: HttpRequest, production: Production) -> str:
    """Make the shots of a film and its cut."""
    files = request.FILES
    return shots_of_cut(request.user, production, files.get("film"), files.get("cut"), request.POST.get("first", ""))


@_does
def sounds(request: HttpRequest, production: Production) -> str:
    """Make a shot of each sound file of a form, called as the file is."""
    files, asked = request.FILES.getlist("sound"), request.POST
    return tables.shots_of_sounds(request.user, production, files, asked.get("rate", ""), asked.get("first", ""))
