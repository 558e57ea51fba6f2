"""What the Reading desk draws: one document for each stave, made of plain values."""

from typing import Any

from django.urls import reverse

from tinfork.core.exposure.served import account
from tinfork.core.mouths.draw import mouth
from tinfork.core.mouths.face import MOUTH_SCALE, VIEW, head
from tinfork.core.mouths.shapes import ARTICULATORS, SHAPES
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement

from .models import Stave
from .planning import chart_of, curves_of, placed_pins, scene_reading, stave_clips


def stave_document(stave: Stave) -> dict[str, Any]:
    """A stave as it is now, with all that may be done to it."""
    document = arrangement_of(stave.scene)
    exposures = stave.the_exposures()
    reading = scene_reading(stave, document)
    return {
        "id": stave.pk,
        "version": stave.version,
        "character": stave.character.name,
        "clips": [clip.id for clip in stave_clips(stave, document)],
        "reading": reading.to_json() if reading else None,
        "exposures": stave.exposures,
        "frames": exposures[-1].end if exposures else 0,
        "pinsHidden": len(placed_pins(stave, document)[1]),
        "settings": {"hold": stave.hold, "lead": stave.lead, "detail": stave.detail},
        "leftOut": _left_out(stave, document),
        "chart": chart_document(stave),
        "undo": stave.can_undo,
        "redo": stave.can_redo,
        "url": reverse("stave", args=[stave.pk]),
        "outUrl": reverse("stave-out", args=[stave.pk, "KIND"]),
        "bringUrl": reverse("stave-bring", args=[stave.pk]),
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


def _left_out(stave: Stave, document: Arrangement) -> dict[int, str]:
    """For each sound that is seen nowhere, why."""
    if stave.reading is None:
        return {}
    seen: dict[int, str] = {}
    for answer in account(stave.the_exposures(), curves_of(stave, document), chart_of(stave), stave.lead):
        seen[answer.sound] = "" if answer.frame is not None else seen.get(answer.sound, answer.reason)
    return {sound: reason for sound, reason in seen.items() if reason}
