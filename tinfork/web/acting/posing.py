"""Poses that are kept and laid, and what one character does, copied to another."""

from collections.abc import Iterable, Sequence

from django.db import IntegrityError, transaction

from tinfork.core.acting import passes, poses, verbs
from tinfork.core.acting.lanes import Lane
from tinfork.core.acting.poses import KeptPose
from tinfork.core.errors import ActingError
from tinfork.core.exposure import verbs as exposing
from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.mouths.parts import MOUTH, Part
from tinfork.web.productions.actions import checked_name
from tinfork.web.productions.permissions import Person, check

from .changing import Change, on_lanes
from .models import Acting, SavedPose
from .staging import Stage

MOST_POSES = 200


def lay_pose(
    person: Person, acting: Acting, version: int, pose: int, frame: int, amount: float, mirrored: bool
) -> Acting:
    """A kept pose on a frame, so much of the way; mirrored: as a mirror shows it."""
    kept = SavedPose.objects.filter(pk=pose, production=acting.scene.production_id).first()
    if kept is None:
        raise ActingError("This pose is not there any more; reload the page.")
    wanted = kept.value.mirrored() if mirrored else kept.value
    fitting = poses.fitting(Stage(acting).face.parts, wanted)
    if not fitting:
        raise ActingError(f"{acting.character}'s face has none of the parts of “{kept.name}”.")
    if not 0.0 <= amount <= 1.5:
        raise ActingError("A pose is laid from 0 to 1.5 of the way.")

    def laying(name: str) -> Change:
        return lambda s, p, lane: poses.lay_pose(lane, s.where, p, fitting[name], frame, amount)

    return on_lanes(person, acting, version, f"pose {kept.name}"[:40], {name: laying(name) for name in fitting})


@transaction.atomic
def keep_pose(person: Person, acting: Acting, name: str, frame: int, parts: Sequence[str]) -> SavedPose:
    """What parts do on a frame, kept under a name; one of the same name is replaced. Parts that rest are kept where
    they are named."""
    check(person, acting.scene.production, "edit")
    stage = Stage(acting)
    name = checked_name(name, "pose")[:MAX_NAME_CHARACTERS]
    if not 0 <= frame < stage.where.frames:
        raise ActingError("This frame is not in the scene; look at its first and last frame.")
    lanes = acting.all_lanes()
    found = {}
    for part in stage.face.parts:
        if part.name == MOUTH and part.name not in parts:
            continue
        (pose,) = stage.place(lanes.get(part.name, Lane())).poses(range(frame, frame + 1))
        if part.name in parts or (not parts and (pose.dials or pose.drawing is not None)):
            found[part.name] = pose
    if not found:
        raise ActingError("Nothing moves on this frame; go to a frame on which something does, or choose parts.")
    own = SavedPose.objects.filter(production=acting.scene.production_id)
    if not own.filter(name=name).exists() and own.count() >= MOST_POSES:
        raise ActingError(f"A production keeps {MOST_POSES} poses; delete one first.")
    try:
        kept = own.filter(name=name).first() or SavedPose(production=acting.scene.production, name=name)
        kept.value = KeptPose(found)
        kept.save()
    except IntegrityError:
        raise ActingError("Somebody else kept a pose of this name just now; do it again.") from None
    return kept


@transaction.atomic
def drop_pose(person: Person, pose: SavedPose) -> None:
    """A kept pose deleted; what was laid with it stays."""
    check(person, pose.production, "edit")
    pose.delete()


def paste(
    person: Person, acting: Acting, version: int, source: int, first: int, end: int, frame: int, parts: Iterable[str]
) -> Acting:
    """What another character, or this one, does on some frames, laid from a frame on as keys and drawings of the parts
    that both have."""
    other = Acting.objects.filter(pk=source, scene=acting.scene_id).select_related("character").first()
    if other is None or end <= first:
        raise ActingError("There is nothing to copy; set in and out around what is to be copied.")
    other.scene = acting.scene
    own = Stage(other)
    span = range(max(0, first), min(end, own.where.frames))
    wanted = set(parts)
    lanes = {name: lane for name, lane in other.all_lanes().items() if not wanted or name in wanted}
    mine = {part.name for part in Stage(acting).face.parts}

    def pasting(lane_there: Lane) -> Change:
        placed = own.place(lane_there)

        def do(stage: Stage, part: Part, lane: Lane) -> Lane:
            frames = range(frame, min(stage.where.frames, frame + len(span)))
            for dial in placed.dials:
                keys, _ = passes.fitted(placed.curve(dial, span)[: len(frames)], frame, 0.05)
                lane = verbs.lay_curve(lane, stage.where, dial, frames, keys)
            pieces = exposing.stretch_of(placed.track(part.rest), span.start, span.stop) if part.drawings else ()
            pieces = tuple(piece for piece in pieces if piece.drawing in (*part.drawings, part.rest, ""))
            if any(piece.drawing != part.rest for piece in pieces):
                lane = verbs.expose(lane, stage.where, part.rest, lambda track: exposing.lay(track, frame, pieces))
            return lane

        return do

    changes = {name: pasting(lane) for name, lane in lanes.items() if name in mine}
    if not changes:
        raise ActingError("There is nothing to copy there.")
    return on_lanes(person, acting, version, "copy acting", changes)
