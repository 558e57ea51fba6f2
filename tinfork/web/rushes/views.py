from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from msgspec import Struct

from tinfork.core.errors import TinForkError
from tinfork.web.desk.document import scene_document
from tinfork.web.edits.requests import Integer, parsed
from tinfork.web.handover.models import Version
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import find_scene
from tinfork.web.reading.by_hand import staves_to_show
from tinfork.web.sound.arranging import arrangement_of

from . import actions
from .reviewing import changed_since, review_document, watched


class Said(Struct, frozen=True, forbid_unknown_fields=True):
    """What somebody says of a version: its number, and a kind of Verdict."""

    version: Integer
    kind: str


class Done(Struct, frozen=True, forbid_unknown_fields=True):
    """Whether a note is done."""

    note: Integer
    done: bool


class Gone(Struct, frozen=True, forbid_unknown_fields=True):
    """A note that is taken away."""

    note: Integer


def rushes(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a shot to be watched, noted on and approved."""
    scene = find_scene(request.user, pk)
    staves = [one for one in staves_to_show(request.user, scene, arrangement_of(scene)) if one.stave.has_mouths]
    document = {
        **scene_document(request.user, scene, staves),
        "review": review_document(request.user, scene),
        "reviewUrl": reverse("rushes", args=[scene.pk]),
    }
    context = {"scene": scene, "view": "rushes", "document": document, "empty": not staves}
    return render(request, "rushes/rushes.html", context)


def review(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what is told of a shot's review."""
    return JsonResponse(review_document(request.user, find_scene(request.user, pk)))


def _answer(request: HttpRequest, scene: Scene, do: Callable[[], Any]) -> JsonResponse:
    """Do something, and answer with the review as it is then."""
    try:
        do()
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse(review_document(request.user, scene))


@require_POST
def show(request: HttpRequest, pk: int) -> JsonResponse:
    """Keep the shot as it is now as a version to be looked at."""
    scene = find_scene(request.user, pk, "edit")
    return _answer(request, scene, lambda: actions.show_for_review(request.user, scene))


@require_POST
def judge(request: HttpRequest, pk: int) -> JsonResponse:
    """Say of the newest version that it is approved or wants changes."""
    scene = find_scene(request.user, pk, "approve")

    def do() -> None:
        asked: Said = parsed(request, Said)
        actions.judge(request.user, scene, asked.version, asked.kind)

    return _answer(request, scene, do)


@require_POST
def note(request: HttpRequest, pk: int) -> JsonResponse:
    """Keep a note, or an answer to one."""
    scene = find_scene(request.user, pk, "comment")
    return _answer(request, scene, lambda: actions.write(request.user, scene, parsed(request, actions.Note)))


@require_POST
def done(request: HttpRequest, pk: int) -> JsonResponse:
    """Say of a note whether it is done."""
    scene = find_scene(request.user, pk, "comment")

    def do() -> None:
        asked: Done = parsed(request, Done)
        actions.set_done(request.user, scene, asked.note, asked.done)

    return _answer(request, scene, do)


@require_POST
def take_away(request: HttpRequest, pk: int) -> JsonResponse:
    """Take away a note of one's own."""
    scene = find_scene(request.user, pk, "comment")

    def do() -> None:
        asked: Gone = parsed(request, Gone)
        actions.take_away(request.user, scene, asked.note)

    return _answer(request, scene, do)


def version(request: HttpRequest, pk: int, number: int) -> JsonResponse:
    """Return a version as a page shows it, and where what is seen has changed since."""
    scene = find_scene(request.user, pk)
    found = get_object_or_404(Version.objects.select_related("scene"), scene=scene, number=number)
    return JsonResponse(watched(found) | {"changes": changed_since(found)})
