from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_POST
from msgspec import Struct

from tinfork.core.errors import TinForkError
from tinfork.core.formats.sheet_pdf import FEWEST_ROWS, MOST_ROWS, PAPERS, ROWS
from tinfork.core.naming import file_stem
from tinfork.core.shot.sheet import COLUMNS
from tinfork.web.cleaning import clean, natural
from tinfork.web.desk.document import scene_document
from tinfork.web.edits.requests import Integer, parsed
from tinfork.web.productions.permissions import find_scene
from tinfork.web.reading.by_hand import staves_to_show
from tinfork.web.sound.arranging import arrangement_of

from .actions import notes_of, write_note
from .printing import KINDS, Sheet, printed


class Note(Struct, frozen=True, forbid_unknown_fields=True):
    """What is written beside a frame, counted from 0."""

    frame: Integer
    text: str


def sheet(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the exposure sheet of a scene, with the first slice of every stave."""
    scene = find_scene(request.user, pk)
    staves = [one for one in staves_to_show(request.user, scene, arrangement_of(scene)) if one.stave.is_seen]
    document = {
        **scene_document(request.user, scene, staves),
        "columns": COLUMNS,
        "notes": notes_of(scene).notes,
        "noteUrl": reverse("sheet-note", args=[scene.pk]),
        "notesUrl": reverse("sheet-notes", args=[scene.pk]),
        "fileUrl": reverse("sheet-export", args=[scene.pk, "KIND"]),
    }
    context = {"scene": scene, "view": "sheet", "document": document, "columns": COLUMNS, "papers": PAPERS}
    limits = {"fewest": FEWEST_ROWS, "most": MOST_ROWS, "usual": ROWS}
    return render(request, "sheet/sheet.html", context | {"limits": limits, "empty": not staves})


def notes(request: HttpRequest, pk: int) -> JsonResponse:
    """Return the notes of a scene."""
    return JsonResponse({"notes": notes_of(find_scene(request.user, pk)).notes})


@require_POST
def note(request: HttpRequest, pk: int) -> JsonResponse:
    """Write a note, as JSON; all there are then."""
    scene = find_scene(request.user, pk, "edit")
    try:
        asked: Note = parsed(request, Note)
        kept = write_note(request.user, scene, asked.frame, clean(asked.text))
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse({"notes": kept.notes})


def export(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """Return the sheet as a file: ?first= and ?end= as the frames are numbered, ?step=, ?rows= a page, ?paper=, and
    ?columns= parted by commas."""
    scene = find_scene(request.user, pk)
    if kind not in KINDS:
        raise Http404
    given = request.GET
    usual = Sheet()
    asked = Sheet(
        tuple(clean(given["columns"]).split(",")) if "columns" in given else usual.columns,
        natural(given.get("first")),
        natural(given.get("end")),
        natural(given.get("step")) or usual.step,
        natural(given.get("rows")) or usual.per_page,
        clean(given.get("paper", usual.paper)),
    )
    try:
        found = printed(scene, kind, asked)
    except TinForkError as refused:
        return HttpResponse(str(refused), content_type="text/plain; charset=utf-8", status=422)
    response = HttpResponse(found.data, content_type=found.content_type)
    response["Content-Disposition"] = f'attachment; filename="{file_stem(scene.name)}_sheet.{found.ending}"'
    return response
