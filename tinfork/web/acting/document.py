"""What pages draw of acting: lanes as maps that a patch changes entry by entry, so that an edit brings back only what
it changed."""

from dataclasses import replace
from typing import Any

from django.urls import reverse

from tinfork.core.acting.lanes import EASES, Lane, PlacedLane
from tinfork.core.mouths.parts import DIALS
from tinfork.web.edits.following import Changes

from .models import Acting, SavedPose, part_of, restored_lane
from .staging import Stage, stage_of

Map = dict[str, Any]


def lane_document(stage: Stage, lane: Lane) -> Map:
    """Return a lane as maps, before its lead: of each dial by frame its value and ease; drawings set by first frame;
    gestures by number."""
    placed = stage.place(replace(lane, lead=0))
    return {
        "keys": {dial: _keys(placed, dial) for dial in DIALS},
        "shows": {str(pin.frame): [pin.frames, pin.drawing] for pin in placed.shows},
        "gestures": {
            str(one.gesture.id): {
                "frame": one.frame,
                "frames": one.gesture.frames,
                "kind": one.gesture.kind,
                "line": one.gesture.line,
                "amount": one.gesture.amount,
                "accepted": one.gesture.accepted,
                "dials": one.gesture.dials,
                "shown": [[s.at, s.frames, s.drawing] for s in one.gesture.shown],
            }
            for one in placed.gestures
        },
        "of": {"lead": lane.lead, "alone": lane.alone},
    }


def _keys(placed: PlacedLane, dial: str) -> Map:
    own = placed.keys.get(dial)
    if own is None:
        return {}
    rows = zip(own.frames, own.values, own.eases, strict=True)
    return {str(frame): [value, EASES.index(ease)] for frame, value, ease in rows}


def _patch(stage: Stage, part: str, before: Map) -> Map:
    """What of a lane's maps is another now. before: what its row kept, by fields, as far as that was changed. Only what
    is another is made into the core's values."""
    old, new = (
        {f: kept or {} for f, kept in before.items()},
        {f: stage.acting.row_field(f, part) or {} for f in before},
    )
    if "body" in before:
        bodies = [own["body"] for own in (old, new)]
        was, now = (body.get("keys", {}) for body in bodies)
        dials = {dial for dial in was.keys() | now.keys() if was.get(dial) != now.get(dial)}
        for own, body, keys in ((old, bodies[0], was), (new, bodies[1], now)):
            own["body"] = body | {"keys": {dial: keys[dial] for dial in dials & keys.keys()}}
    if "gestures" in before:
        first, second = ({row[0]: row for row in own["gestures"]} for own in (old, new))
        others = [number for number in first.keys() | second.keys() if first.get(number) != second.get(number)]
        for own, rows in ((old, first), (new, second)):
            own["gestures"] = [rows[number] for number in others if number in rows]
    few = (restored_lane(own.get("body"), own.get("gestures")) for own in (old, new))
    return differences(*(lane_document(stage, lane) for lane in few))


def head_document(acting: Acting) -> Map:
    """Return acting but for its lanes."""
    return {
        "id": acting.pk,
        "version": acting.version,
        "character": acting.character.name,
        "characterId": acting.character_id,
        "wish": {
            "rate": acting.rate,
            "seed": acting.seed,
            "eyes_first": acting.eyes_first,
            "amount": acting.amount,
            "temper": acting.temper,
            "framing": acting.framing,
        },
        "learned": acting.character.learned,
        "phrases": acting.phrases,
        **acting.steps,
    }


def acting_document(stage: Stage) -> Map:
    """Return all of a character's acting in a scene."""
    acting = stage.acting
    lanes = {part: lane_document(stage, lane) for part, lane in acting.all_lanes().items()}
    lines = [[one.line, one.frame, one.end] for one in stage.lines]
    moments = moments_of(stage)
    return head_document(acting) | {
        "lanes": lanes,
        "lines": lines,
        "moments": moments,
        "editUrl": reverse("acting-edit", args=[acting.pk]),
        "url": reverse("acting", args=[acting.pk]),
        "posesUrl": reverse("acting-poses", args=[acting.pk]),
        "melodyUrl": reverse("acting-melody", args=[acting.pk]),
    }


def moments_of(stage: Stage) -> dict[int, list[int]]:
    """Return the key moments of phrases, by their lines, where they lie in the scene now."""
    found = {}
    for line, own in stage.acting.notes.items():
        frames = [_frame_of(frame, source, stage) for frame, source in own.moments]
        found[line] = sorted(frame for frame in frames if frame is not None)
    return found


def _frame_of(frame: int, source: int, stage: Stage) -> int | None:
    if not source:
        return frame
    for clip in stage.where.clips:
        if clip.source_id == source and clip.offset <= frame < clip.offset + clip.frames:
            return frame - clip.offset + clip.start
    return None


def whole_document(acting: Acting) -> Map:
    """Return a patch that brings everything, as where an edit was refused."""
    stage = stage_of(acting)
    lanes = {part: lane_document(stage, lane) for part, lane in acting.all_lanes().items()}
    return head_document(acting) | {"whole": lanes, "lanes": {}, "moments": moments_of(stage)}


def patch_document(acting: Acting, changes: Changes) -> Map:
    """Return what changes that were made changed of acting: in "lanes" for each part the entries of its maps that are
    others now, None for those that are gone; "whole": all lanes, where an edit was refused, or made after others that
    the page does not know."""
    own = [(one, before) for one, before in changes if isinstance(one, Acting) and one.pk == acting.pk]
    acting = own[-1][0] if own else acting
    if acting.merged:
        return whole_document(acting)
    before: dict[str, Any] = {}
    for _, values in own:
        before = values | before
    moments = {"moments": moments_of(stage_of(acting))} if "phrases" in before else {}
    kept: dict[str, Map] = {}
    for name, value in before.items():
        if where := part_of(name):
            kept.setdefault(where[1], {})[where[0]] = value
    lanes = {part: _patch(stage_of(acting), part, own) for part, own in kept.items()}
    return head_document(acting) | {"whole": None, "lanes": lanes} | moments


def differences(old: Map, new: Map) -> Map:
    """Return the entries of nested maps that are others; None for those that are gone.

    >>> differences({"a": {"1": 2, "3": 4}}, {"a": {"1": 5}})
    {'a': {'1': 5, '3': None}}
    """
    found: Map = {}
    for key in old.keys() | new.keys():
        one, other = old.get(key), new.get(key)
        if key not in new:
            found[key] = None
        elif isinstance(one, dict) and isinstance(other, dict) and "frame" not in other:
            inner = differences(one, other)
            if inner:
                found[key] = inner
        elif one != other:
            found[key] = other
    return found


def poses_document(acting: Acting) -> list[Map]:
    """Return the poses that are kept in the production."""
    own = SavedPose.objects.filter(production=acting.scene.production_id)
    return [{"id": pose.pk, "name": pose.name, "parts": sorted(pose.parts)} for pose in own]
