"""What a person does to a lane. Each verb takes the lane and where its sounds lie, and gives the lane as it is to be;
frames are the scene's. What is only proposed is never changed by a verb that is about keys or drawings.
"""

import math
from bisect import bisect_left
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import replace

import numpy as np
from msgspec import structs

from ..errors import ActingError
from ..exposure import verbs as exposing
from ..exposure.pins import set_pins, unset_pins
from ..exposure.track import Exposure, Pin
from ..limits import MAX_GESTURES, MAX_KEYS, MAX_LANE_LEAD
from ..mouths.parts import DIALS
from ..sound.anchors import spans_of
from .lanes import EASES, HOLD, SMOOTH, Array, Gesture, Key, Lane, PlacedKeys, Where, place
from .passes import fitted

Track = tuple[Exposure, ...]


def checked_value(dial: str, value: float) -> float:
    """Return a value a dial can have. ActingError for another, or for no dial there is."""
    if dial not in DIALS:
        raise ActingError(f"There is no dial “{dial}”; a part has {', '.join(DIALS)}.")
    known = DIALS[dial]
    if not (math.isfinite(value) and known.least <= value <= known.most):
        raise ActingError(f"“{dial}” goes from {known.least:g} to {known.most:g}; set it to something between.")
    return value


def set_key(lane: Lane, where: Where, dial: str, frame: int, value: float, ease: str | None = None) -> Lane:
    """Return the lane with a dial at a value on a frame. A key that is there gets the value, and keeps its ease
    unless one is given."""
    _check_frame(where, frame)
    checked_value(dial, value)
    before = _ease_on(lane, where, dial, frame)
    return _with_keys(lane, where, dial, {frame: (value, _checked_ease(ease or before))}, range(frame, frame + 1))


def move_keys(lane: Lane, where: Where, dial: str, frames: Collection[int], by: int, up: float = 0.0) -> Lane:
    """Return the lane with some keys of a dial so many frames later, and so much higher. What lies where they come
    to gives way."""
    own = _keys(lane, where, dial)
    chosen = [n for n, frame in enumerate(own.frames) if frame in set(frames)]
    if not chosen:
        raise ActingError("There is no key on this frame; look at the frame number and try again.")
    new = {own.frames[n] + by: (checked_value(dial, own.values[n] + up), own.eases[n]) for n in chosen}
    for frame in new:
        _check_frame(where, frame)
    gone = [range(frame, frame + 1) for frame in (*(own.frames[n] for n in chosen), *new)]
    return _with_keys(lane, where, dial, new, *gone)


def ease_keys(lane: Lane, where: Where, dial: str, frames: Collection[int], ease: str) -> Lane:
    """Return the lane with how a dial goes on from some of its keys."""
    own = _keys(lane, where, dial)
    new = {f: (v, _checked_ease(ease)) for f, v in zip(own.frames, own.values, strict=True) if f in set(frames)}
    if not new:
        raise ActingError("There is no key on this frame; look at the frame number and try again.")
    return _with_keys(lane, where, dial, new, *(range(frame, frame + 1) for frame in new))


def drop_keys(lane: Lane, where: Where, dials: Iterable[str], frames: range) -> Lane:
    """Return the lane without the keys of some dials on some frames. ActingError where there are none."""
    found = lane
    for dial in dials:
        found = _with_keys(found, where, dial, {}, frames)
    if found == lane:
        raise ActingError("There is no key in this range.")
    return found


def lay_curve(lane: Lane, where: Where, dial: str, frames: range, keys: Sequence[tuple[int, float, str]]) -> Lane:
    """Return the lane with keys of a dial in the place of all it had on some frames; before and after them it stays
    as it was."""
    if not frames or frames.start < 0 or frames.stop > where.frames:
        raise ActingError("This range has no frame of the scene; set in and out anew.")
    new = {frame: (checked_value(dial, value), _checked_ease(ease)) for frame, value, ease in keys}
    own = _keys(lane, where, dial)
    before, after = bisect_left(own.frames, frames.start) - 1, bisect_left(own.frames, frames.stop)
    if before >= 0:
        new |= _as_it_was(own, dial, range(own.frames[before], frames.start))
    if after < len(own.frames):
        rest = _as_it_was(own, dial, range(frames.stop, own.frames[after] + 1))
        new |= rest | {own.frames[after]: (own.values[after], own.eases[after])}
    return _with_keys(lane, where, dial, new, range(min(new, default=frames.start), max(new, default=0) + 1), frames)


def _as_it_was(own: PlacedKeys, dial: str, frames: range) -> dict[int, tuple[float, str]]:
    """Keys that have a dial on some frames where other keys had it, though those beyond them are gone."""
    if not frames:
        return {}
    if not np.ptp(own.on(_array(frames))):
        return {frame: (float(own.on(_array(range(frame, frame + 1)))[0]), HOLD) for frame in (frames[0],)}
    keys, _ = fitted(own.on(_array(frames)), frames.start, DIALS[dial].hair)
    return {frame: (value, ease) for frame, value, ease in keys}


def expose(lane: Lane, where: Where, rest: str, verb: Callable[[Track], Track]) -> Lane:
    """Return the lane with its drawings as a verb of tinfork.core.exposure.verbs leaves them; what it touched is
    decided from then on."""
    before = place(lane, where).track(rest)
    new = exposing.decided(before, verb(before))
    return _with_shows(lane, where, new)


def _with_shows(lane: Lane, where: Where, new: Iterable[Pin]) -> Lane:
    """The lane with drawings set on frames on which they are seen."""
    kept = [Pin(max(0, pin.frame + lane.lead), pin.frames, pin.drawing, pin.chosen) for pin in new]
    return replace(lane, shows=set_pins(lane.shows, kept, where.clips, where.frames + abs(lane.lead)))


def free(lane: Lane, where: Where, frames: Iterable[int]) -> Lane:
    """Return the lane without the drawings a person set on some frames, whole. TrackError where there are none."""
    own = [frame + lane.lead for frame in frames]
    return replace(lane, shows=unset_pins(lane.shows, own, where.clips, where.frames + abs(lane.lead)))


def change_gestures(
    lane: Lane, ids: Collection[int], where: Where, by: int = 0, amount: float | None = None, accepted: bool = False
) -> Lane:
    """Return the lane with some gestures so many frames later, by another amount, or accepted. What a person changes
    is accepted by it."""
    chosen = set(_gestures(lane, ids))
    if amount is not None and not -4.0 <= amount <= 4.0:
        raise ActingError("The amount of a gesture goes from -4 to 4; -1 is the other way round.")

    def changed(one: Gesture) -> Gesture:
        new = structs.replace(one, accepted=True, amount=one.amount if amount is None else amount)
        return _moved(new, lane, where, by) if by else new

    if not (by or amount is not None or accepted):
        return lane
    return replace(lane, gestures=tuple(changed(one) if one.id in chosen else one for one in lane.gestures))


def _moved(one: Gesture, lane: Lane, where: Where, by: int) -> Gesture:
    placed = next((p for p in place(replace(lane, gestures=(one,)), where).gestures), None)
    if placed is None:
        raise ActingError("The sound this belongs to is cut away here; bring it back first.")
    _check_frame(where, placed.frame + by)
    frame, source_id = where.anchored(placed.frame + by, lane.lead)
    return structs.replace(one, frame=frame, source_id=source_id)


def drop_gestures(lane: Lane, ids: Collection[int]) -> Lane:
    """Return the lane without some gestures."""
    gone = set(_gestures(lane, ids))
    return replace(lane, gestures=tuple(one for one in lane.gestures if one.id not in gone))


def accept(lane: Lane, line: int) -> Lane:
    """Return the lane with all that is proposed for a phrase accepted: what is seen stays the same."""
    return replace(
        lane, gestures=tuple(structs.replace(g, accepted=True) if g.line == line else g for g in lane.gestures)
    )


def throw_away(lane: Lane, line: int) -> Lane:
    """Return the lane without what is only proposed for a phrase."""
    return replace(lane, gestures=tuple(one for one in lane.gestures if one.accepted or one.line != line))


def put_gestures(lane: Lane, new: Iterable[Gesture]) -> Lane:
    """Return the lane with more gestures, which get numbers of their own."""
    number = max((one.id for one in lane.gestures), default=0)
    numbered = tuple(structs.replace(one, id=number + n) for n, one in enumerate(new, 1))
    if len(lane.gestures) + len(numbered) > MAX_GESTURES:
        raise ActingError(f"A lane holds {MAX_GESTURES:,} gestures at the most; accept or throw away some first.")
    return replace(lane, gestures=lane.gestures + numbered)


def lead(lane: Lane, frames: int) -> Lane:
    """Return the whole lane seen so many frames early; late where negative."""
    if not -MAX_LANE_LEAD <= frames <= MAX_LANE_LEAD:
        raise ActingError(f"A part leads or trails by {MAX_LANE_LEAD} frames at the most.")
    return replace(lane, lead=frames)


def as_keys(lane: Lane, where: Where, ids: Collection[int]) -> Lane:
    """Return the lane with gestures as keys: what they add is written into the dials they move, frame by frame where
    they lie; drawings become drawings a person set."""
    placed = place(lane, where)
    chosen = set(_gestures(lane, ids))
    own = [one for one in placed.gestures if one.gesture.id in chosen]
    bare = replace(lane, gestures=tuple(one for one in lane.gestures if one.id not in chosen))
    others = place(bare, where)
    found = bare
    for one in own:
        frames = range(max(0, one.frame), min(where.frames, one.end))
        for dial in one.gesture.dials:
            added = placed.curve(dial, frames) - others.curve(dial, frames)
            keyed = _keys(found, where, dial).on(_array(frames))
            values = zip(frames, (keyed + added).tolist(), strict=True)
            found = lay_curve(found, where, dial, frames, [(f, round(v, 3), "straight") for f, v in values])
        for shown in one.gesture.shown:
            found = _with_shows(found, where, [Pin(one.frame + shown.at, shown.frames, shown.drawing)])
    return found


def _array(frames: range) -> Array:
    return np.arange(frames.start, frames.stop, dtype=float)


def _gestures(lane: Lane, ids: Collection[int]) -> list[int]:
    known = {one.id for one in lane.gestures}
    found = [one for one in ids if one in known]
    if not found:
        raise ActingError("This gesture is not there any more; look at the lane again.")
    return found


def _keys(lane: Lane, where: Where, dial: str) -> PlacedKeys:
    if dial not in DIALS:
        raise ActingError(f"There is no dial “{dial}”; a part has {', '.join(DIALS)}.")
    own = replace(lane, keys={dial: lane.keys.get(dial, ())}, shows=(), gestures=())
    return place(own, where).keys[dial]


def keyed_on(lane: Lane, where: Where, dial: str, frame: int) -> float:
    """Return where the keys of a dial have it on a frame."""
    return round(float(_keys(lane, where, dial).on(_array(range(frame, frame + 1)))[0]), 4)


def _ease_on(lane: Lane, where: Where, dial: str, frame: int) -> str:
    own = _keys(lane, where, dial)
    before = [ease for at, ease in zip(own.frames, own.eases, strict=True) if at <= frame]
    return before[-1] if before else SMOOTH


def _with_keys(lane: Lane, where: Where, dial: str, new: Mapping[int, tuple[float, str]], *gone: range) -> Lane:
    """The lane with other keys of a dial on some frames; keys whose sound is cut away stay as they are."""
    own = lane.keys.get(dial, ())
    placed = spans_of(own, where.clips, where.frames + abs(lane.lead))
    kept = [
        key
        for key, span in zip(own, placed, strict=True)
        if span is None or not any(span.start - lane.lead in one for one in gone)
    ]
    anchored = [
        Key(frame, value, ease, source)
        for (frame, source), value, ease in ((where.anchored(at, lane.lead), v, e) for at, (v, e) in new.items())
    ]
    if len(kept) + len(anchored) > MAX_KEYS:
        raise ActingError(f"A dial holds {MAX_KEYS:,} keys at the most in a scene.")
    return replace(lane, keys={**lane.keys, dial: tuple(kept + anchored)})


def _checked_ease(ease: str) -> str:
    if ease not in EASES:
        raise ActingError(f"From a key a dial goes {', '.join(EASES[:-1])} or {EASES[-1]}.")
    return ease


def _check_frame(where: Where, frame: int) -> None:
    if not 0 <= frame < where.frames:
        raise ActingError("This frame is not in the scene; look at its first and last frame.")
