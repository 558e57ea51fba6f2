"""What comes next in the order of the work, so that nobody has to know where a thing lives."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from tinfork.core.script.casting import cast_lines
from tinfork.core.speech.words import spoken_part
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import find_scene
from tinfork.web.reading.models import ReadLine
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of


def next_step(request: HttpRequest, pk: int) -> HttpResponse:
    """The step after what there is of a scene, as the bar shows it. ?view=: where it is asked from."""
    scene = find_scene(request.user, pk)
    return render(request, "next_step.html", step_context(scene, request.GET.get("view", "")))


def step_context(scene: Scene, view: str) -> dict[str, Any]:
    """What next_step.html shows: the step, and whether it is done in the view that shows it."""
    goal, text = step_of(scene, view)
    return {"scene": scene, "goal": goal, "text": text, "here": goal == view}


def step_of(scene: Scene, view: str) -> tuple[str, str]:
    """The name of the view where it is done, and what it is; ("", "") when nothing comes after."""
    arrangement, script = arrangement_of(scene).value, script_of(scene).value
    if not any(track.is_read and track.clips for track in arrangement.tracks):
        return "sound", "bring a recording in"
    read = set(ReadLine.objects.filter(stave__scene=scene).values_list("line", flat=True))
    if not script.lines and not read:
        return "script", "give the words"
    without = {line.id for line in cast_lines(arrangement, script).without_sound}
    spoken = {line.id for line in script.lines if spoken_part(line.text).strip()} - without
    if spoken - read or not read:
        return "script", "press Read" if view == "script" else "read the words"
    if view in ("desk", "handover"):
        return ("handover", "hand over") if view == "desk" else ("", "")
    return "desk", "watch and correct"
