"""What people do to the exposures of a lane. Each is one undoable action on one version of a stave; frames are the
scene's. What is done to a stretch of its own stays inside of it."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from django.db import transaction

from tinfork.core.errors import TrackError
from tinfork.core.exposure import ranges, verbs
from tinfork.core.exposure.easing import check_ease
from tinfork.core.exposure.pins import set_pins, unset_pins
from tinfork.core.exposure.ranges import AnchoredEase, AnchoredStretch
from tinfork.core.exposure.track import NOTHING, Pin, cut_to
from tinfork.core.exposure.verbs import Border, Exposures, Piece
from tinfork.web.edits import actions as edits
from tinfork.web.productions.permissions import Person
from tinfork.web.reading.by_hand import words_again
from tinfork.web.reading.correcting import words_moved
from tinfork.web.sound import arranging
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import mouths_of
from tinfork.web.staves.placing import Placed, placed_now
from tinfork.web.staves.planning import meeting, plan_in_view
from tinfork.web.staves.seeing import covered, lane, seen

MOST_TIMES = 100

AROUND = 240
"""So many frames on either side of what is changed may be changed with it."""


@dataclass(frozen=True)
class Chosen:
    """Which exposures: those seen on some frames, or all that begin between two, of one drawing or of any. long: where
    it is known, how many frames each of the first was held when it was chosen."""

    at: Sequence[int] = ()
    within: tuple[int, int] | None = None
    drawing: str | None = None
    long: Sequence[int] = ()

    def span(self, of: int) -> range:
        """The frames among which they are, of a scene of so many."""
        if self.within is not None:
            return range(max(0, self.within[0]), min(of, self.within[1]))
        return range(max(0, min(self.at, default=0)), min(of, max(self.at, default=0) + 1))


@dataclass
class Lane:
    """The exposures near what is to be changed, and whose they are: the planned track's, or a stretch's of its own."""

    placed: Placed
    track: Exposures
    stretch: int | None = None

    @property
    def stave(self) -> Stave:
        return self.placed.stave

    def frames_of(self, chosen: Chosen) -> list[int]:
        """A frame of each exposure that is chosen."""
        if chosen.within is None:
            self._check_same(chosen)
            return [frame for frame in chosen.at if not self._covered(frame)]
        first, end = chosen.within
        names = mouths_of(self.stave)
        own = [e for e in self.track if first <= e.frame < end]
        own = [e for e in own if chosen.drawing is None or names.seen_as(e) == chosen.drawing]
        seen = [frame for e in own for frame in (e.frame, e.end - 1) if not self._covered(frame)]
        if not seen:
            raise TrackError("No exposure begins there.")
        return seen

    def _check_same(self, chosen: Chosen) -> None:
        """TrackError where an exposure is another than when it was chosen: what is changed is what was looked at."""
        if chosen.long and len(chosen.long) != len(chosen.at):
            raise TrackError("For some of what you chose it is not said how long it is; choose again.")
        track = self.track if self.stretch is not None else covered(self.placed, self.track)
        for frame, long in zip(chosen.at, chosen.long, strict=False):
            own = track[verbs.place_on(track, frame)]
            if (own.frame, own.frames) != (frame, long):
                raise TrackError(
                    "What you chose is another by now, and was left as it is. Look at it, and choose again."
                )

    @cached_property
    def _stretches(self) -> list[range]:
        """What lies on the exposures, where they are the planned track's."""
        return [span for span, _ in self.placed.stretches] if self.stretch is None else []

    def _covered(self, frame: int) -> bool:
        """Whether a stretch of its own lies on a frame of the planned track."""
        return any(frame in span for span in self._stretches)

    def freed(self, frames: Iterable[int]) -> dict[str, Any]:
        """What to decide so that some exposures follow from the sound again. TrackError in a stretch of its own."""
        if self.stretch is not None:
            raise TrackError("All of a stretch set apart is decided; take it back into the plan to follow the sound.")
        return {"pins": unset_pins(self.stave.pin_values, frames, self.placed.clips, self.placed.frames)}

    def parts(self, after: Exposures, whole: bool = False) -> dict[str, Any]:
        """What to decide so that the exposures are as they are to be."""
        if self.stretch is not None:
            return {"stretches": _with_pieces(self.stave, self.stretch, after)}
        new = verbs.decided(self.track, after, whole)
        pins = set_pins(self.stave.pin_values, new, self.placed.clips, self.placed.frames, self.stave.hold)
        return {"pins": pins}


def _with_pieces(stave: Stave, number: int, after: Exposures) -> list[AnchoredStretch]:
    own = list(stave.stretch_values)
    first = after[0].frame
    pieces = tuple(Piece(e.frame - first, e.frames, e.drawing, e.chosen) for e in after)
    own[number] = replace(own[number], pieces=pieces)
    return own


def _lane_of(placed: Placed, span: range, around: int, mixed: bool) -> Lane:
    """The exposures on some frames and near them. mixed: where some of them are a stretch's and others are not, whether
    the others are meant; else TrackError."""
    near = range(max(0, span.start - around), min(placed.frames, span.stop + around))
    placed = plan_in_view(placed, near)
    touched = [(own, one) for own, one in placed.stretches if own.start < span.stop and own.stop > span.start]
    if not touched:
        return Lane(placed, lane(placed, near))
    own, stretch = touched[-1]
    if own.start <= span.start and span.stop <= own.stop:
        return Lane(placed, stretch.exposures(own.start, len(own)), placed.stave.stretch_values.index(stretch))
    if not mixed:
        raise TrackError("A stretch set apart begins or ends in what you chose; choose inside it, or outside.")
    return Lane(placed, lane(placed, near))


@transaction.atomic
def changed_near(
    person: Person,
    stave: Stave,
    version: int,
    verb: str,
    span: Callable[[int], range],
    do: Callable[[Lane], dict[str, Any]],
    around: int = 0,
    mixed: bool = False,
) -> Stave:
    """Change the exposures near some frames. span: gives them, for a scene of so many; do: what of the stave to decide;
    mixed: see _lane_of."""
    stave = edits.locked(person, stave, version)
    placed = placed_now(stave)
    return edits.change(person, stave, verb, do(_lane_of(placed, span(placed.frames), AROUND + around, mixed)))


def _of_chosen(
    person: Person,
    stave: Stave,
    version: int,
    verb: str,
    chosen: Chosen,
    do: Callable[[Lane], dict[str, Any]],
    around: int = 0,
) -> Stave:
    """Change the exposures that are chosen; of a stretch of its own those, if all are, and else those outside of it."""
    return changed_near(person, stave, version, verb, chosen.span, do, around, mixed=True)


def _from(first: int, end: int) -> Callable[[int], range]:
    """Frames from one to before another, as far as a scene has them; at least one."""

    def span(of: int) -> range:
        begin = min(max(0, first), of - 1)
        return range(begin, max(begin + 1, min(of, end)))

    return span


def show(person: Person, stave: Stave, version: int, chosen: Chosen, drawing: str) -> Stave:
    """Another drawing for the exposures that are chosen; "" for nothing at all."""

    def do(own: Lane) -> dict[str, Any]:
        mouths_of(own.stave).check(drawing)
        return own.parts(verbs.show(own.track, own.frames_of(chosen), drawing))

    return _of_chosen(person, stave, version, "another drawing", chosen, do)


def rest(person: Person, stave: Stave, version: int, chosen: Chosen) -> Stave:
    """The mouth at rest for the exposures that are chosen."""

    def do(own: Lane) -> dict[str, Any]:
        return own.parts(verbs.show(own.track, own.frames_of(chosen), mouths_of(own.stave).rest))

    return _of_chosen(person, stave, version, "at rest", chosen, do)


def keep(person: Person, stave: Stave, version: int, chosen: Chosen) -> Stave:
    """The exposures that are chosen as they are: they are pinned."""
    return _of_chosen(
        person, stave, version, "pin", chosen, lambda own: own.parts(verbs.keep(own.track, own.frames_of(chosen)))
    )


def free(person: Person, stave: Stave, version: int, chosen: Chosen) -> Stave:
    """The exposures that are chosen follow from the sound again."""

    return _of_chosen(person, stave, version, "unpin", chosen, lambda own: own.freed(own.frames_of(chosen)))


def lay(
    person: Person,
    stave: Stave,
    version: int,
    frame: int,
    pieces: Sequence[Piece],
    words: tuple[int, int] | None = None,
) -> dict[str, Any]:
    """Drawings laid from a frame on, over whatever is there; what would lie past the end is left away, and said. words:
    the first frame, and the one after the last, whose words are said again with them."""

    def do(own: Lane) -> dict[str, Any]:
        names = mouths_of(own.stave)
        for name in {one.drawing for one in pieces}:
            names.check(name)
        parts = own.parts(verbs.lay(own.track, frame, pieces, own.stave.hold))
        if words is not None:
            parts |= words_again(person, own.placed, range(*words), (frame - words[0]) / own.placed.fps)
        return parts

    end = max((frame + one.at + one.frames for one in pieces), default=0)
    with edits.one_step():
        frames = placed_now(changed_near(person, stave, version, "put in", _from(frame, end), do)).frames
    left = sum(frame + one.at >= frames for one in pieces)
    return {"notes": [f"{left} of {len(pieces)} did not fit before the end of the scene."]} if left else {}


def repeat(person: Person, stave: Stave, version: int, frame: int, frames: int, times: int) -> Stave:
    """What is seen on some frames laid again behind them, so many times."""

    def do(own: Lane) -> dict[str, Any]:
        ranges.within(frame, frames, own.placed.frames)
        row = verbs.stretch_of(own.track, frame, frame + frames)
        return own.parts(verbs.lay(own.track, frame + frames, verbs.repeated(row, times), own.stave.hold))

    if not 1 <= times <= MOST_TIMES:
        raise TrackError(f"A range is repeated 1 to {MOST_TIMES} times.")
    return changed_near(person, stave, version, "repeat", _from(frame, frame + frames * (times + 1)), do)


def split(person: Person, stave: Stave, version: int, frame: int) -> Stave:
    """Two exposures of one, the second from a frame on."""

    def do(own: Lane) -> dict[str, Any]:
        return own.parts(verbs.split(own.track, frame), whole=True)

    return changed_near(person, stave, version, "split", _from(frame, frame + 1), do)


def merge(person: Person, stave: Stave, version: int, chosen: Chosen) -> Stave:
    """Neighbours as one, with the drawing of the first."""
    return _of_chosen(
        person, stave, version, "make one", chosen, lambda own: own.parts(verbs.merge(own.track, own.frames_of(chosen)))
    )


def remove(person: Person, stave: Stave, version: int, chosen: Chosen, hold: bool) -> Stave:
    """The exposures that are chosen taken away. The one before is held over them; or else what was pinned follows from
    the sound again, and where nothing was, the neighbours close up where the sound says."""

    def do(own: Lane) -> dict[str, Any]:
        frames = own.frames_of(chosen)
        if hold or own.stretch is not None:
            return own.parts(verbs.remove(own.track, frames))
        if all(own.track[verbs.place_on(own.track, frame)].pinned for frame in frames):
            return own.freed(frames)
        if rested := _resting(own, frames):
            return own.parts(verbs.show(own.track, rested, mouths_of(own.stave).rest))
        return own.parts(verbs.remove(own.track, frames, _seams(own, frames)))

    return _of_chosen(person, stave, version, "take away", chosen, do)


def _resting(own: Lane, frames: Iterable[int]) -> list[int]:
    """Of some exposures that are to be taken away those that lie where nobody speaks: the mouth rests there. TrackError
    where all of them do, and it does already."""
    rest = mouths_of(own.stave).rest
    places = sorted({verbs.place_on(own.track, frame) for frame in frames})
    silent = [
        own.track[place] for place in places if own.placed.silent[own.track[place].frame : own.track[place].end].all()
    ]
    open_ = [e.frame for e in silent if e.drawing != rest]
    if len(silent) == len(places) and not open_:
        raise TrackError("Nobody speaks here, so the mouth rests. Hold the one before over it, or lay another drawing.")
    return open_ if len(silent) == len(places) else []


def _seams(own: Lane, frames: Iterable[int]) -> dict[int, int]:
    """Where the neighbours of exposures that are taken away meet, by the sound."""
    found = {}
    for run in verbs.runs_of(own.track, frames):
        if run.start and run.stop < len(own.track):
            before, after = own.track[run.start - 1], own.track[run.stop]
            gone = range(before.end, after.frame)
            found[gone.start] = meeting(own.placed, gone, before, after)
    return found


def span(person: Person, stave: Stave, version: int, frame: int, first: int, frames: int) -> Stave:
    """An exposure from a frame on for so many; its neighbours are held, or covered."""
    reach = _from(min(frame, first), max(frame + 1, first + frames))
    return changed_near(
        person, stave, version, "hold", reach, lambda own: own.parts(verbs.span(own.track, frame, first, frames))
    )


def seam(person: Person, stave: Stave, version: int, frame: int, to: int) -> Stave:
    """The seam on which an exposure begins, moved to another frame."""
    reach = _from(min(frame, to), max(frame, to) + 1)
    return changed_near(
        person, stave, version, "move a seam", reach, lambda own: own.parts(verbs.seam(own.track, frame, to))
    )


def ease(person: Person, stave: Stave, version: int, chosen: Chosen, frames: int, drawn: bool = False) -> Stave:
    """Let the seams on which exposures begin that are chosen be eased over some frames, by drawings between if it is
    asked for; 0 cuts them."""
    check_ease(frames)

    def make(first: int, count: int, source_id: int) -> AnchoredEase:
        return AnchoredEase(first, count, frames, source_id, drawn)

    def do(own: Lane) -> dict[str, Any]:
        found, clips, of = own.stave.ease_values, own.placed.clips, own.placed.frames
        for run in verbs.runs_of(own.track, own.frames_of(chosen)):
            seams = range(own.track[run.start].frame, own.track[run.stop - 1].frame + 1)
            found = ranges.over(found, seams, make if frames else None, clips, of)
        return {"eases": found}

    return _of_chosen(person, stave, version, "ease" if frames else "cut", chosen, do)


def hold_on(person: Person, stave: Stave, version: int, frame: int) -> Stave:
    """An exposure held until the next that is pinned or at rest."""

    def do(own: Lane) -> dict[str, Any]:
        return own.parts(verbs.hold_on(own.track, frame, {mouths_of(own.stave).rest}))

    return changed_near(person, stave, version, "hold to the next", _from(frame, frame + 1), do)


def slide(
    person: Person, stave: Stave, version: int, chosen: Chosen, by: int, border: str, words: bool = False
) -> Stave:
    """Exposures so many frames later or earlier; words: with the words that are said on them."""

    def do(own: Lane) -> dict[str, Any]:
        frames = own.frames_of(chosen)
        after = verbs.slide(own.track, frames, by, _border(border), own.stave.hold)
        parts = own.parts(after)
        if words:
            chosen_spans = [own.track[verbs.place_on(own.track, frame)] for frame in frames]
            parts |= words_moved(own.placed, [range(e.frame, e.end) for e in chosen_spans], by / own.placed.fps)
        return parts

    return _of_chosen(person, stave, version, "slide", chosen, do, abs(by))


@transaction.atomic
def slide_sound(person: Person, stave: Stave, version: int, chosen: Chosen, by: int) -> dict[str, Any]:
    """The sound under exposures so many frames later or earlier, with all that belongs to it: every clip most of which
    lies under them."""
    stave = edits.locked(person, stave, version)
    placed = placed_now(stave)
    own = _lane_of(placed, chosen.span(placed.frames), AROUND, mixed=True)
    seen = [own.track[verbs.place_on(own.track, frame)] for frame in own.frames_of(chosen)]
    if not seen:
        raise TrackError("Nothing is chosen; choose exposures first, then slide the sound under them.")
    under = range(min(e.frame for e in seen), max(e.end for e in seen))
    found = [c.id for c in placed.clips if 2 * _shared(under, range(c.start, c.start + c.frames)) > c.frames]
    if not found:
        raise TrackError("Less than half of any clip lies under what you chose; choose more, or cut it under Sound.")
    arrangement = arrangement_of(stave.scene)
    arranging.slide(person, arrangement, arrangement.version, found, by, ripple=False)
    clips, frames = f"{len(found)} clip{'s' * (len(found) > 1)}", "a frame" if abs(by) == 1 else f"{abs(by)} frames"
    return {"done": f"{clips} slid {frames} {'later' if by > 0 else 'earlier'}.", "others": True}


def _shared(one: range, other: range) -> int:
    return max(0, min(one.stop, other.stop) - max(one.start, other.start))


def _border(border: str) -> Border:
    try:
        return Border(border)
    except ValueError:
        raise TrackError("What is moved onto others squeezes them, covers them, or is refused.") from None


@transaction.atomic
def copy_to(person: Person, stave: Stave, version: int, frame: int, frames: int, to: Sequence[int]) -> dict[str, Any]:
    """What is seen of a character on some frames for others, each with their own drawings, by shape; one step."""
    stave = edits.locked(person, stave, version)
    placed = placed_now(stave)
    own = ranges.within(frame, frames, placed.frames)
    placed = plan_in_view(placed, own)
    names = mouths_of(stave)
    row = cut_to((one.exposure for one in seen(placed, own)), own)
    others = list(stave.scene.staves.filter(character__in=to).exclude(pk=stave.pk).select_related("character"))
    if not others:
        raise TrackError("Choose who else is to speak so; they need a mouth in this scene.")
    with edits.one_step():
        for one in others:
            one.scene = stave.scene
            other = edits.locked(person, one)
            there = mouths_of(other)
            alike = {e.drawing: there.by_shape(names.place_of(e.drawing)) for e in row} | {NOTHING: NOTHING}
            pins = [Pin(e.frame, e.frames, alike[e.drawing]) for e in row]
            theirs = placed_now(other)
            kept = set_pins(other.pin_values, pins, theirs.clips, theirs.frames, other.hold)
            edits.change(person, other, "copy mouths", {"pins": kept})
    return {"notes": [f"Copied to {', '.join(str(other.character) for other in others)}."]}
