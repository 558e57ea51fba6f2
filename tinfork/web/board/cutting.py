"""A long scene cut into shots at the headings of its script; what was decided in it comes along."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction
from django.utils import timezone
from msgspec import Struct, structs

from tinfork.core.errors import ScriptError
from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.script import cuts
from tinfork.core.sound.anchors import SCENE
from tinfork.core.timebase import frame_at
from tinfork.web.acting.models import GESTURES, LANE, Acting, kept_lane
from tinfork.web.edits import actions as edits
from tinfork.web.edits.copying import copy_documents
from tinfork.web.edits.models import Edit
from tinfork.web.productions.actions import create_scene, hold
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.script.actions import script_of
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.shots.models import Shot
from tinfork.web.sound import arranging
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import placed_now

_VERB = "cut"
_RANGED = {
    "pins": "pin_values",
    "moods": "mood_values",
    "passages": "passage_values",
    "stretches": "stretch_values",
    "intents": "intent_values",
    "eases": "ease_values",
}
"""What a stave keeps that lies on frames, and as what values."""


def parts_of(scene: Scene) -> list[cuts.ShotPart]:
    """Return the shots that a scene falls into at the headings of its script. ScriptError where it does not."""
    spans: dict[int, tuple[float, float]] = {}
    for stave in scene.staves.select_related("character"):
        stave.scene = scene
        for number, own in placed_now(stave).line_spans().items():
            (body,) = stave.bodies([number])
            before = spans.get(body["id"], own)
            spans[body["id"]] = (min(own[0], before[0]), max(own[1], before[1]))
    frames = arranging.arrangement_of(scene).value.frames
    return cuts.parts(script_of(scene).value.lines, spans, frames / float(scene.fps))


def cut_scene(person: Person, scene: Scene) -> str:
    """Make a shot of each part of a scene, with all that was decided there, and put the scene away. Return what was
    done, in words."""
    production = scene.production
    check(person, production, "edit")
    with transaction.atomic():
        hold(production)
        edits.lock_scene(scene)
        found = parts_of(scene)
        for part in found:
            _cut(person, scene, part)
        Shot.objects.update_or_create(scene=scene, defaults={"archived": timezone.now()})
    return f"{len(found)} shots made of “{scene}”, which is put away."


def _cut(person: Person, scene: Scene, part: cuts.ShotPart) -> None:
    """Make a shot of a part: a copy of the scene, without what lies outside."""
    first, end = (frame_at(time, scene.fps) for time in (part.start, part.end))
    if end <= first:
        raise ScriptError(f"“{part.name}” would have no frame; set its lines further apart.")
    name = free_name(scene.production, part.name)
    made = create_scene(person, scene.production, name, scene.rate, str(scene.start_frame))
    copy_documents(scene, made)
    shot = Shot.objects.filter(scene=scene).first()
    if shot:
        Shot.objects.create(scene=made, sequence_id=shot.sequence_id, who_id=shot.who_id, due=shot.due)
    arrangement = arranging.arrangement_of(made)
    if end < arrangement.value.frames:
        arranging.cut_out(person, arrangement, None, end, arrangement.value.frames, None, False)
    arrangement = arranging.arrangement_of(made)
    if first:
        arranging.cut_out(person, arrangement, None, 0, first, None, True)
    arranging.set_length(person, arranging.arrangement_of(made), None, end - first)
    _keep_what_lies_in(person, made, range(first, end), set(part.lines))
    Edit.objects.filter(scene=made).delete()  # It begins as it is.


def _keep_what_lies_in(person: Person, scene: Scene, span: range, lines: set[int]) -> None:
    """Take away what belongs to other lines than some; of what lies on frames of the scene itself, keep what lay on
    some, which it begins with now."""
    for stave in Stave.objects.filter(scene=scene).select_related("character"):
        held = edits.locked(person, stave)
        own = dict(zip(held.order, held.bodies(held.order), strict=True))
        gone = [number for number, body in own.items() if body["id"] not in lines]
        parts: dict[str, Any] = {"order": [number for number in held.order if number not in gone]}
        parts |= {f"line {number}": None for number in gone}
        parts |= {name: _within(getattr(held, value), span) for name, value in _RANGED.items()}
        edits.change(person, held, _VERB, parts)
    for acting in Acting.objects.filter(scene=scene).select_related("character"):
        edits.change(person, edits.locked(person, acting), _VERB, _acted(acting, span, lines))
    for notes in SheetNotes.objects.filter(scene=scene):
        own_notes = {str(frame - span.start): text for frame, text in notes.by_frame.items() if frame in span}
        edits.change(person, edits.locked(person, notes), _VERB, {"notes": own_notes})
    document = script_of(scene)
    kept = tuple(line for line in document.value.lines if line.id in lines)
    edits.change(person, edits.locked(person, document), _VERB, {"body": replace(document.value, lines=kept)})


def _acted(acting: Acting, span: range, lines: set[int]) -> dict[str, Any]:
    """The parts of somebody's acting as they are when a scene has only some of its frames."""
    parts: dict[str, Any] = {"phrases": {n: own for n, own in acting.phrases.items() if int(n) in lines}}
    for name, lane in acting.all_lanes().items():
        moved = replace(
            lane,
            keys={dial: _within(keys, span) for dial, keys in lane.keys.items()},
            shows=_within(lane.shows, span),
            gestures=_within([one for one in lane.gestures if not one.line or one.line in lines], span),
        )
        kept = kept_lane(moved)
        parts |= {LANE + name: kept["body"], GESTURES + name: kept["gestures"]}
    return parts


def _within(things: Sequence[Any], span: range) -> tuple[Any, ...]:
    """Things that lie on frames: those of the scene itself that begin within some, counted from the first of these; and
    all that go with sounds."""
    own = [one for one in things if one.source_id != SCENE or one.frame in span]
    return tuple(one if one.source_id != SCENE else _at(one, one.frame - span.start) for one in own)


def _at(one: Any, frame: int) -> Any:
    return structs.replace(one, frame=frame) if isinstance(one, Struct) else replace(one, frame=frame)


def free_name(production: Production, wanted: str) -> str:
    """Return a name no scene of a production has yet: the one that is wanted, else with a number."""
    short = wanted[: MAX_NAME_CHARACTERS - 5]
    taken = set(production.scenes.values_list("name", flat=True))
    return next(name for name in (short, *(f"{short} {n}" for n in range(2, len(taken) + 3))) if name not in taken)
