"""What comes next in the order of the work, so that nobody has to know where a thing lives."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from tinfork.core.script.casting import cast_lines
from tinfork.core.speech.words import spoken_part
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import find_scene
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.models import ReadLine
from tinfork.web.tracks.checking import looks_wrong


def next_step(request: HttpRequest, pk: int) -> HttpResponse:
    """Return the step after what there is of a scene, as the bar shows it. ?view=: where it is asked from."""
    scene = find_scene(request.user, pk)
    return render(request, "next_step.html", step_context(scene, request.GET.get("view", ""), look=True))


def step_context(scene: Scene, view: str, look: bool = False) -> dict[str, Any]:
    """What next_step.html shows: the step, and whether it is done in the view that shows it. look: see step_of."""
    goal, text = step_of(scene, view, look)
    return {"scene": scene, "goal": goal, "text": text, "here": goal == view}


def step_of(scene: Scene, view: str, look: bool = False) -> tuple[str, str]:
    """The name of the view where it is done, and what it is; ("", "") when nothing comes after. look: whether the whole
    scene may be looked through for what is wrong, which takes a while; else only what is known is said."""
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
    if view == "desk":
        return _after_correcting(scene, look)
    return ("", "") if view == "handover" else ("desk", "watch and correct")


def _after_correcting(scene: Scene, look: bool) -> tuple[str, str]:
    staves = list(scene.staves.only("where", "version", "scene"))
    if any(stave.has_unwritten for stave in staves):
        return "desk", "write what was said"
    wrong = [looks_wrong(stave, look) for stave in staves]
    if any(wrong):
        return "desk", "look at the checks"
    return ("handover", "hand over") if all(one is False for one in wrong) else ("desk", "watch and correct")
