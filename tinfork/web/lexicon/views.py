from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import ScriptError, TinForkError
from tinfork.core.naming import file_stem
from tinfork.core.speech.espeak import languages_by_name
from tinfork.core.speech.phones import KEYBOARD
from tinfork.web.productions.models import Production
from tinfork.web.productions.permissions import check, may
from tinfork.web.sound.uploads import text_of

from . import actions, preview

_SHOWN_USES = 6
_SHOWN_ENTRIES = 200


def _production(request: HttpRequest, pk: int, need: str = "see") -> Production:
    found = get_object_or_404(Production, pk=pk)
    check(request.user, found, need)
    return found


def page(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the lexicon, searched by ?q=."""
    return _page(request, _production(request, pk))


def _page(
    request: HttpRequest, production: Production, known: actions.Uses | None = None, **extra: Any
) -> HttpResponse:
    asked = request.GET.get("q", "").strip().lower()
    known = actions.uses(production) if known is None else known
    entries = []
    found = production.lexicon.filter(word__contains=asked)
    for entry in found[:_SHOWN_ENTRIES]:
        used = actions.uses_of(entry.word, entry.language, known)
        entries.append({"entry": entry, "uses": used[:_SHOWN_USES], "count": len(used)})
    context = {
        "production": production,
        "entries": entries,
        "more": max(0, found.count() - _SHOWN_ENTRIES),
        "asked": asked,
        "languages": languages_by_name(),
        "keyboard": KEYBOARD,
        "may_edit": may(request.user, production, "edit"),
        **extra,
    }
    return render(request, "lexicon/lexicon.html", context, status=422 if extra.get("problem") else 200)


@require_POST
def save(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep an entry; as JSON for the word window, with the lines it changes, else the page."""
    production = _production(request, pk, "edit")
    asked = request.POST
    word, language, ipa = asked.get("word", ""), asked.get("language", ""), asked.get("ipa", "")
    as_json = "application/json" in request.headers.get("Accept", "")
    try:
        entry = actions.save_entry(request.user, production, word, language, ipa)
    except TinForkError as refused:
        if as_json:
            return JsonResponse({"problem": str(refused)}, status=422)
        return _page(request, production, problem=str(refused), typed=asked)
    known = actions.uses(production)
    used = actions.uses_of(entry.word, entry.language, known)
    if as_json:
        affected = [{"scene": use.scene.pk, "line": use.line.id, "number": use.number} for use in used]
        return JsonResponse({"word": entry.word, "ipa": entry.ipa, "affected": affected})
    return _page(request, production, known, saved=entry, changed=_by_scene(used))


def _by_scene(used: list[actions.Use]) -> list[dict[str, Any]]:
    scenes: dict[int, dict[str, Any]] = {}
    for use in used:
        scenes.setdefault(use.scene.pk, {"scene": use.scene, "lines": []})["lines"].append(use.line.id)
    return list(scenes.values())


@require_POST
def delete(request: HttpRequest, pk: int, entry: int) -> HttpResponse:
    """Take an entry away."""
    production = _production(request, pk, "edit")
    try:
        actions.delete_entry(request.user, production, entry)
    except TinForkError as refused:
        return _page(request, production, problem=str(refused))
    return _page(request, production)


@require_POST
def bring(request: HttpRequest, pk: int) -> HttpResponse:
    """Bring in a CSV of entries: good rows are taken, bad ones listed with their line numbers."""
    production = _production(request, pk, "edit")
    upload = request.FILES.get("file")
    try:
        if upload is None:
            raise ScriptError("No file came through; choose it again.")
        taken, problems = actions.import_csv(request.user, production, text_of(upload))
    except TinForkError as refused:
        return _page(request, production, problem=str(refused))
    return _page(request, production, taken=taken, bad_rows=problems)


def export(request: HttpRequest, pk: int) -> HttpResponse:
    """Return the lexicon as CSV."""
    production = _production(request, pk)
    response = HttpResponse(actions.export_csv(production), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{file_stem(production.name)}_lexicon.csv"'
    return response


def attempt(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what a word could be (?word= or ?respelled=, ?language=), or the mouths of ?ipa=."""
    _production(request, pk)
    asked = request.GET
    try:
        if asked.get("ipa"):
            return JsonResponse(preview.mouths(asked["ipa"]))
        language = asked.get("language") or "en"
        found = preview.candidates(asked.get("word", ""), language, asked.get("respelled", ""))
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse({"candidates": found})


def say(request: HttpRequest, pk: int) -> HttpResponse:
    """Return a pronunciation (?ipa=) spoken by the scratch voice."""
    _production(request, pk)
    try:
        return HttpResponse(preview.spoken(request.GET.get("ipa", "")), content_type="audio/wav")
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
