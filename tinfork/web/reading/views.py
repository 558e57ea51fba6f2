from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from tinfork.web.edits import actions as edits
from tinfork.web.edits.requests import Verbs, answer, number, perform, text, whole
from tinfork.web.productions.permissions import check, find_scene, may
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.document import sound_document, time_base

from . import actions
from .desk import stave_document
from .models import Stave

VERBS: Verbs = {
    "pin": (actions.pin_drawing, {"frame": whole, "frames": whole, "drawing": text}),
    "unpin": (actions.unpin, {"frame": whole}),
    "settings": (actions.change_settings, {"hold": whole, "lead": whole, "detail": number}),
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
