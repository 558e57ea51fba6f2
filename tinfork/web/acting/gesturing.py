"""Gestures: what is proposed, accepted and thrown away, changed by hand; and looks. Frames are the scene's."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from msgspec import structs

from tinfork.core.acting import proposals, turns, verbs
from tinfork.core.acting.lanes import Gesture, Lane, Points
from tinfork.core.errors import ActingError
from tinfork.core.mouths.parts import FACING, Part
from tinfork.core.plain import plain
from tinfork.web.productions.permissions import Person

from .changing import Change, on_lane, on_lanes
from .learning import TURNED_DOWN, kinds_of, learn
from .models import Acting, PhraseNotes
from .staging import Stage

_LOOK_AT = (6.0, 3.5)
"""How far eyes that look to a side, and up or down, go."""

_SIDE, _ASIDE = 90.0, 0.5
"""A drawn head turns to the side, through what lies between, where it is to look to a side by more than half."""

_FACES = 32.0
"""By how many degrees a head turns after them."""


def change_gestures(
    person: Person, acting: Acting, version: int, part: str, ids: list[int], by: int, amount: float | None
) -> Acting:
    """Gestures earlier or later, more or less of them; they are accepted by it."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        if amount is not None and abs(amount) < TURNED_DOWN:
            learn(stage.acting, dropped=kinds_of(own, (one for one in lane.gestures if one.id in ids)))
        return verbs.change_gestures(lane, ids, stage.where, by, amount, accepted=True)

    return on_lane(person, acting, version, "change gesture", part, do, "gestures")


def drop_gestures(person: Person, acting: Acting, version: int, part: str, ids: list[int]) -> Acting:
    """Gestures taken away."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        learn(stage.acting, dropped=kinds_of(own, (one for one in lane.gestures if one.id in ids)))
        return verbs.drop_gestures(lane, ids)

    return on_lane(person, acting, version, "delete gesture", part, do, "gestures")


def as_keys(person: Person, acting: Acting, version: int, part: str, ids: list[int]) -> Acting:
    """Gestures written into the keys."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        return verbs.as_keys(lane, stage.where, ids)

    return on_lane(person, acting, version, "gesture to keys", part, do)


def look(
    person: Person, acting: Acting, version: int, frame: int, frames: int, x: float, y: float, head: bool
) -> Acting:
    """Eyes that look somewhere for some frames, and the head after them if it is asked for. x, y: where to, -1 to 1."""
    there = max(-1.0, min(1.0, x)), max(-1.0, min(1.0, y))
    quick = max(1, min(3, frames // 3))

    def looking(dials: Mapping[str, float], late: int, slow: int, turning: bool = False) -> Change:
        def do(stage: Stage, own: Part, lane: Lane) -> Lane:
            at, source = stage.where.anchored(frame + late, lane.lead)
            shown = (
                turns.through_views(own, there[0], frames, 2, _SIDE)
                if turning and not stage.face.slides and abs(there[0]) > _ASIDE
                else ()
            )
            points: dict[str, Points] = {
                dial: ((0, 0.0), (slow, value), (max(slow, frames - slow), value), (max(2 * slow, frames), 0.0))
                for dial, value in dials.items()
            }
            made = Gesture(0, "look", at, source_id=source, dials={} if shown else points, shown=shown, accepted=True)
            return verbs.put_gestures(lane, [made])

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
            if stage.face.slides:
                turned = {FACING: _FACES * there[0], "turn": 1.0 * there[0], "x": 2.0 * there[0], "y": 3.0 * there[1]}
            slow = min(6, max(2, frames // 3))
            own |= {name: looking(turned, stage.acting.eyes_first, slow, True) for name in heads}
        return own

    return on_lanes(person, acting, version, "look", changes, "gestures", "shows")


def propose(
    person: Person, acting: Acting, version: int | None, lines: list[int], parts: list[str], another: bool = False
) -> dict[str, Any]:
    """Propose anew for phrases, all where none are named; what was only proposed for them before is gone, what was
    accepted stays. another: by other chances than before. What it says: how much was proposed."""
    count, phrases = 0, 0
    asked_again: set[int] = set()

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
        asked_again.update(wanted if another else ())
        wish = stage.acting.wish
        again = {line: wish.again.get(line, 0) + (line in asked_again) for line in wish.again.keys() | asked_again}
        wish = replace(wish, again=again, turns=stage.face.slides)

        def proposing(stage: Stage, part: Part, lane: Lane) -> Lane:
            nonlocal count
            bare = replace(lane, gestures=tuple(g for g in lane.gestures if g.accepted or g.line not in wanted))
            found = proposals.proposed(part, stage.place(replace(bare, keys={})), speech, wish, numbers)
            found = [g for g in found if not any(_overlaps(g, frames) for frames in stage.locked)]
            count += len(found)
            anchored = []
            for one in found:
                frame, source = stage.where.anchored(one.frame, lane.lead)
                anchored.append(structs.replace(one, frame=frame, source_id=source))
            return verbs.put_gestures(bare, anchored)

        own = (part.name for part in stage.face.parts if part.role and (not parts or part.name in parts))
        return dict.fromkeys(own, proposing)

    def counted(held: Acting) -> dict[str, Any]:
        own = {line: held.notes.get(line, PhraseNotes()) for line in asked_again}
        now = {str(line): plain(structs.replace(one, again=one.again + 1)) for line, one in own.items()}
        return {"phrases": {**held.phrases, **now}} if now else {}

    on_lanes(person, acting, version, "propose", changes, "gestures", "shows", beside=counted)
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
    keep: bool,
) -> Acting:
    found = 0

    def change(stage: Stage, part: Part, lane: Lane) -> Lane:
        nonlocal found
        own = [one for one in lane.gestures if one.line == line and not one.accepted]
        found += bool(own)
        kinds = kinds_of(part, own)
        learn(stage.acting, kept=kinds if keep else (), dropped=() if keep else kinds)
        return do(lane, line)

    def changes(stage: Stage) -> dict[str, Change]:
        return dict.fromkeys((part.name for part in stage.face.parts if not parts or part.name in parts), change)

    done = on_lanes(person, acting, version, verb, changes, "gestures")
    if not found:
        raise ActingError("Nothing is proposed for this phrase; propose something first.")
    return done


def accept(person: Person, acting: Acting, version: int, line: int, parts: list[str]) -> Acting:
    """What is proposed for a phrase, accepted."""
    return _phrase_by_phrase(person, acting, version, "accept", line, parts, verbs.accept, keep=True)


def throw_away(person: Person, acting: Acting, version: int, line: int, parts: list[str]) -> Acting:
    """What is proposed for a phrase, thrown away."""
    return _phrase_by_phrase(person, acting, version, "throw away", line, parts, verbs.throw_away, keep=False)
