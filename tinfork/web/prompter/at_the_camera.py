"""The camera's own addresses: have a frame taken, and see what was taken."""

from typing import Annotated

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_POST
from msgspec import Meta, Struct

from tinfork.core.errors import TinForkError
from tinfork.core.limits import MAX_SCENE_FRAMES
from tinfork.web.edits.requests import parsed
from tinfork.web.productions.permissions import find_scene

from . import camera


class OneFrame(Struct, frozen=True, forbid_unknown_fields=True):
    """A frame, counted from 0."""

    frame: Annotated[int, Meta(ge=0, le=MAX_SCENE_FRAMES)]


@require_POST
def take(request: HttpRequest, pk: int) -> JsonResponse:
    """Have the camera take a frame; what was taken then."""
    scene = find_scene(request.user, pk, "edit")
    try:
        asked: OneFrame = parsed(request, OneFrame)
        camera.take(scene, asked.frame)
        return JsonResponse({"taken": camera.taken(scene)})
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)


def taken(request: HttpRequest, pk: int) -> JsonResponse:
    """How often each frame of the scene was taken."""
    scene = find_scene(request.user, pk)
    try:
        return JsonResponse({"taken": camera.taken(scene)})
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)


def picture(request: HttpRequest, pk: int, frame: int) -> HttpResponse:
    """The last picture of a frame."""
    scene = find_scene(request.user, pk)
    try:
        return HttpResponse(camera.picture(scene, frame), content_type="image/jpeg")
    except TinForkError as refused:
        return HttpResponse(str(refused), content_type="text/plain; charset=utf-8", status=404)
