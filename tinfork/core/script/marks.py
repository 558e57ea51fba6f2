"""Who speaks when, marked by hand: while the sound plays a key is held, and what comes out is corrected.

A person presses and lets go about a fifth of a second after they hear, so marks are moved earlier by that; then each
edge is drawn to the nearest edge between speech and silence, if one is near.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

from ..errors import ScriptError
from ..sound.anchors import SCENE, bound_span, placed_span
from ..sound.arrangement import Clip

REACTION_SECONDS = 0.2
"""How long after a sound a key is pressed or let go of."""

SNAP_SECONDS = 0.3
"""How far an edge is drawn to one of speech."""

LEAST_SECONDS = 0.08
"""Shorter than this nobody says anything."""


@dataclass(frozen=True)
class Mark:
    """A character speaking from start to end, in seconds of the sound of this source_id, or of the scene where that is
    0 (see tinfork.core.sound.anchors)."""

    id: int
    character: int
    start: float
    end: float
    source_id: int = SCENE


@dataclass(frozen=True)
class Marks:
    """All of a scene's marks in order; next: the first number not yet given away."""

    marks: tuple[Mark, ...] = ()
    next: int = 1


def from_pass(
    held: Iterable[tuple[float, float]], speech: Sequence[tuple[float, float]], reaction: float = REACTION_SECONDS
) -> list[tuple[float, float]]:
    """Return stretches a key was held, as the stretches of speech they mean. speech: where there is any, from the
    sound."""
    edges = sorted(edge for span in speech for edge in span)
    found = []
    for start, end in sorted(held):
        begin, stop = _snapped(max(0.0, start - reaction), edges), _snapped(max(0.0, end - reaction), edges)
        if stop - begin >= LEAST_SECONDS:
            found.append((begin, stop))
    return _merged(found)


def add_pass(
    marks: Marks, character: int, spans: Iterable[tuple[float, float]], replacing: tuple[float, float]
) -> Marks:
    """With one character's marks in a stretch replaced by those of a pass; other characters' stay."""
    first, last = replacing
    kept = [m for m in marks.marks if m.character != character or m.end <= first or m.start >= last]
    number = marks.next
    for start, end in spans:
        kept.append(Mark(number, character, round(start, 4), round(end, 4)))
        number += 1
    return Marks(_ordered(kept), number)


def change(marks: Marks, number: int, start: float, end: float) -> Marks:
    """With a mark's edges moved. ScriptError when nothing would be left, or there is no such mark."""
    if end - start < LEAST_SECONDS or start < 0:
        raise ScriptError("A mark needs a length, inside the scene; delete it to take it away.")
    if not any(mark.id == number for mark in marks.marks):
        raise ScriptError("This mark is gone; reload the page.")
    moved = (replace(m, start=round(start, 4), end=round(end, 4)) if m.id == number else m for m in marks.marks)
    return replace(marks, marks=_ordered(moved))


def add(marks: Marks, character: int, start: float, end: float) -> Marks:
    """With one more mark. ScriptError when it has no length."""
    fresh = Marks((*marks.marks, Mark(marks.next, character, start, end)), marks.next + 1)
    return change(fresh, marks.next, start, end)


def give(marks: Marks, number: int, character: int) -> Marks:
    """With a mark given to another speaker. ScriptError when there is no such mark."""
    if not any(mark.id == number for mark in marks.marks):
        raise ScriptError("This mark is gone; reload the page.")
    return replace(marks, marks=tuple(replace(m, character=character) if m.id == number else m for m in marks.marks))


def remove(marks: Marks, number: int) -> Marks:
    """Without a mark."""
    return replace(marks, marks=tuple(mark for mark in marks.marks if mark.id != number))


def overlaps(marks: Marks) -> list[tuple[float, float]]:
    """Return where more than one character is marked at once."""
    found = []
    for i, one in enumerate(marks.marks):
        for other in marks.marks[i + 1 :]:
            if other.start >= one.end:
                break
            if other.character != one.character:
                found.append((other.start, min(one.end, other.end)))
    return _merged(found)


def speaking(marks: Marks) -> dict[int, list[tuple[float, float]]]:
    """Return for each character with marks, where they may be heard."""
    stretches: dict[int, list[tuple[float, float]]] = {}
    for mark in marks.marks:
        stretches.setdefault(mark.character, []).append((mark.start, mark.end))
    return stretches


def _snapped(time: float, edges: Sequence[float]) -> float:
    nearest = min(edges, key=lambda edge: abs(edge - time), default=time)
    return nearest if abs(nearest - time) <= SNAP_SECONDS else time


def _merged(spans: Iterable[tuple[float, float]]) -> list[tuple[float, float]]:
    merged: list[tuple[float, float]] = []
    for start, end in sorted(spans):
        if merged and start <= merged[-1][1]:
            merged[-1] = (merged[-1][0], max(end, merged[-1][1]))
        else:
            merged.append((start, end))
    return merged


def _ordered(marks: Iterable[Mark]) -> tuple[Mark, ...]:
    return tuple(sorted(marks, key=lambda mark: (mark.start, mark.id)))


def in_scene(marks: Marks, clips: Sequence[Clip], fps: float) -> Marks:
    """Return the marks where their sounds are heard in the scene now, in the scene's seconds; the others are left
    out."""
    placed = []
    for mark in marks.marks:
        span = placed_span(mark.start, mark.end, mark.source_id, clips, fps)
        if span and span[0] is not None and span[1] is not None and span[1] > 0:
            placed.append(replace(mark, start=max(0.0, span[0]), end=span[1], source_id=SCENE))
    return replace(marks, marks=_ordered(placed))


def with_changes(
    kept: Marks, before: Marks, after: Marks, clips_of: Callable[[int], Sequence[Clip]], fps: float
) -> Marks:
    """Return the marks as they are kept once what is seen of them in the scene was changed from before to after: what
    was not changed stays exactly as it is kept, and so does what is not heard now. clips_of: where a character is
    heard."""
    shown, stays = {mark.id: mark for mark in before.marks}, {mark.id: mark for mark in kept.marks}
    own = [mark for mark in kept.marks if mark.id not in shown]
    for mark in after.marks:
        if shown.get(mark.id) == mark:
            own.append(stays[mark.id])
        else:
            start, end, source_id = bound_span(mark.start, mark.end, clips_of(mark.character), fps)
            own.append(replace(mark, start=start or 0.0, end=end or 0.0, source_id=source_id))
    return Marks(_ordered(own), after.next)
