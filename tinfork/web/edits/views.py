from django.http import HttpRequest, JsonResponse
from django.views.decorators.http import require_POST
from msgspec import Struct

from tinfork.core.errors import TinForkError
from tinfork.web.productions.permissions import find_scene

from . import history
from .requests import Integer, parsed


class Back(Struct, frozen=True, forbid_unknown_fields=True):
    """A step; alone: take back only it, else go back to it; or the number of a person all of whose steps are taken
    back."""

    step: Integer = 0
    alone: bool = False
    person: Integer | None = None


def versions(request: HttpRequest, pk: int) -> JsonResponse:
    """Return the versions of all documents of a scene, which is what an open page asks now and then."""
    scene = find_scene(request.user, pk)
    return JsonResponse({"versions": history.versions(scene)})


def steps(request: HttpRequest, pk: int) -> JsonResponse:
    """Return the last steps of a scene, the newest first."""
    return JsonResponse({"steps": history.steps(find_scene(request.user, pk))})


@require_POST
def back(request: HttpRequest, pk: int) -> JsonResponse:
    """Go back to a step, or take back one alone, or all of one person; the history as it is then."""
    scene = find_scene(request.user, pk, "edit")
    try:
        asked: Back = parsed(request, Back)
        if asked.person is not None:
            history.take_back_all_of(request.user, scene, asked.person)
        else:
            (history.take_back if asked.alone else history.back_to)(request.user, scene, asked.step)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse({"steps": history.steps(scene)})
