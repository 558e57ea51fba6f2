"""The camera's own addresses: have a frame taken, and see what was taken."""

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_POST
from msgspec import Meta, Struct

from tinfork.core.errors import TinForkError
from tinfork.core.limits import MAX_SCENE_FRAMES
from tinfork.web.edits.requests import answer_of, parsed
from tinfork.web.productions.permissions import find_scene

from . import camera


class OneFrame(Struct, frozen=True, forbid_unknown_fields=True):
    """A frame, counted from 0."""

    frame: Annotated[int, Meta(ge=0, le=MAX_SCENE_FRAMES)]


@require_POST
def take(request: HttpRequest, pk: int) -> JsonResponse:
    """Have the camera take a frame; how often that was taken now."""
    scene = find_scene(request.user, pk, "edit")

    def do() -> dict[str, Any]:
        asked: OneFrame = parsed(request, OneFrame)
        return {"taken": {asked.frame: camera.take(scene, asked.frame)}}

    return answer_of(do)


def taken(request: HttpRequest, pk: int) -> JsonResponse:
    """Return how often each frame of the scene was taken."""
    scene = find_scene(request.user, pk)
    return answer_of(lambda: {"taken": camera.taken(scene)})


def picture(request: HttpRequest, pk: int, frame: int) -> HttpResponse:
    """Return the last picture of a frame."""
    scene = find_scene(request.user, pk)
    try:
        return HttpResponse(camera.picture(scene, frame), content_type="image/jpeg")
    except TinForkError as refused:
        return HttpResponse(str(refused), content_type="text/plain; charset=utf-8", status=404)
