"""What a person set by hand in another mood: the same shape in it, and what has none there is named and stays."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from msgspec import structs

from tinfork.core.exposure import ranges
from tinfork.core.exposure.pins import set_pins
from tinfork.core.exposure.ranges import AnchoredMood, AnchoredStretch
from tinfork.core.exposure.track import NOTHING, Pin
from tinfork.core.exposure.verbs import Piece
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.naming import some_of
from tinfork.core.sound.anchors import SCENE
from tinfork.web.charts import actions as charts
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Character
from tinfork.web.productions.permissions import Person

from .models import Stave
from .mouths import Mouths, basis_now, mouths_of
from .placing import Placed, placed_now
from .travelling import MOST_NAMED


def in_mood(
    placed: Placed, reached: Callable[[int], bool], names: Mouths, ranged: AnchoredMood | None
) -> dict[str, Any]:
    """Return what to decide so that pins and stretches are shown in a mood or chart where it reaches their middle
    frame; what has nothing there stays, and the stave's remarks say so."""
    stave = placed.stave
    inside = [pin for pin in placed.pins.shown if pin.chosen and reached((pin.frame + pin.end - 1) // 2)]
    as_now = ((pin, names.chosen_as(pin.drawing, ranged)) for pin in inside if pin.drawing != NOTHING)
    new = [structs.replace(pin, drawing=other) for pin, other in as_now if other != pin.drawing]
    lacking = [pin for pin in inside if names.lacks(pin.drawing, ranged)]
    if lacking:
        stave.remarks = (*stave.remarks, _lacking(stave, lacking))
    parts: dict[str, Any] = {"stretches": _stretches_in_mood(placed, reached, names, ranged)}
    if new:
        parts["pins"] = set_pins(stave.pin_values, new, placed.clips, placed.frames)
    return parts


def _stretches_in_mood(
    placed: Placed, reached: Callable[[int], bool], names: Mouths, ranged: AnchoredMood | None
) -> tuple[AnchoredStretch, ...]:
    """The stretches of a stave, with the drawings of a mood or chart those that it reaches."""
    own = {one for span, one in placed.stretches if reached((span.start + span.stop - 1) // 2)}

    def worn(piece: Piece) -> Piece:
        return piece if piece.drawing == NOTHING else replace(piece, drawing=names.chosen_as(piece.drawing, ranged))

    known = placed.stave.stretch_values
    return tuple(replace(one, pieces=tuple(map(worn, one.pieces))) if one in own else one for one in known)


def _lacking(stave: Stave, pins: Sequence[Pin]) -> str:
    """Which drawings that were set by hand have nothing in a mood, and where they are."""
    names = ", ".join(f"“{name}”" for name in dict.fromkeys(pin.drawing for pin in pins))
    frames = some_of([str(pin.frame + stave.scene.start_frame) for pin in pins], MOST_NAMED)
    return f"It has nothing for {names}: what you set stays as it is on frame {frames}."


def _follow_chart(person: Person, character: Character) -> list[str]:
    """Another chart or mood is worn: what rests all through is planned with it; the rest keeps its timing, and what was
    set by hand is shown in the mood, as a step of each scene that can be undone there."""
    told = []
    for known in Stave.objects.filter(character=character).select_related("scene__production", "character"):
        stave = edits.locked(person, known)
        if stave.is_seen:
            _wear_mood(person, stave)
        else:
            stave.basis = basis_now(character)
            stave.cells = b""
        stave.version += 1
        stave.save(update_fields=["basis", "cells", "version"])
        edits.tell_changed(stave)
        told += [f"{stave.scene}: {remark}" for remark in stave.remarks]
    return told


def _wear_mood(person: Person, stave: Stave) -> None:
    """Show what was set by hand in the mood its character is in now, outside ranges that are in another."""
    placed, names = placed_now(stave), mouths_of(stave)
    mood = AnchoredMood(0, 1, names.mood, SCENE) if names.mood != NEUTRAL else None
    parts = in_mood(placed, lambda frame: ranges.on(placed.moods, frame) is None, names, mood)
    edits.change(person, stave, f"mood {names.mood}"[:40], parts)


charts.follow(_follow_chart)
