"""The Sound view."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from tinfork.core.limits import MAX_SOUND_BYTES
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import find_scene, may
from tinfork.web.script.actions import script_of
from tinfork.web.script.languages import language_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.document import cast_document, sound_document, time_base, voices_document


def page(request: HttpRequest, pk: int) -> HttpResponse:
    """Tracks and clips, takes and scratch voices."""
    scene = find_scene(request.user, pk)
    cast, lines = cast_document(scene.production), _lines(scene)
    document = {
        "scene": time_base(scene),
        "cast": cast,
        "lines": lines,
        "voices": voices_document(one["language"] for one in [*cast, *lines]),
        "mayEdit": may(request.user, scene.production, "edit"),
        "mostBytes": MAX_SOUND_BYTES,
        "sound": sound_document(arrangement_of(scene)),
    }
    return render(request, "sound/sound.html", {"scene": scene, "view": "sound", "document": document})


def _lines(scene: Scene) -> list[dict[str, Any]]:
    """The lines a scratch voice can speak, in their languages."""
    cast = list(scene.production.characters.all())
    return [
        {"id": line.id, "text": line.text, "character": line.character, "language": language_of(scene, line, cast)}
        for line in script_of(scene).value.lines
    ]
