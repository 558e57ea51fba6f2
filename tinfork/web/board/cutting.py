"""A scene cut into shots, at the headings of its script or in two, or copied; what was decided in it comes along."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction
from django.utils import timezone
from msgspec import Struct, structs

from tinfork.core.errors import ScriptError
from tinfork.core.script import cuts
from tinfork.core.sound.anchors import SCENE
from tinfork.core.timebase import frame_at, frame_time
from tinfork.web.acting.models import GESTURES, LANE, Acting, kept_lane
from tinfork.web.edits import actions as edits
from tinfork.web.edits.copying import copy_documents
from tinfork.web.edits.models import Edit
from tinfork.web.productions.actions import create_scene, free_scene_name, hold
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.rushes.models import Comment
from tinfork.web.script.actions import script_of
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.shots.models import Shot
from tinfork.web.sound import arranging
from tinfork.web.staves.models import RANGED, Stave
from tinfork.web.staves.placing import placed_now

_VERB = "cut"


def _spans(scene: Scene) -> dict[int, tuple[float, float]]:
    """Of each of the script's lines that is heard, its first and last second."""
    spans: dict[int, tuple[float, float]] = {}
    for stave in scene.staves.select_related("character"):
        stave.scene = scene
        for number, own in placed_now(stave).line_spans().items():
            (body,) = stave.bodies([number])
            before = spans.get(body["id"], own)
            spans[body["id"]] = (min(own[0], before[0]), max(own[1], before[1]))
    return spans


def _seconds(scene: Scene) -> float:
    return arranging.arrangement_of(scene).value.frames / float(scene.fps)


def parts_of(scene: Scene) -> list[cuts.ShotPart]:
    """Return the shots that a scene falls into at the headings of its script. ScriptError where it does not."""
    return cuts.parts(script_of(scene).value.lines, _spans(scene), _seconds(scene))


def halves_of(scene: Scene, frame: int) -> list[cuts.ShotPart]:
    """Return the two shots that a scene falls into before a frame, as it is numbered. ScriptError where it is none
    within it."""
    at = frame - scene.start_frame
    if not 0 < at < arranging.arrangement_of(scene).value.frames:
        last = scene.start_frame + arranging.arrangement_of(scene).value.frames - 1
        raise ScriptError(
            f"Give a frame within the shot, {scene.start_frame + 1} to {last}: the second begins with it."
        )
    seconds = frame_time(at, scene.fps)
    return cuts.halves(script_of(scene).value.lines, _spans(scene), seconds, _seconds(scene), scene.name)


@transaction.atomic
def cut_scene(person: Person, scene: Scene, frame: int | None = None) -> str:
    """Make a shot of each part of a scene, with all that was decided there and its notes, and put the scene away.
    frame: where it is cut in two; None for the headings of its script. Return what was done, in words."""
    production = scene.production
    check(person, production, "edit")
    hold(production)
    edits.lock_scene(scene)
    found = parts_of(scene) if frame is None else halves_of(scene, frame)
    for part in found:
        _cut(person, scene, part)
    Shot.objects.update_or_create(scene=scene, defaults={"archived": timezone.now()})
    return f"{len(found)} shots made of “{scene}”, which is put away."


@transaction.atomic
def copy_scene(person: Person, scene: Scene) -> str:
    """Make another shot like one, with all that was decided in it: to try something, while the other stays. Return what
    was done, in words."""
    check(person, scene.production, "edit")
    hold(scene.production)
    edits.lock_scene(scene)
    made = copied_scene(person, scene, scene.name)
    return f"“{made}” is another one like “{scene}”."


def copied_scene(person: Person, scene: Scene, name: str) -> Scene:
    """Return a scene with copies of another's documents, and of what people set of it as a shot but for its number."""
    free = free_scene_name(scene.production, name)
    made = create_scene(person, scene.production, free, scene.rate, str(scene.start_frame))
    copy_documents(scene, made)
    shot = Shot.objects.filter(scene=scene).first()
    if shot:
        own = {name: getattr(shot, name) for name in ("sequence_id", "who_id", "due", "priority")}
        Shot.objects.create(scene=made, **own)
    return made


def _cut(person: Person, scene: Scene, part: cuts.ShotPart) -> None:
    """Make a shot of a part: a copy of the scene, without what lies outside."""
    first, end = (frame_at(time, scene.fps) for time in (part.start, part.end))
    if end <= first:
        raise ScriptError(f"“{part.name}” would have no frame; set its lines further apart.")
    made = copied_scene(person, scene, part.name)
    arrangement = arranging.arrangement_of(made)
    if end < arrangement.value.frames:
        arranging.cut_out(person, arrangement, None, end, arrangement.value.frames, None, False)
    arrangement = arranging.arrangement_of(made)
    if first:
        arranging.cut_out(person, arrangement, None, 0, first, None, True)
    arranging.set_length(person, arranging.arrangement_of(made), None, end - first)
    span = range(first, end)
    _keep_what_lies_in(person, made, span, set(part.lines))
    copied_comments(scene, made, span, -span.start)
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
        parts |= {name: _within(held.restored(name, kind), span) for name, kind in RANGED.items()}
        edits.change(person, held, _VERB, parts)
    for acting in Acting.objects.filter(scene=scene).select_related("character"):
        edits.change(person, edits.locked(person, acting), _VERB, _acted(acting, span, lines))
    for notes in SheetNotes.objects.filter(scene=scene):
        own_notes = {str(frame - span.start): text for frame, text in notes.by_frame.items() if frame in span}
        edits.change(person, edits.locked(person, notes), _VERB, {"notes": own_notes})
    earlier = frame_time(span.start, scene.fps)
    arrangement = edits.locked(person, arranging.arrangement_of(scene))
    marks = tuple(_sooner(one, earlier) for one in arrangement.kept_marks.marks)
    edits.change(person, arrangement, _VERB, {"marks": replace(arrangement.kept_marks, marks=marks)})
    document = script_of(scene)
    kept = tuple(_sooner(line, earlier) for line in document.value.lines if line.id in lines)
    edits.change(person, edits.locked(person, document), _VERB, {"body": replace(document.value, lines=kept)})


def _sooner(one: Any, seconds: float) -> Any:
    """A mark or a line that lies in the time of the scene, so much earlier; any other as it is."""
    if one.source_id != SCENE or one.start is None:
        return one
    return replace(one, start=one.start - seconds, end=None if one.end is None else one.end - seconds)


def copied_comments(scene: Scene, made: Scene, span: range, later: int) -> None:
    """Copy the notes on some frames, with their answers, to a scene that has these so much later."""
    own = Comment.objects.filter(scene=scene, on=None, frame__gte=span.start, frame__lt=span.stop)
    for one in own.prefetch_related("answers"):
        answers = list(one.answers.all())
        kept = _copied_comment(one, made, (span, later), None)
        for answer in answers:
            _copied_comment(answer, made, (span, later), kept)


def _copied_comment(one: Comment, made: Scene, where: tuple[range, int], on: Comment | None) -> Comment:
    span, later = where
    written = one.made
    one.pk, one._state.adding = None, True
    one.scene, one.on, one.version, one.link = made, on, None, None
    one.end = max(one.frame, min(one.end, span.stop - 1)) + later
    one.frame += later
    one.written_rate = ""
    one.save(force_insert=True)
    Comment.objects.filter(pk=one.pk).update(made=written)
    return one


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
