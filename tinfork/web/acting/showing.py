"""The drawings of a part, shown and moved by hand, or recorded while it plays. Frames are the scene's."""

from collections.abc import Callable
from typing import Any

from tinfork.core.acting import verbs
from tinfork.core.acting.lanes import Lane
from tinfork.core.errors import ActingError
from tinfork.core.exposure import verbs as exposing
from tinfork.core.exposure.track import Exposure
from tinfork.core.mouths.parts import Part
from tinfork.web.productions.permissions import Person

from .changing import on_lane
from .models import Acting
from .staging import Stage

Track = tuple[Exposure, ...]


def _expose(
    person: Person, acting: Acting, version: int, verb: str, part: str, do: Callable[[Track], Track], *drawings: str
) -> Acting:
    """Change what a part shows. drawings: what it must have for that."""

    def change(stage: Stage, own: Part, lane: Lane) -> Lane:
        for drawing in drawings:
            _check_drawing(own, drawing)
        return verbs.expose(lane, stage.where, own.rest, do)

    return on_lane(person, acting, version, verb, part, change)


def show(person: Person, acting: Acting, version: int, part: str, frame: int, frames: int, drawing: str) -> Acting:
    """A drawing for some frames, over whatever is there."""
    piece, verb = exposing.Piece(0, frames, drawing), f"show {drawing or 'nothing'}"[:40]
    return _expose(person, acting, version, verb, part, lambda track: exposing.lay(track, frame, [piece]), drawing)


def swap(person: Person, acting: Acting, version: int, part: str, at: list[int], drawing: str) -> Acting:
    """Another drawing for some exposures."""
    return _expose(person, acting, version, "swap", part, lambda track: exposing.show(track, at, drawing), drawing)


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
    return on_lane(person, acting, version, "free", part, lambda s, p, lane: verbs.free(lane, s.where, at), "body")


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

    on_lane(person, acting, version, f"record {part}"[:40], part, do)
    return {"pass": {"keys": len(starts), "error": 0, "frames": len(frames)}}
