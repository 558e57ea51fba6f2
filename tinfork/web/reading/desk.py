"""What the Reading desk draws: one document for each stave, made of plain values."""

from typing import Any

from django.urls import reverse

from tinfork.core.exposure.served import account
from tinfork.core.mouths.draw import mouth
from tinfork.core.mouths.face import MOUTH_SCALE, VIEW, head
from tinfork.core.mouths.shapes import ARTICULATORS, SHAPES
from tinfork.web.productions.models import Scene

from .models import Stave
from .planning import chart_of, curves_of


def scene_document(scene: Scene) -> dict[str, Any]:
    """The scene's time base."""
    return {
        "id": scene.pk,
        "name": scene.name,
        "rate": {"text": scene.rate, "numerator": scene.fps.numerator, "denominator": scene.fps.denominator},
        "startFrame": scene.start_frame,
    }


def stave_document(stave: Stave) -> dict[str, Any]:
    """A stave as it is now, with all that may be done to it."""
    exposures = stave.the_exposures()
    return {
        "id": stave.pk,
        "version": stave.version,
        "character": stave.character.name,
        "sound": _sound(stave),
        "reading": stave.reading,
        "exposures": stave.exposures,
        "frames": exposures[-1].end if exposures else 0,
        "pinsBeyond": sum(pin.end > exposures[-1].end for pin in stave.the_pins()) if exposures else 0,
        "settings": {"hold": stave.hold, "lead": stave.lead, "detail": stave.detail},
        "leftOut": _left_out(stave),
        "chart": chart_document(stave),
        "undo": stave.edits.filter(undone=False, superseded=False).exists(),
        "redo": stave.edits.filter(undone=True, superseded=False).exists(),
        "url": reverse("stave", args=[stave.pk]),
        "editUrl": reverse("stave-edit", args=[stave.pk]),
    }


def chart_document(stave: Stave) -> dict[str, Any]:
    """The face and its drawings as SVG, with what the ribbon needs of each."""
    chart, look = chart_of(stave), stave.character.look
    return {
        "view": VIEW,
        "head": head(look),
        "mouthScale": MOUTH_SCALE,
        "drawings": [
            {
                "name": drawing.name,
                "shape": chart.nearest_shape(row),
                "meaning": SHAPES[chart.nearest_shape(row)].meaning,
                "svg": mouth(drawing.place, f"s{stave.pk}-d{row}", look.palette),
                **dict(zip(ARTICULATORS, drawing.place, strict=True)),
            }
            for row, drawing in enumerate(chart.drawings)
        ],
    }


def _sound(stave: Stave) -> dict[str, Any] | None:
    if stave.sound is None:
        return None
    return {
        "name": stave.sound.name,
        "seconds": stave.sound.seconds,
        "listen": reverse("sound-listen", args=[stave.sound.pk]),
        "peaks": reverse("sound-peaks", args=[stave.sound.pk]),
    }


def _left_out(stave: Stave) -> dict[int, str]:
    """For each sound that is seen nowhere, why."""
    if stave.reading is None:
        return {}
    seen: dict[int, str] = {}
    for answer in account(stave.the_exposures(), curves_of(stave), chart_of(stave), stave.lead):
        seen[answer.sound] = "" if answer.frame is not None else seen.get(answer.sound, answer.reason)
    return {sound: reason for sound, reason in seen.items() if reason}
