"""What people do to a character's acting. Each is one undoable action on one version; frames are the scene's. What is
seen in a phrase that is locked stays as it is."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from django.db import IntegrityError, transaction
from msgspec import structs

from tinfork.core.acting import passes, poses, proposals, verbs
from tinfork.core.acting.lanes import Gesture, Lane, Points
from tinfork.core.acting.poses import KeptPose
from tinfork.core.errors import ActingError
from tinfork.core.exposure import verbs as exposing
from tinfork.core.exposure.track import Exposure
from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.mouths.parts import DIALS, MOUTH, Part
from tinfork.core.plain import plain
from tinfork.web.edits import actions as edits
from tinfork.web.productions.actions import checked_name
from tinfork.web.productions.permissions import Person, check

from .models import GESTURES, LANE, Acting, PhraseNotes, SavedPose, kept_lane
from .staging import Stage, stage_of

MOST_POSES, MOST_MOMENTS, MOST_NOTE = 200, 40, 2_000
_LOOK_AT = (6.0, 3.5)
_SEEN_MOVES = 0.02

Change = Callable[[Stage, Part, Lane], Lane]
Changes = Mapping[str, Change] | Callable[[Stage], Mapping[str, Change]]
"""What is to be done to lanes, by their parts; or what finds that out."""

Track = tuple[Exposure, ...]


@transaction.atomic
def on_lanes(person: Person, acting: Acting, version: int, verb: str, changes: Changes, *fields: str) -> Acting:
    """Change lanes, each for itself, as one action. fields: what of a lane its change goes by, as Acting.lane has it;
    of "shows" it changes nothing. ActingError where that would change what is seen in a phrase that is locked."""
    held = edits.locked(person, acting, version)
    stage = stage_of(held)
    decided: dict[str, Any] = {}
    needed = () if stage.locked() else fields
    own = changes(stage) if callable(changes) else changes
    held.load(own, *needed)
    for name, do in own.items():
        part, before = stage.part(name), held.lane(name, *needed)
        after = do(stage, part, before)
        _check_locked(stage, before, after)
        known = {field: held.kept(field, name) for field in fields or ("body", "gestures") if field != "shows"}
        kept = kept_lane(after, before, **known)
        if "body" in known and after != replace(before, gestures=after.gestures):
            decided[LANE + name] = kept["body"]
        if "gestures" in known and after.gestures != before.gestures:
            decided[GESTURES + name] = kept["gestures"]
    return edits.change(person, held, verb, decided, is_plain=True)


def _check_locked(stage: Stage, before: Lane, after: Lane) -> None:
    locked = stage.locked()
    if not locked:
        return
    old, new = stage.place(before), stage.place(after)
    for frames in locked:
        moved = any(
            abs(old.curve(dial, frames) - new.curve(dial, frames)).max(initial=0.0) > _SEEN_MOVES
            for dial in {*old.dials, *new.dials}
        )
        if moved or old.drawings(frames) != new.drawings(frames):
            raise ActingError("This would change a phrase that is locked; unlock it first, or stay out of it.")


def _one(person: Person, acting: Acting, version: int, verb: str, part: str, do: Change, *fields: str) -> Acting:
    return on_lanes(person, acting, version, verb, {part: do}, *fields)


def set_key(
    person: Person, acting: Acting, version: int, part: str, dial: str, frame: int, value: float, ease: str | None
) -> Acting:
    """A dial at a value on a frame."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        return verbs.set_key(lane, stage.where, dial, frame, value, ease)

    return _one(person, acting, version, f"set {part} {dial}"[:40], part, do, "body")


def move_keys(
    person: Person, acting: Acting, version: int, part: str, dial: str, frames: list[int], by: int, up: float
) -> Acting:
    """Keys of a dial elsewhere in time, or higher."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        return verbs.move_keys(lane, stage.where, dial, frames, by, up)

    return _one(person, acting, version, "move keys", part, do, "body")


def ease_keys(
    person: Person, acting: Acting, version: int, part: str, dial: str, frames: list[int], ease: str
) -> Acting:
    """How a dial goes on from keys."""
    return _one(
        person,
        acting,
        version,
        "ease",
        part,
        lambda s, p, lane: verbs.ease_keys(lane, s.where, dial, frames, ease),
        "body",
    )


def drop_keys(
    person: Person, acting: Acting, version: int, part: str, dials: list[str], first: int, end: int
) -> Acting:
    """The keys of dials on some frames, taken away."""
    own = dials or list(DIALS)
    span = range(first, end)
    return _one(
        person,
        acting,
        version,
        "delete keys",
        part,
        lambda s, p, lane: verbs.drop_keys(lane, s.where, own, span),
        "body",
    )


def _expose(person: Person, acting: Acting, version: int, verb: str, part: str, do: Callable[[Track], Track]) -> Acting:
    def change(stage: Stage, own: Part, lane: Lane) -> Lane:
        return verbs.expose(lane, stage.where, own.rest, do)

    return _one(person, acting, version, verb, part, change)


def show(person: Person, acting: Acting, version: int, part: str, frame: int, frames: int, drawing: str) -> Acting:
    """A drawing for some frames, over whatever is there."""

    def change(stage: Stage, own: Part, lane: Lane) -> Lane:
        _check_drawing(own, drawing)
        piece = exposing.Piece(0, frames, drawing)
        return verbs.expose(lane, stage.where, own.rest, lambda track: exposing.lay(track, frame, [piece]))

    return _one(person, acting, version, f"show {drawing or 'nothing'}"[:40], part, change)


def swap(person: Person, acting: Acting, version: int, part: str, at: list[int], drawing: str) -> Acting:
    """Another drawing for some exposures."""

    def change(stage: Stage, own: Part, lane: Lane) -> Lane:
        _check_drawing(own, drawing)
        return verbs.expose(lane, stage.where, own.rest, lambda track: exposing.show(track, at, drawing))

    return _one(person, acting, version, "swap", part, change)


def _check_drawing(part: Part, drawing: str) -> None:
    if drawing not in (*part.drawings, part.rest, ""):
        raise ActingError(f"“{part.name}” has no drawing “{drawing}”; it has {', '.join(part.drawings) or 'none'}.")


def slide(person: Person, acting: Acting, version: int, part: str, at: list[int], by: int) -> Acting:
    """Some exposures earlier or later; what they are moved onto gives way."""
    over = exposing.Border.OVERWRITE
    return _expose(person, acting, version, "slide", part, lambda track: exposing.slide(track, at, by, over))


def span(person: Person, acting: Acting, version: int, part: str, frame: int, first: int, frames: int) -> Acting:
    """An exposure on other frames."""
    return _expose(person, acting, version, "stretch", part, lambda track: exposing.span(track, frame, first, frames))


def split(person: Person, acting: Acting, version: int, part: str, frame: int) -> Acting:
    """An exposure in two."""
    return _expose(person, acting, version, "split", part, lambda track: exposing.split(track, frame))


def hold_on(person: Person, acting: Acting, version: int, part: str, frame: int) -> Acting:
    """An exposure held until the next that is decided."""
    return _expose(person, acting, version, "hold on", part, lambda track: exposing.hold_on(track, frame))


def remove(person: Person, acting: Acting, version: int, part: str, at: list[int]) -> Acting:
    """Some exposures taken away; the one before is held."""
    return _expose(person, acting, version, "take away", part, lambda track: exposing.remove(track, at))


def free(person: Person, acting: Acting, version: int, part: str, at: list[int]) -> Acting:
    """What was set on some frames, set no more."""
    return _one(person, acting, version, "free", part, lambda s, p, lane: verbs.free(lane, s.where, at), "body")


def change_gestures(
    person: Person, acting: Acting, version: int, part: str, ids: list[int], by: int, amount: float | None
) -> Acting:
    """Gestures earlier or later, more or less of them; they are accepted by it."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        return verbs.change_gestures(lane, ids, stage.where, by, amount, accepted=True)

    return _one(person, acting, version, "change gesture", part, do, "gestures")


def drop_gestures(person: Person, acting: Acting, version: int, part: str, ids: list[int]) -> Acting:
    """Gestures taken away."""
    return _one(
        person, acting, version, "delete gesture", part, lambda s, p, lane: verbs.drop_gestures(lane, ids), "gestures"
    )


def as_keys(person: Person, acting: Acting, version: int, part: str, ids: list[int]) -> Acting:
    """Gestures written into the keys."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        return verbs.as_keys(lane, stage.where, ids)

    return _one(person, acting, version, "gesture to keys", part, do)


def set_lane(person: Person, acting: Acting, version: int, part: str, lead: int | None, alone: bool | None) -> Acting:
    """By how many frames a part leads; whether its stretch leaves what hangs on it."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        found = lane if lead is None else verbs.lead(lane, lead)
        return found if alone is None else replace(found, alone=alone)

    return _one(person, acting, version, f"{part} leads" if lead is not None else "stretch alone", part, do)


def record(
    person: Person,
    acting: Acting,
    version: int,
    part: str,
    dial: str,
    first: int,
    end: int,
    samples: list[tuple[float, float]],
    late: float,
    smooth: int,
    allowed: float,
) -> dict[str, Any]:
    """A pass of one dial, fitted by few keys; it takes the place of the dial's keys on its frames. What it says: how
    many keys, and by how much they miss the hand at the most."""
    verbs.checked_value(dial, 0.0)
    frames = range(max(0, first), end)
    values = passes.smoothed(passes.on_frames(samples, frames, late), min(12, max(0, smooth)))
    known = DIALS[dial]
    keys, missed = passes.fitted(values.clip(known.least, known.most), frames.start, max(1e-3, allowed))

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        return verbs.lay_curve(lane, stage.where, dial, frames, keys)

    _one(person, acting, version, f"record {part} {dial}"[:40], part, do, "body")
    return {"pass": {"keys": len(keys), "error": round(missed, 3), "frames": len(frames)}}


def record_switch(
    person: Person,
    acting: Acting,
    version: int,
    part: str,
    first: int,
    end: int,
    shown: list[tuple[float, str]],
    late: float,
) -> dict[str, Any]:
    """A pass of a switch: from when on which drawing was pressed, "" for rest. What it says: how many there were."""
    frames = range(max(0, first), end)
    if not frames or not shown:
        raise ActingError("Nothing was recorded; play, and press the drawings' keys while it plays.")
    starts = [(max(frames.start, round(at - late)), name) for at, name in sorted(shown)]
    ends = [*(at for at, _ in starts[1:]), frames.stop]

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        for _, name in starts:
            _check_drawing(own, name)
        pieces = [
            exposing.Piece(at - frames.start, min(stop, frames.stop) - at, name or own.rest)
            for (at, name), stop in zip(starts, ends, strict=True)
            if stop > at and at < frames.stop
        ]
        return verbs.expose(lane, stage.where, own.rest, lambda track: exposing.lay(track, frames.start, pieces))

    _one(person, acting, version, f"record {part}"[:40], part, do)
    return {"pass": {"keys": len(starts), "error": 0, "frames": len(frames)}}


def look(
    person: Person, acting: Acting, version: int, frame: int, frames: int, x: float, y: float, head: bool
) -> Acting:
    """Eyes that look somewhere for some frames, and the head after them if it is asked for. x, y: where to, -1 to 1."""
    there = max(-1.0, min(1.0, x)), max(-1.0, min(1.0, y))
    quick = max(1, min(3, frames // 3))

    def looking(dials: Mapping[str, float], late: int, slow: int) -> Change:
        def do(stage: Stage, own: Part, lane: Lane) -> Lane:
            at, source = stage.where.anchored(frame + late, lane.lead)
            points: dict[str, Points] = {
                dial: ((0, 0.0), (slow, value), (max(slow, frames - slow), value), (max(2 * slow, frames), 0.0))
                for dial, value in dials.items()
            }
            return verbs.put_gestures(lane, [Gesture(0, "look", at, source_id=source, dials=points, accepted=True)])

        return do

    if not frame >= 0 or frames < 2:
        raise ActingError("A look lasts two frames or more; set in and out around them.")

    def changes(stage: Stage) -> dict[str, Change]:
        eyes = [part.name for part in stage.face.parts if part.role == "eyes"]
        heads = [part.name for part in stage.face.parts if part.role == "head"]
        if not eyes:
            raise ActingError("This face has no part that looks; give one the role of eyes in its Face view.")
        own = {name: looking({"x": _LOOK_AT[0] * there[0], "y": _LOOK_AT[1] * there[1]}, 0, quick) for name in eyes}
        if head:
            turned = {"turn": 4.0 * there[0], "x": 6.0 * there[0], "y": 3.0 * there[1]}
            slow = min(6, max(2, frames // 3))
            own |= {name: looking(turned, stage.acting.eyes_first, slow) for name in heads}
        return own

    return on_lanes(person, acting, version, "look", changes, "gestures", "shows")


def propose(person: Person, acting: Acting, version: int, lines: list[int], parts: list[str]) -> dict[str, Any]:
    """Propose anew for phrases, all where none are named; what was only proposed for them before is gone, what was
    accepted stays. What it says: how much was proposed."""
    count, phrases = 0, 0

    def changes(stage: Stage) -> dict[str, Change]:
        nonlocal phrases
        done = {line for line, own in stage.acting.notes.items() if own.locked}
        open_lines = [one for one in stage.lines if one.line not in done and (not lines or one.line in lines)]
        if not open_lines:
            raise ActingError("There is no phrase to propose for: read the lines first, or unlock the phrase.")
        phrases = len(open_lines)
        places = {one.number: n for n, one in enumerate(stage.lines)}
        numbers = [places[one.number] for one in open_lines]
        speech = stage.speech(numbers)
        wanted = {one.line for one in open_lines}

        def proposing(stage: Stage, part: Part, lane: Lane) -> Lane:
            nonlocal count
            bare = replace(lane, gestures=tuple(g for g in lane.gestures if g.accepted or g.line not in wanted))
            found = proposals.proposed(part, stage.place(replace(bare, keys={})), speech, stage.acting.wish, numbers)
            found = [g for g in found if not any(_overlaps(g, frames) for frames in stage.locked())]
            count += len(found)
            anchored = []
            for one in found:
                frame, source = stage.where.anchored(one.frame, lane.lead)
                anchored.append(structs.replace(one, frame=frame, source_id=source))
            return verbs.put_gestures(bare, anchored)

        own = (part.name for part in stage.face.parts if part.role and (not parts or part.name in parts))
        return dict.fromkeys(own, proposing)

    on_lanes(person, acting, version, "propose", changes, "gestures", "shows")
    return {"proposed": count, "phrases": phrases}


def _overlaps(one: Gesture, frames: range) -> bool:
    return one.frame < frames.stop and frames.start < one.frame + one.frames


def _phrase_by_phrase(
    person: Person,
    acting: Acting,
    version: int,
    verb: str,
    line: int,
    parts: list[str],
    do: Callable[[Lane, int], Lane],
) -> Acting:
    found = 0

    def change(stage: Stage, part: Part, lane: Lane) -> Lane:
        nonlocal found
        found += any(one.line == line and not one.accepted for one in lane.gestures)
        return do(lane, line)

    def changes(stage: Stage) -> dict[str, Change]:
        return dict.fromkeys((part.name for part in stage.face.parts if not parts or part.name in parts), change)

    done = on_lanes(person, acting, version, verb, changes, "gestures")
    if not found:
        raise ActingError("Nothing is proposed for this phrase; propose something first.")
    return done


def accept(person: Person, acting: Acting, version: int, line: int, parts: list[str]) -> Acting:
    """What is proposed for a phrase, accepted."""
    return _phrase_by_phrase(person, acting, version, "accept", line, parts, verbs.accept)


def throw_away(person: Person, acting: Acting, version: int, line: int, parts: list[str]) -> Acting:
    """What is proposed for a phrase, thrown away."""
    return _phrase_by_phrase(person, acting, version, "throw away", line, parts, verbs.throw_away)


@transaction.atomic
def set_phrase(
    person: Person,
    acting: Acting,
    version: int,
    line: int,
    note: str | None,
    amount: float | None,
    locked: bool | None,
    moments: list[int] | None,
) -> Acting:
    """What is said of a phrase; what is not given stays. A phrase that is locked can only be unlocked."""
    held = edits.locked(person, acting, version)
    stage, notes = stage_of(held), held.notes
    stage.line(line)
    own = notes.get(line, PhraseNotes())
    if own.locked and locked is not False:
        raise ActingError("This phrase is locked; unlock it first.")
    if amount is not None and not 0.0 <= amount <= 3.0:
        raise ActingError("The amount of a phrase goes from 0 to 3; 1 is as proposed.")
    if (note is not None and len(note) > MOST_NOTE) or (moments is not None and len(moments) > MOST_MOMENTS):
        raise ActingError(f"A note has {MOST_NOTE:,} characters and {MOST_MOMENTS} key moments at the most.")
    if amount is not None and amount != own.amount:
        _check_amount(stage, line, amount)
    new = PhraseNotes(
        own.note if note is None else note,
        own.moments if moments is None else tuple(stage.where.anchored(frame, 0) for frame in sorted(set(moments))),
        own.amount if amount is None else amount,
        own.locked if locked is None else locked,
    )
    verb = "lock phrase" if locked else "unlock phrase" if locked is not None else "note phrase"
    return edits.change(person, held, verb, {"phrases": {**held.phrases, str(line): plain(new)}})


def _check_amount(stage: Stage, line: int, amount: float) -> None:
    """ActingError where gestures of a phrase reach into another that is locked, and would be seen otherwise there."""
    for lane in stage.acting.all_lanes().values() if stage.locked() else ():
        own = [one for one in stage.place(lane).gestures if one.gesture.line == line]
        if any(one.frame < frames.stop and frames.start < one.end for one in own for frames in stage.locked()):
            raise ActingError("A gesture of this phrase reaches into one that is locked; unlock that first.")


@transaction.atomic
def set_wish(
    person: Person,
    acting: Acting,
    version: int,
    rate: float | None,
    seed: int | None,
    eyes_first: int | None,
    amount: float | None,
) -> Acting:
    """What is left to the proposals, and how much of all gestures is seen."""
    held = edits.locked(person, acting, version)
    if rate is not None and not 1.0 <= rate <= 60.0:
        raise ActingError("Blinks go from 1 to 60 a minute.")
    if seed is not None and not 1 <= seed <= 1_000_000:
        raise ActingError("A seed is a number from 1 to 1,000,000.")
    if eyes_first is not None and not 0 <= eyes_first <= 24:
        raise ActingError("Eyes go 0 to 24 frames before the head.")
    if amount is not None and not 0.0 <= amount <= 3.0:
        raise ActingError("The amount of all gestures goes from 0 to 3; 1 is as proposed.")
    if amount is not None and amount != held.amount and stage_of(held).locked():
        raise ActingError("A phrase of this scene is locked; unlock it before the amount of all is changed.")
    given = {"rate": rate, "seed": seed, "eyes_first": eyes_first, "amount": amount}
    return edits.change(person, held, "acting settings", {k: v for k, v in given.items() if v is not None})


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
