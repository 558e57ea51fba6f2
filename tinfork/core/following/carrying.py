"""Things that were set on frames, as they lie after a way: pins, ranges, keys, gestures, notes.

Nothing is dropped: what has no place afterwards stays as it is kept, on a sound that is heard no more, and is told.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from msgspec import structs

from ..acting.lanes import Gesture, Key, Lane, ShownFor
from ..exposure.pins import AnchoredPin
from ..exposure.ranges import AnchoredStretch
from ..exposure.verbs import Piece
from ..script.lines import ScriptLine
from ..script.marks import Mark
from ..sound.anchors import SCENE
from ..speech.reading import Line, Word, moved_word
from .ways import Way, frame_of, nearest, seconds_of, span_of

A = TypeVar("A", bound=Any)


@dataclass(frozen=True)
class Carried:
    """What became of things. things: all of them, in their order; left: those that have no place afterwards; together:
    those that lie on no frame of their own any more, as another lies on the same."""

    things: tuple[Any, ...]
    left: tuple[Any, ...] = ()
    together: tuple[Any, ...] = ()


def pins(way: Way, things: Sequence[AnchoredPin]) -> Carried:
    """Return pins, or what parts of a face show, as they lie afterwards. Those that lay side by side are not laid over
    one another: each keeps a frame where there is one."""
    return _ranged(way, things, whole=False)


def ranges(way: Way, things: Sequence[A]) -> Carried:
    """Return what holds over ranges (moods, settings, stretches, what is meant so, eases) as it lies afterwards: all
    that comes to lie between its ends is covered too."""
    return _ranged(way, things, whole=True)


CARRY = {"pins": pins} | dict.fromkeys(("moods", "passages", "stretches", "intents", "eases"), ranges)
"""How what is decided of mouths goes along, by the names it is kept under."""


def _ranged(way: Way, things: Sequence[A], whole: bool) -> Carried:
    moved, left, spans = [], [], []
    for one in things:
        span = span_of(way, one.source_id, one.frame, one.frames, whole)
        if span is None:
            left.append(one)
            moved.append(one)
            continue
        source_id, frame, frames = span
        changed: dict[str, Any] = {"frame": frame, "frames": frames, "source_id": source_id}
        if isinstance(one, AnchoredStretch):
            changed["pieces"] = _pieces(way, one, frame, frames)
        after = replace(one, **changed)
        moved.append(after)
        spans.append((one, after))
    return Carried(tuple(moved), tuple(left), tuple(_fallen(spans)))


def _fallen(spans: Sequence[tuple[Any, Any]]) -> Iterable[Any]:
    """Things of which every frame is covered afterwards by those that were set later, and was not before."""
    before, after = ([pair[side] for pair in spans] for side in (0, 1))
    were, are = _covered(before), _covered(after)
    return [before[n] for n in sorted(are - were)]


def _covered(things: Sequence[Any]) -> set[int]:
    """The places of those that are seen on no frame, as later ones lie on all of theirs."""
    owner: dict[tuple[int, int], int] = {}
    for number, one in enumerate(things):
        for frame in range(one.frame, one.frame + one.frames):
            owner[one.source_id, frame] = number
    return set(range(len(things))) - set(owner.values())


def _pieces(way: Way, one: AnchoredStretch, frame: int, frames: int) -> tuple[Piece, ...]:
    """The drawings of a stretch, over its frames as they are afterwards."""
    edges = [0]
    for piece in one.pieces[1:]:
        at = frame_of(way, one.source_id, one.frame + piece.at)
        edges.append(edges[-1] if at is None else min(max(at[1] - frame, edges[-1]), frames))
    rows = zip(one.pieces, edges, [*edges[1:], frames], strict=True)
    return tuple(replace(piece, at=a, frames=b - a) for piece, a, b in rows if b > a)


def lane(way: Way, own: Lane) -> tuple[Lane, tuple[Any, ...], tuple[Any, ...]]:
    """Return what a part of a face does as it lies afterwards; what of it has no place; and what lies on one frame with
    something else now."""
    left: list[Any] = []
    together: list[Any] = []
    dials: dict[str, tuple[Key, ...]] = {}
    for dial, found in own.keys.items():
        moved = _keys(way, found)
        dials[dial] = moved.things
        left += moved.left
        together += moved.together
    shows, acted = pins(way, own.shows), gestures(way, own.gestures)
    left += [*shows.left, *acted.left]
    together += shows.together
    return replace(own, keys=dials, shows=shows.things, gestures=acted.things), tuple(left), tuple(together)


def _keys(way: Way, things: Sequence[Key]) -> Carried:
    found = _each(way, things, lambda key, at: structs.replace(key, source_id=at[0], frame=at[1]))
    seen: set[tuple[int, int]] = set()
    together = []
    for key, now in zip(things, found.things, strict=True):
        together += [key] if (now.source_id, now.frame) in seen else []
        seen.add((now.source_id, now.frame))
    return replace(found, together=tuple(together))


def _each(way: Way, things: Sequence[A], make: Callable[[A, tuple[int, int]], A]) -> Carried:
    """Things that begin on a frame, each made anew where that lies afterwards. make: takes one, and its sound and frame
    then."""
    moved, left = [], []
    for one in things:
        at = frame_of(way, one.source_id, one.frame)
        left += [one] if at is None else []
        moved.append(one if at is None else make(one, at))
    return Carried(tuple(moved), tuple(left))


def gestures(way: Way, things: Sequence[Gesture]) -> Carried:
    """Return gestures as they lie afterwards, with all that they do in their time."""
    return _each(way, things, lambda one, at: _gesture(way, one, at))


def _gesture(way: Way, one: Gesture, at: tuple[int, int]) -> Gesture:
    ratio = float(way.after / way.before)

    def later(frames: int) -> int:
        return nearest((one.frame + frames) * ratio) - nearest(one.frame * ratio)

    dials = {dial: tuple(dict((later(frame), value) for frame, value in points).items())
             for dial, points in one.dials.items()}  # fmt: skip
    shown = tuple(
        ShownFor(later(own.at), max(1, later(own.at + own.frames) - later(own.at)), own.drawing) for own in one.shown
    )
    return structs.replace(one, source_id=at[0], frame=at[1], dials=dials, shown=shown)


def moments(way: Way, things: Iterable[tuple[int, int]]) -> tuple[tuple[int, int], ...]:
    """Return moments, each a frame and the number of its sound, as they lie afterwards."""
    return tuple(
        (at[1], at[0]) if (at := frame_of(way, source, frame)) else (frame, source) for frame, source in things
    )


def notes(way: Way, by_frame: Mapping[int, str]) -> tuple[dict[int, str], list[int], list[int]]:
    """Return notes on frames of the scene as they lie afterwards; the frames of those that were put to another's; and
    of those that have no place: they stay on their frames."""
    found: dict[int, str] = {}
    together: list[int] = []
    left: list[int] = []
    for frame, text in sorted(by_frame.items()):
        at = frame_of(way, SCENE, frame)
        there = at is not None and at[1] >= 0
        to = at[1] if at and there else frame
        left += [] if there else [frame]
        if to in found:
            together.append(frame)
        found[to] = f"{found[to]}\n{text}" if to in found else text
    return found, together, left


def line(way: Way, own: Line) -> Line:
    """Return a line that was read as it lies afterwards: its words that lie in the scene's own time, where no sound
    is."""
    words = tuple(_word(way, word) for word in own.words)
    return own if words == own.words else replace(own, words=words, start=words[0].start, end=words[-1].end)


def _word(way: Way, word: Word) -> Word:
    at = seconds_of(way, SCENE, word.start, word.end) if word.source_id == SCENE else None
    return word if at is None or abs(at[1] - word.start) < _HAIR else moved_word(word, at[1] - word.start)


def written(way: Way, own: ScriptLine) -> ScriptLine:
    """Return a line of a script, whose time, where it has one, is what lies there afterwards; none where nothing
    does."""
    if own.start is None:
        return own
    at = seconds_of(way, own.source_id, own.start, own.start + _MOMENT if own.end is None else own.end)
    if at is None:
        return replace(own, start=None, end=None, source_id=SCENE)
    return replace(own, source_id=at[0], start=at[1], end=None if own.end is None else at[2])


_MOMENT, _HAIR = 0.1, 1e-6
"""In seconds: what has a start alone lasts so long; times that differ by less are one."""


def marks(way: Way, things: Iterable[Mark]) -> Carried:
    """Return marks of who speaks as they lie afterwards."""
    moved, left = [], []
    for one in things:
        at = seconds_of(way, one.source_id, one.start, one.end)
        if at is None:
            left.append(one)
        moved.append(one if at is None else replace(one, source_id=at[0], start=at[1], end=at[2]))
    return Carried(tuple(moved), tuple(left))
