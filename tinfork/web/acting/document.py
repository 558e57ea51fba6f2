"""What pages draw of acting: lanes as maps that a patch changes entry by entry, so that an edit brings back only what
it changed."""

from collections.abc import Mapping
from typing import Any

from django.urls import reverse

from tinfork.core.acting.lanes import EASES, Lane, PlacedLane
from tinfork.core.acting.parts import DIALS
from tinfork.core.plain import restore
from tinfork.web.edits.following import Changes

from .models import LANE, Acting, SavedPose
from .staging import Stage

Map = dict[str, Any]


def lane_document(placed: PlacedLane) -> Map:
    """A lane as maps: of each dial by frame its value and ease; drawings set by first frame; gestures by number."""
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
                "seen": round(one.amount, 4),
                "accepted": one.gesture.accepted,
                "dials": one.gesture.dials,
                "shown": [[s.at, s.frames, s.drawing] for s in one.gesture.shown],
            }
            for one in placed.gestures
        },
        "of": {"lead": placed.lane.lead, "alone": placed.lane.alone},
    }


def _keys(placed: PlacedLane, dial: str) -> Map:
    own = placed.keys.get(dial)
    if own is None:
        return {}
    rows = zip(own.frames, own.values, own.eases, strict=True)
    return {str(frame): [value, EASES.index(ease)] for frame, value, ease in rows}


def head_document(acting: Acting) -> Map:
    """Acting but for its lanes."""
    return {
        "id": acting.pk,
        "version": acting.version,
        "character": acting.character.name,
        "characterId": acting.character_id,
        "wish": {"rate": acting.rate, "seed": acting.seed, "eyes_first": acting.eyes_first, "amount": acting.amount},
        "phrases": acting.phrases,
        **acting.steps,
    }


def acting_document(stage: Stage) -> Map:
    """All of a character's acting in a scene."""
    acting = stage.acting
    lanes = {part: lane_document(stage.place(lane)) for part, lane in acting.all_lanes().items()}
    lines = [[one.line, one.frame, one.end] for one in stage.lines]
    moments = moments_of(stage)
    return head_document(acting) | {
        "lanes": lanes,
        "lines": lines,
        "moments": moments,
        "editUrl": reverse("acting-edit", args=[acting.pk]),
        "url": reverse("acting", args=[acting.pk]),
        "melodyUrl": reverse("acting-melody", args=[acting.pk]),
    }


def moments_of(stage: Stage) -> dict[int, list[int]]:
    """The key moments of phrases, by their lines, where they lie in the scene now."""
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


def patch_document(acting: Acting, changes: Changes) -> Map:
    """What changes that were made changed of acting: in "lanes" for each part the entries of its maps that are others
    now, None for those that are gone; "whole" where all must be asked for again."""
    own = [(one, before) for one, before in changes if isinstance(one, Acting) and one.pk == acting.pk]
    acting = own[-1][0] if own else acting
    before: dict[str, Any] = {}
    for _, values in own:
        before = values | before
    if not own or {"amount", "phrases"} & before.keys():
        now = Stage(acting)
        gestures_move = not own or _amounts_moved(acting, before)
        lanes = {p: lane_document(now.place(lane)) for p, lane in acting.all_lanes().items()} if gestures_move else {}
        return head_document(acting) | {
            "whole": lanes if gestures_move else None,
            "lanes": {},
            "moments": moments_of(now),
        }
    parts = [name.removeprefix(LANE) for name in before if name.startswith(LANE)]
    stage = Stage(acting) if parts else None
    lanes = {}
    for part in parts:
        assert stage
        body = before[LANE + part]
        old = lane_document(stage.place(Lane() if body is None else restore(body, Lane)))
        lanes[part] = differences(old, lane_document(stage.place(acting.lane(part))))
    return head_document(acting) | {"whole": None, "lanes": lanes}


def _amounts_moved(acting: Acting, before: Mapping[str, Any]) -> bool:
    if "amount" in before:
        return True
    old = {line: own.get("amount", 1.0) for line, own in before["phrases"].items()}
    new = {line: own.get("amount", 1.0) for line, own in acting.phrases.items()}
    return any(old.get(line, 1.0) != new.get(line, 1.0) for line in old.keys() | new.keys())


def differences(old: Map, new: Map) -> Map:
    """The entries of nested maps that are others; None for those that are gone.

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
    """The poses that are kept in the production."""
    own = SavedPose.objects.filter(production=acting.scene.production_id)
    return [{"id": pose.pk, "name": pose.name, "parts": sorted(pose.parts)} for pose in own]
