"""What a person set on frames of a stave goes along when its words are heard at other times."""

from collections.abc import Iterable
from typing import Any

from tinfork.core.exposure.travel import gone_along, moved_between
from tinfork.core.naming import some_of
from tinfork.core.sound.anchors import spans_of
from tinfork.core.speech.reading import Line

from .models import Stave
from .placing import placed_now

MOST_NAMED = 8
"""So many frames are named in a sentence."""


def along_with(stave: Stave, before: Iterable[Line], after: Iterable[Line]) -> dict[str, Any]:
    """Return what to decide so that pins, eases, stretches and what is meant so lie on their words again, which were
    before where they are after, both in the time of their sounds. What lies on words that are said no longer stays, and
    the stave's remarks say so."""
    moved = moved_between(before, after)
    if not moved:
        return {}
    fps, parts = float(stave.scene.fps), {}
    things: dict[str, tuple[Any, ...]] = {
        "pins": stave.pin_values,
        "eases": stave.ease_values,
        "stretches": stave.stretch_values,
        "intents": stave.intent_values,
    }
    for name, values in things.items():
        now, left = gone_along(values, moved, fps, stave.lead)
        if now != values:
            parts[name] = now
        if name == "pins" and left:
            stave.remarks = (*stave.remarks, _left(stave, left))
    return parts


def _left(stave: Stave, left: Iterable[Any]) -> str:
    """Which pins lie where their words are said no longer."""
    placed = placed_now(stave)
    spans = [span for span in spans_of(list(left), placed.clips, placed.frames) if span is not None]
    frames = [str(span.start + stave.scene.start_frame) for span in spans]
    many = "1 mouth that you set stays" if len(frames) == 1 else f"{len(frames)} mouths that you set stay"
    return f"{many} where no such word is said any more: {some_of(frames, MOST_NAMED)}."
