"""The keys of a part's dials, set and moved by hand, or recorded while it plays. Frames are the scene's."""

from dataclasses import replace
from typing import Any

from tinfork.core.acting import passes, verbs
from tinfork.core.acting.lanes import Lane
from tinfork.core.mouths.parts import DIALS, Part
from tinfork.web.productions.permissions import Person

from .changing import on_lane
from .models import Acting
from .staging import Stage


def set_key(
    person: Person, acting: Acting, version: int, part: str, dial: str, frame: int, value: float, ease: str | None
) -> Acting:
    """A dial at a value on a frame."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        return verbs.set_key(lane, stage.where, dial, frame, value, ease)

    return on_lane(person, acting, version, f"set {part} {dial}"[:40], part, do, "body")


def move_keys(
    person: Person, acting: Acting, version: int, part: str, dial: str, frames: list[int], by: int, up: float
) -> Acting:
    """Keys of a dial elsewhere in time, or higher."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        return verbs.move_keys(lane, stage.where, dial, frames, by, up)

    return on_lane(person, acting, version, "move keys", part, do, "body")


def ease_keys(
    person: Person, acting: Acting, version: int, part: str, dial: str, frames: list[int], ease: str
) -> Acting:
    """How a dial goes on from keys."""
    return on_lane(
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
    return on_lane(
        person,
        acting,
        version,
        "delete keys",
        part,
        lambda s, p, lane: verbs.drop_keys(lane, s.where, own, span),
        "body",
    )


def set_lane(person: Person, acting: Acting, version: int, part: str, lead: int | None, alone: bool | None) -> Acting:
    """By how many frames a part leads; whether its stretch leaves what hangs on it."""

    def do(stage: Stage, own: Part, lane: Lane) -> Lane:
        found = lane if lead is None else verbs.lead(lane, lead)
        return found if alone is None else replace(found, alone=alone)

    return on_lane(person, acting, version, f"{part} leads" if lead is not None else "stretch alone", part, do)


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

    on_lane(person, acting, version, f"record {part} {dial}"[:40], part, do, "body")
    return {"pass": {"keys": len(keys), "error": round(missed, 3), "frames": len(frames)}}
