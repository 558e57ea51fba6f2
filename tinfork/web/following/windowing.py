"""A shot begins and ends elsewhere: what lies on its sounds stays on them, what lies on its frames goes along."""

from typing import Any

from tinfork.core.following.ways import Leg, OtherSounds
from tinfork.core.limits import MAX_SCENE_FRAMES
from tinfork.core.sound import arrangement as core
from tinfork.core.sound.anchors import SCENE
from tinfork.web.edits import actions as edits
from tinfork.web.edits.models import Edit
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.sound.arranging import arrangement_of

from .carrying import Along, actings_along, scene_along, staves_along

VERB = "in and out"
_FAR = float(2 * MAX_SCENE_FRAMES)


def set_window(person: Person, scene: Scene, first: int, frames: int) -> int | None:
    """Let a locked scene begin with one of its frames, counted from 0, or so many before its first where that is
    negative, and have so many frames. Nothing is cut away: what lies outside comes back when it is let in again. Return
    the step of its history, None where it was so already."""
    check(person, scene.production, "edit")
    document = arrangement_of(scene)
    if not first and document.value.frames == frames:
        return None
    along = Along()
    with edits.one_step():
        if first:
            way = OtherSounds(scene.fps, {SCENE: [Leg(-_FAR, _FAR, SCENE, -_FAR - first, _FAR - first)]})
            staves_along(person, scene, way, VERB, along)
            actings_along(person, scene, way, VERB, along, document.value)
            scene_along(person, scene, way, VERB, along)
        held = edits.locked(person, document)
        changed: dict[str, Any] = {"body": core.set_length(_shifted(held.value, -first), frames)}
        edits.change(person, held, VERB, changed, everywhere=bool(first))
    last = Edit.objects.of_scene(scene, undone=False).last()
    return last.step if last else None


def _shifted(value: core.Arrangement, by: int) -> core.Arrangement:
    return core.slide(value, [clip.id for clip in value.clips], by) if by and value.clips else value
