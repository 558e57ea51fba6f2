import json
from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import render
from django.views.decorators.http import require_POST

from tinfork.core.errors import ScriptError, TinForkError
from tinfork.core.formats import script_text, subtitles
from tinfork.core.formats.pictures import file_stem
from tinfork.core.speech.espeak import languages_by_name
from tinfork.core.speech.phones import KEYBOARD
from tinfork.web.edits import actions as edits
from tinfork.web.jobs.models import Job
from tinfork.web.productions.permissions import find_scene, may
from tinfork.web.reading.actions import ask_to_read
from tinfork.web.sound.uploads import text_of

from . import actions
from .models import Script
from .rows import cues, rows

_EXPORTS: dict[str, tuple[Callable[..., str], str]] = {
    "srt": (subtitles.write_srt, "application/x-subrip"),
    "vtt": (subtitles.write_vtt, "text/vtt"),
    "txt": (script_text.write_plain, "text/plain"),
    "screenplay.txt": (script_text.write_screenplay, "text/plain"),
}


def _script(request: HttpRequest, pk: int, need: str = "see") -> Script:
    return actions.script_of(find_scene(request.user, pk, need))


def _context(request: HttpRequest, document: Script, **extra: Any) -> dict[str, Any]:
    scene = document.scene
    return {
        "scene": scene,
        "view": "script",
        "languages": languages_by_name(),
        "kinds": actions.KINDS,
        "may_edit": may(request.user, scene.production, "edit"),
        "job": Job.objects.filter(kind="read", subject=scene.pk).first(),
        "keyboard": KEYBOARD,
        **rows(document),
        **extra,
    }


def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The Script view."""
    return render(request, "script/script.html", _context(request, _script(request, pk)))


def lines(request: HttpRequest, pk: int) -> HttpResponse:
    """The lines alone, as after a change."""
    return _lines(request, _script(request, pk))


def _lines(request: HttpRequest, document: Script, **extra: Any) -> HttpResponse:
    document.refresh_from_db()
    return render(request, "script/lines.html", _context(request, document, **extra))


@require_POST
def edit(request: HttpRequest, pk: int) -> HttpResponse:
    """One edit on one version, as a form: verb, version, line …; answers with the lines as they are then."""
    document = _script(request, pk, "edit")
    try:
        _verb(request, document)
    except edits.Stale as refused:
        document.refresh_from_db()
        again = json.dumps({**request.POST.dict(), "version": document.version})
        return _lines(request, document, problem=str(refused), again=again)
    except TinForkError as refused:
        return _lines(request, document, problem=str(refused))
    return _lines(request, document)


def _verb(request: HttpRequest, document: Script) -> None:
    asked, person = request.POST, request.user
    verb, version, line = asked.get("verb"), _whole(asked, "version"), _whole(asked, "line", 0)
    if verb == "write":
        actions.write(person, document, version, line, asked.get("text", ""))
    elif verb == "assign":
        actions.assign(person, document, version, line, _whole(asked, "character", 0) or None)
    elif verb == "language":
        actions.set_language(person, document, version, line, asked.get("language", ""))
    elif verb == "say":
        actions.say(person, document, version, line, _whole(asked, "word"), asked.get("ipa", ""))
    elif verb == "split":
        actions.split(person, document, version, line, _whole(asked, "word"))
    elif verb == "join":
        actions.join(person, document, version, line)
    elif verb == "move":
        actions.move(person, document, version, line, _whole(asked, "by"))
    elif verb == "remove":
        actions.remove(person, document, version, line)
    elif verb in ("undo", "redo"):
        (edits.undo if verb == "undo" else edits.redo)(person, document, version)
    else:
        raise ScriptError("This edit could not be understood; reload the page and do it again.")


def _whole(asked: QueryDict, name: str, otherwise: int | None = None) -> int:
    text = asked.get(name, "")
    if text.removeprefix("-").isascii() and text.removeprefix("-").isdigit() and len(text) < 18:
        return int(text)
    if otherwise is None:
        raise ScriptError("This edit could not be understood; reload the page and do it again.")
    return otherwise


@require_POST
def bring(request: HttpRequest, pk: int) -> HttpResponse:
    """Lines typed, pasted or from a file, added at the end. What was typed stays when it is refused."""
    document = _script(request, pk, "edit")
    typed, upload = request.POST.get("text", ""), request.FILES.get("file")
    try:
        text = text_of(upload) if upload else typed
        _, notes = actions.add_text(request.user, document, None, text, request.POST.get("kind", "auto"))
    except TinForkError as refused:
        return _lines(request, document, import_problem=str(refused), typed=typed)
    return _lines(request, document, notes=notes)


@require_POST
def read(request: HttpRequest, pk: int) -> HttpResponse:
    """Queue a reading: of some lines (?only=), of those that changed, or of all (?all=)."""
    document = _script(request, pk, "edit")
    only = [int(line) for line in request.POST.getlist("only") if line.isdigit()]
    try:
        ask_to_read(request.user, document.scene, only, all="all" in request.POST)
    except TinForkError as refused:
        return _lines(request, document, problem=str(refused))
    return _lines(request, document)


def export(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """The script as a file: SRT and WebVTT hold the lines that have times, the text formats all of them."""
    document = _script(request, pk)
    if kind not in _EXPORTS:
        raise Http404
    write, content_type = _EXPORTS[kind]
    response = HttpResponse(write(cues(document)), content_type=f"{content_type}; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{file_stem(document.scene.name)}.{kind}"'
    return response
