import json
from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.core.formats import script_text, subtitles
from tinfork.core.naming import file_stem
from tinfork.core.plain import restore
from tinfork.core.script import lines, revising
from tinfork.core.speech.espeak import languages_by_name
from tinfork.core.speech.phones import KEYBOARD
from tinfork.web.cleaning import natural
from tinfork.web.edits import actions as edits
from tinfork.web.edits.following import Changes, listening
from tinfork.web.jobs.models import Job
from tinfork.web.productions.permissions import find_scene, may
from tinfork.web.reading.asking import ask_to_read
from tinfork.web.script import actions
from tinfork.web.script.models import Script
from tinfork.web.script.verbs import VERBS
from tinfork.web.sound.models import Arrangement
from tinfork.web.sound.uploads import text_of

from .script_rows import Stand, cues, head, rows

_EXPORTS: dict[str, tuple[Callable[..., str], str]] = {
    "srt": (subtitles.write_srt, "application/x-subrip"),
    "vtt": (subtitles.write_vtt, "text/vtt"),
    "txt": (script_text.write_plain, "text/plain"),
    "screenplay.txt": (script_text.write_screenplay, "text/plain"),
}


def _script(request: HttpRequest, pk: int, need: str = "see") -> Script:
    return actions.script_of(find_scene(request.user, pk, need))


def _context(request: HttpRequest, stand: Stand, **extra: Any) -> dict[str, Any]:
    scene = stand.document.scene
    return {
        "scene": scene,
        "view": "script",
        "languages": languages_by_name(),
        "kinds": actions.KINDS,
        "may_edit": may(request.user, scene.production, "edit"),
        "job": Job.objects.filter(kind="read", subject=scene.pk).first(),
        "keyboard": KEYBOARD,
        "steps": stand.document.steps,
        **head(stand),
        **extra,
    }


def page(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the Script view."""
    stand = Stand.of(_script(request, pk))
    return render(request, "script/script.html", _context(request, stand, lines=rows(stand)))


def all_lines(request: HttpRequest, pk: int) -> HttpResponse:
    """Return the lines alone, as after a change."""
    return _lines(request, _script(request, pk))


def _lines(request: HttpRequest, document: Script, **extra: Any) -> HttpResponse:
    """Return the lines; in the whole view where the browser asks on its own, because the page's code had not begun
    yet."""
    document.read_again()
    stand = Stand.of(document)
    template = "script/lines.html" if "HX-Request" in request.headers else "script/script.html"
    return render(request, template, _context(request, stand, lines=rows(stand), **extra))


def _patch(request: HttpRequest, now: Stand, before: Stand, **extra: Any) -> HttpResponse:
    """Return what has changed since the script stood as before: lines that are new or other than they were, those that
    are gone, and the order where it is another."""
    order = now.order
    context = {
        "lines": rows(now, now.changed_since(before)),
        "gone": sorted({*before.order} - {*order}),
        "order": order if order != before.order else None,
    }
    return render(request, "script/patch.html", _context(request, now, **context, **extra))


@require_POST
def edit(request: HttpRequest, pk: int) -> HttpResponse:
    """Do one edit on one version, as a form: verb, version, line …; answers with what it changed, or where it is
    refused with the lines as they are."""
    document = actions.script_of(find_scene(request.user, pk, "edit"), light=True)
    try:
        with listening() as changes:
            done = VERBS.perform(request.user, document, VERBS.of_form(request.POST)).get("done")
    except edits.Stale as refused:
        document.read_again()
        again = json.dumps({**request.POST.dict(), "version": document.version})
        return _lines(request, document, problem=str(refused), again=again)
    except TinForkError as refused:
        document.read_again()
        stand = Stand.of(document)
        return _patch(request, stand, stand, problem=str(refused))
    return _changed(request, document, changes, notes=[done] if done else [])


def _changed(request: HttpRequest, document: Script, changes: Changes, **extra: Any) -> HttpResponse:
    """Return what some changes changed of the script; all of its lines where the sound has changed as well."""
    scripts = [(one, before["body"]) for one, before in changes if isinstance(one, Script)]
    if any(isinstance(one, Arrangement) for one, _ in changes):
        return _lines(request, document, **extra)
    if not scripts:
        document.read_again()
    now = Stand.of(scripts[-1][0] if scripts else document)
    before = Stand.of(now.document, restore(scripts[0][1], lines.Script), now.arrangement) if scripts else now
    return _patch(request, now, before, **extra)


@require_POST
def bring(request: HttpRequest, pk: int) -> HttpResponse:
    """Add lines that were typed, pasted or in a file at the end. What was typed stays when it is refused."""
    document = _script(request, pk, "edit")
    typed, upload = request.POST.get("text", ""), request.FILES.get("file")
    try:
        text = text_of(upload) if upload else typed
        _, notes = actions.add_text(request.user, document, None, text, request.POST.get("kind", "auto"))
    except TinForkError as refused:
        return _lines(request, document, import_problem=str(refused), typed=typed)
    return _lines(request, document, notes=notes)


def revise(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a form for a revised script; with POST what it would change, and with take lay it over the one there is."""
    document = _script(request, pk, "edit")
    asked = request.POST
    context: dict[str, Any] = {"scene": document.scene, "view": "script", "kinds": actions.KINDS, "asked": asked}
    kind = asked.get("kind", "auto")
    if request.method != "POST":
        return render(request, "script/revise.html", context)
    try:
        upload = request.FILES.get("file")
        context["typed"] = text = text_of(upload) if upload else asked.get("text", "")
        if "take" in asked:
            actions.take_revised(request.user, document, natural(asked.get("version")) or 0, text, kind)
            return redirect("script", document.scene.pk)
    except TinForkError as refused:
        context["problem"] = str(refused)
        document.read_again()
    try:
        _, told, notes = actions.revised(document, context.get("typed", ""), kind)
        context |= {"told": _told_lines(document, told), "notes": notes, "version": document.version}
    except TinForkError as refused:
        context["problem"] = str(refused)
    return render(request, "script/revise.html", context, status=422 if "problem" in context else 200)


def _told_lines(document: Script, told: list[revising.Revised]) -> list[dict[str, Any]]:
    """What becomes of each line, as the page shows it."""
    names = dict(document.scene.production.characters.values_list("pk", "name"))

    def row(one: revising.Revised) -> dict[str, Any]:
        before = one.before
        other = before is not None and before.character != one.line.character
        now = one.line.text
        return {
            "kind": one.kind,
            "moved": one.moved,
            "who": names.get(one.line.character or 0, ""),
            "was": names.get(before.character or 0, "nobody") if before and other else "",
            "words": revising.worded(before.text, now)
            if one.kind == revising.CHANGED and before
            else [(one.kind, now)],
        }

    return [row(one) for one in told]


@require_POST
def read(request: HttpRequest, pk: int) -> HttpResponse:
    """Queue a reading: of some lines (?only=), of those that changed, or of all (?all=)."""
    document = _script(request, pk, "edit")
    only = [number for line in request.POST.getlist("only") if (number := natural(line)) is not None]
    try:
        ask_to_read(request.user, document.scene, only, all="all" in request.POST)
    except TinForkError as refused:
        return _lines(request, document, problem=str(refused))
    return _lines(request, document)


def export(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """Return the script as a file: SRT and WebVTT hold the lines that have times, the text formats all of them."""
    document = _script(request, pk)
    if kind not in _EXPORTS:
        raise Http404
    write, content_type = _EXPORTS[kind]
    response = HttpResponse(write(cues(document)), content_type=f"{content_type}; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{file_stem(document.scene.name)}.{kind}"'
    return response
