from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import reverse
from msgspec import Meta, Struct

from tinfork.web.desk.document import scene_document
from tinfork.web.edits.requests import Integer, answer_of, parsed
from tinfork.web.productions.permissions import find_scene
from tinfork.web.reading.by_hand import staves_to_show
from tinfork.web.sound.arranging import arrangement_of

from .actions import Said, keep, log
from .camera import connected


class AllSaid(Struct, frozen=True, forbid_unknown_fields=True):
    """What a page has to say, in the order it came about; since: the last entry it knows."""

    said: Annotated[list[Said], Meta(max_length=2_000)]
    since: Integer = 0


def prompter(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the prompter of a scene, with the first slice of every stave."""
    scene = find_scene(request.user, pk)
    staves = [one for one in staves_to_show(request.user, scene, arrangement_of(scene)) if one.stave.is_seen]
    document = {
        **scene_document(request.user, scene, staves),
        "log": log(scene),
        "logUrl": reverse("prompter-log", args=[scene.pk]),
        "camera": connected()
        and {
            "takeUrl": reverse("camera-take", args=[scene.pk]),
            "takenUrl": reverse("camera-taken", args=[scene.pk]),
            "pictures": reverse("camera-picture", args=[scene.pk, 0]).removesuffix("0.jpg"),
        },
        "phoneUrl": reverse("pairing-offer", args=[scene.pk]),
    }
    return render(
        request,
        "prompter/prompter.html",
        {
            "scene": scene,
            "view": "prompter",
            "document": document,
            "empty": not staves,
            "last_step": arrangement_of(scene).steps["undo"],
        },
    )


def shots(request: HttpRequest, pk: int) -> JsonResponse:
    """Return the log; with POST what a page has to say is kept first."""
    scene = find_scene(request.user, pk, "edit" if request.method == "POST" else "see")

    def do() -> dict[str, Any]:
        if request.method != "POST":
            return log(scene)
        asked: AllSaid = parsed(request, AllSaid)
        keep(request.user, scene, asked.said)
        return log(scene, asked.since)

    return answer_of(do)
