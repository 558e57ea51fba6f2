"""From a stave's reading, settings and pins, and where its sound lies, to its mouth track, by the core's planner."""

from typing import Any

from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.curves import Curves
from tinfork.core.exposure.track import Pin
from tinfork.core.mouths.chart import Chart, built_in
from tinfork.core.script import marks
from tinfork.core.script.casting import clips_of
from tinfork.core.sound.anchors import AnchoredPin, place_pins, reading_in_scene
from tinfork.core.sound.arrangement import Clip
from tinfork.core.speech.reading import Reading
from tinfork.web.productions.models import Scene
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement

from .models import Stave


def chart_of(stave: Stave) -> Chart:
    """The drawings this stave's character speaks with."""
    return built_in()


def stave_clips(stave: Stave, document: Arrangement | None = None) -> tuple[Clip, ...]:
    """The clips the stave's character is heard in."""
    return clips_of((document or arrangement_of(stave.scene)).value, stave.character_id)


def scene_reading(stave: Stave, document: Arrangement | None = None) -> Reading | None:
    """The stave's reading where its sound lies in the scene now."""
    reading = stave.the_reading()
    if reading is None:
        return None
    document = document or arrangement_of(stave.scene)
    return reading_in_scene(reading, stave_clips(stave, document), document.value.frames, float(stave.scene.fps))


def placed_pins(stave: Stave, document: Arrangement | None = None) -> tuple[tuple[Pin, ...], tuple[AnchoredPin, ...]]:
    """The stave's pins in the scene's frames, and those whose sound is cut away now."""
    document = document or arrangement_of(stave.scene)
    return place_pins(stave.the_pins(), stave_clips(stave, document), document.value.frames)


def curves_of(stave: Stave, document: Arrangement | None = None) -> Curves:
    """The articulation of the stave's reading at the scene's frame rate. The stave must have a reading.

    Where the character was marked as speaking, their mouth moves there only.
    """
    document = document or arrangement_of(stave.scene)
    reading = scene_reading(stave, document)
    if reading is None:
        raise ValueError("the stave has no reading yet")
    allowed = marks.speaking(document.the_marks).get(stave.character_id)
    return curves.curves(reading.sounds(), reading.seconds, stave.scene.fps, allowed)


def replan(stave: Stave, document: Arrangement | None = None) -> None:
    """Set the stave's exposures anew from all that decides them. Nothing without a reading; does not save."""
    if stave.reading is None:
        stave.exposures = []
        return
    document = document or arrangement_of(stave.scene)
    pins, _ = placed_pins(stave, document)
    track = plan.plan(curves_of(stave, document), chart_of(stave), stave.the_settings(), pins)
    stave.exposures = [exposure.to_json() for exposure in track]


def replan_scene(scene: Scene, before: dict[str, Any], document: Arrangement) -> None:
    """Plan the staves anew for which something changed. before: the arrangement's choices as they were."""
    was = Arrangement(scene=scene, **before)
    for stave in scene.staves.select_for_update().select_related("character", "scene"):
        if _decides(was, stave.character_id) != _decides(document, stave.character_id):
            replan(stave, document)
            stave.version += 1
            stave.save()


def _decides(document: Arrangement, character: int) -> tuple[Any, ...]:
    """What of an arrangement a character's mouths depend on."""
    value = document.value
    places = tuple((c.material, c.start, c.offset, c.frames) for c in clips_of(value, character))
    return value.frames, places, marks.speaking(document.the_marks).get(character)
