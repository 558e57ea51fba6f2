import json
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.core.limits import MAX_SOUND_BYTES
from tinfork.core.speech.espeak import languages
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import check, may
from tinfork.web.sound.actions import bring_in

from . import actions
from .desk import scene_document, stave_document
from .models import Stave


def _scene(request: HttpRequest, pk: int, need: str = "see") -> Scene:
    scene = get_object_or_404(Scene.objects.select_related("production"), pk=pk)
    check(request.user, scene.production, need)
    return scene


def _stave(request: HttpRequest, pk: int, need: str = "see") -> Stave:
    stave = get_object_or_404(Stave.objects.select_related("scene__production", "character", "sound"), pk=pk)
    check(request.user, stave.scene.production, need)
    return stave


def _card(scene: Scene, character: Character, problem: str = "", typed: dict[str, str] | None = None) -> dict[str, Any]:
    """What a character's card shows: its stave if there is one, its last reading job, what went wrong just now."""
    stave = scene.staves.filter(character=character).select_related("sound").first()
    job = Job.objects.filter(kind="read", subject=stave.pk).first() if stave else None
    card = {"scene": scene, "character": character, "stave": stave, "job": job, "problem": problem}
    card["busy"] = job is not None and not job.ended
    kept = {"script": stave.script if stave else "", "language": stave.language if stave else "en"}
    return card | kept | (typed or {})


def voices(request: HttpRequest, pk: int) -> HttpResponse:
    """A scene's sound and script, a card for each character."""
    scene = _scene(request, pk)
    cards = [_card(scene, character) for character in scene.production.characters.all()]
    context = {
        "scene": scene,
        "cards": cards,
        "view": "voices",
        "may_edit": may(request.user, scene.production, "edit"),
    }
    return render(request, "reading/voices.html", context | _offers())


def voice(request: HttpRequest, scene_pk: int, character_pk: int) -> HttpResponse:
    """One character's card."""
    scene = _scene(request, scene_pk)
    return _render_card(request, _card(scene, get_object_or_404(scene.production.characters, pk=character_pk)))


def _render_card(request: HttpRequest, card: dict[str, Any]) -> HttpResponse:
    context = {"card": card, "may_edit": may(request.user, card["scene"].production, "edit")}
    return render(request, "reading/voice.html", context | _offers())


def _offers() -> dict[str, Any]:
    """What every card offers and allows."""
    return {"max_bytes": MAX_SOUND_BYTES, "languages": sorted(languages().items(), key=lambda item: item[1])}


@require_POST
def drop_sound(request: HttpRequest, scene_pk: int, character_pk: int) -> HttpResponse:
    """A file dropped on a character. What was typed meanwhile stays."""
    scene = _scene(request, scene_pk, "edit")
    character = get_object_or_404(scene.production.characters, pk=character_pk)
    problem = ""
    try:
        upload = request.FILES.get("sound")
        if upload is None:
            raise TinForkError("No file came through; drop it again.")
        sound = bring_in(request.user, scene.production, upload)
        stave = actions.stave_for(request.user, scene, character)
        actions.place_sound(request.user, stave, sound)
    except TinForkError as refused:
        problem = str(refused)
    return _render_card(request, _card(scene, character, problem, _typed(request)))


def _typed(request: HttpRequest) -> dict[str, str]:
    return {name: request.POST[name] for name in ("script", "language") if name in request.POST}


@require_POST
def read(request: HttpRequest, scene_pk: int, character_pk: int) -> HttpResponse:
    """Keep the script and queue its reading."""
    scene = _scene(request, scene_pk, "edit")
    character = get_object_or_404(scene.production.characters, pk=character_pk)
    problem = ""
    try:
        stave = actions.stave_for(request.user, scene, character)
        typed = _typed(request)
        stave = actions.write_script(
            request.user, stave, typed.get("script", stave.script), typed.get("language", stave.language)
        )
        actions.ask_to_read(request.user, stave)
    except TinForkError as refused:
        problem = str(refused)
    return _render_card(request, _card(scene, character, problem, _typed(request) if problem else None))


def desk(request: HttpRequest, pk: int) -> HttpResponse:
    """The Reading desk."""
    scene = _scene(request, pk)
    staves = scene.staves.select_related("character", "sound", "scene__production").exclude(sound=None)
    document = {
        "scene": scene_document(scene),
        "mayEdit": may(request.user, scene.production, "edit"),
        "staves": [stave_document(stave) for stave in staves],
    }
    return render(request, "reading/desk.html", {"scene": scene, "view": "desk", "document": document})


def stave(request: HttpRequest, pk: int) -> JsonResponse:
    """One stave as the desk draws it."""
    return JsonResponse(stave_document(_stave(request, pk)))


@require_POST
def edit(request: HttpRequest, pk: int) -> JsonResponse:
    """One edit on one version, as JSON: {"verb", "version", ...}. Answers with the stave as it is then.

    422 when it cannot be done, 409 when the version is stale; both with a sentence and the stave as it is.
    """
    stave = _stave(request, pk, "edit")
    try:
        stave = _do(request, stave)
    except actions.Stale as refused:
        return _refusal(request, pk, str(refused), 409)
    except TinForkError as refused:
        return _refusal(request, pk, str(refused), 422)
    return JsonResponse({"stave": stave_document(_stave(request, pk))})


def _refusal(request: HttpRequest, pk: int, problem: str, status: int) -> JsonResponse:
    return JsonResponse({"problem": problem, "stave": stave_document(_stave(request, pk))}, status=status)


def _do(request: HttpRequest, stave: Stave) -> Stave:
    malformed = TinForkError("This edit could not be understood; reload the page and do it again.")
    try:
        asked = json.loads(request.body)
        verb, version = str(asked["verb"]), int(asked["version"])
        if verb == "pin":
            frame, frames, drawing = int(asked["frame"]), int(asked["frames"]), str(asked["drawing"])
            return actions.pin_drawing(request.user, stave, version, frame, frames, drawing)
        if verb == "unpin":
            return actions.unpin(request.user, stave, version, int(asked["frame"]))
        if verb == "settings":
            hold, lead, detail = int(asked["hold"]), int(asked["lead"]), float(asked["detail"])
            return actions.change_settings(request.user, stave, version, hold, lead, detail)
        if verb in ("undo", "redo"):
            return (actions.undo if verb == "undo" else actions.redo)(request.user, stave, version)
    except (ValueError, KeyError, TypeError, OverflowError):
        raise malformed from None
    raise malformed
