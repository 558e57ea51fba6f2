import json
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.core.errors import ReadingError, TinForkError
from tinfork.core.formats.pictures import file_stem
from tinfork.core.speech.phones import KEYBOARD
from tinfork.web.edits import actions as edits
from tinfork.web.edits.requests import Verbs, answer, many, number, perform, text, whole
from tinfork.web.productions.permissions import check, find_scene, may
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.document import sound_document, time_base
from tinfork.web.sound.uploads import text_of

from . import actions, correcting, exchange
from .desk import stave_document
from .models import Stave


def place(value: Any) -> tuple[int, int]:
    """The place of a word: line and word. ValueError otherwise."""
    line, word = value
    return whole(line), whole(word)


VERBS: Verbs = {
    "pin": (actions.pin_drawing, {"frame": whole, "frames": whole, "drawing": text}),
    "unpin": (actions.unpin, {"frame": whole}),
    "settings": (actions.change_settings, {"hold": whole, "lead": whole, "detail": number}),
    "edge": (correcting.move_edge, {"at": place, "edge": whole, "time": number}),
    "move word": (correcting.move_word, {"at": place, "by": number}),
    "move line": (correcting.move_line, {"at": place, "by": number}),
    "approve": (correcting.approve, {"at": place}),
    "release": (correcting.release, {"at": place}),
    "sound": (correcting.set_sound, {"at": place, "sound": whole, "ipa": text}),
    "insert sound": (correcting.insert_sound, {"at": place, "sound": whole, "ipa": text}),
    "delete sound": (correcting.delete_sound, {"at": place, "sound": whole}),
    "split word": (correcting.split_word, {"at": place, "sound": whole, "first": text, "second": text}),
    "join words": (correcting.merge_words, {"at": place}),
    "insert word": (correcting.insert_word, {"at": place, "text": text, "start": number, "end": number}),
    "delete word": (correcting.delete_word, {"at": place}),
    "place lost": (correcting.place_lost, {"lost": whole, "at": place}),
    "drop lost": (correcting.drop_lost, {"lost": whole}),
    "undo": (edits.undo, {}),
    "redo": (edits.redo, {}),
}


def _stave(request: HttpRequest, pk: int, need: str = "see") -> Stave:
    stave = get_object_or_404(Stave.objects.select_related("scene__production", "character"), pk=pk)
    check(request.user, stave.scene.production, need)
    return stave


def desk(request: HttpRequest, pk: int) -> HttpResponse:
    """The Reading desk."""
    scene = find_scene(request.user, pk)
    staves = [stave_document(s) for s in scene.staves.select_related("character", "scene__production")]
    document = {
        "scene": time_base(scene),
        "mayEdit": may(request.user, scene.production, "edit"),
        "sound": sound_document(arrangement_of(scene)),
        "staves": [stave for stave in staves if stave["clips"]],
        "readUrl": reverse("desk-read", args=[scene.pk]),
        "keyboard": KEYBOARD,
        "formats": [[f.name, code, f.loses] for code, f in exchange.FORMATS.items()],
    }
    return render(request, "reading/desk.html", {"scene": scene, "view": "desk", "document": document})


def stave(request: HttpRequest, pk: int) -> JsonResponse:
    """One stave as the desk draws it."""
    return JsonResponse(stave_document(_stave(request, pk)))


@require_POST
def edit(request: HttpRequest, pk: int) -> JsonResponse:
    """One edit on one version, as JSON: {"verb", "version", ...}; see tinfork.web.edits.requests.answer."""
    found = _stave(request, pk, "edit")
    return answer(lambda: perform(request, found, VERBS), lambda: stave_document(_stave(request, pk)))


def take_out(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """A stave's reading as a file in one of the formats."""
    stave = _stave(request, pk)
    if kind not in exchange.FORMATS:
        raise Http404
    chosen = exchange.FORMATS[kind]
    try:
        text = exchange.taken_out(stave, kind)
    except TinForkError as refused:
        return HttpResponse(str(refused), content_type="text/plain; charset=utf-8", status=422)
    response = HttpResponse(text, content_type=f"{chosen.content_type}; charset=utf-8")
    name = f"{file_stem(stave.scene.name)}_{file_stem(stave.character.name)}_reading.{chosen.ending}"
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@require_POST
def bring_in(request: HttpRequest, pk: int) -> JsonResponse:
    """A reading from a file, as a form: version and file; answers as an edit does, with notes."""
    found = _stave(request, pk, "edit")

    def do() -> dict[str, Any]:
        upload, version = request.FILES.get("file"), request.POST.get("version", "")
        if upload is None or not version.isascii() or not version.isdigit():
            raise ReadingError("No file came through; choose it again.")
        return {"notes": exchange.bring_in(request.user, found, int(version), text_of(upload))[1]}

    return answer(do, lambda: stave_document(_stave(request, pk)))


@require_POST
def read(request: HttpRequest, pk: int) -> JsonResponse:
    """Queue the reading of some lines, or of some words of one; JSON in, {"lines", "words"}, the job's address out."""
    scene = find_scene(request.user, pk, "edit")
    try:
        asked = json.loads(request.body)
        lines, chosen = many(whole)(asked.get("lines", [])), many(place)(asked.get("words", []))
    except (ValueError, TypeError, AttributeError, OverflowError, RecursionError):
        return JsonResponse({"problem": "This could not be understood; reload the page and do it again."}, status=422)
    try:
        job = actions.ask_to_read(request.user, scene, lines, chosen)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse({"job": reverse("job", args=[job.pk])})
