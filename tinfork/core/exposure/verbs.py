"""What a person does to the exposures of a lane: each verb takes the exposures as they are seen and gives them as they
are to be. Whatever a verb touched is decided from then on, to the frame.

Exposures follow one another and cover every frame of a stretch; a verb gives exposures that do, over the same frames.
An exposure is named by a frame it is seen on. Verbs know no chart: a drawing is a name.

>>> track = (Exposure(0, 4, "rest"), Exposure(4, 2, "press"), Exposure(6, 6, "open"))
>>> [pin.frame for pin in decided(track, span(track, 4, 5, 2))]
[0, 5, 7]
"""

from bisect import bisect_right
from collections.abc import Collection, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from ..errors import TrackError
from .track import Exposure, Pin, cut_to
from .windows import merged

Exposures = tuple[Exposure, ...]

LONG, BESIDE = 12, 2
"""In frames: of an exposure longer than the first, no more than the second is decided beside a seam."""


class Border(StrEnum):
    """What happens to the exposures that something is moved onto: they are pushed together, none below the hold; or
    covered; or nothing is done where one would get shorter than the hold."""

    SQUEEZE = "squeeze"
    OVERWRITE = "overwrite"
    REFUSE = "refuse"


@dataclass(frozen=True)
class Piece:
    """A drawing for some frames, at a distance from where a row of them is laid."""

    at: int
    frames: int
    drawing: str
    chosen: bool = True


def decided(before: Sequence[Exposure], after: Sequence[Exposure], whole: bool = False) -> tuple[Pin, ...]:
    """Return what was decided to make one track the other: the exposures that are new in it and pinned. Of one that was
    longer than LONG and not decided, only what has changed and a few frames beside a new edge, unless it is to be the
    whole: a pause on which a seam was moved is no decision for all of the pause."""
    old = {(e.frame, e.frames, e.drawing, e.pinned, e.chosen) for e in before}
    new = (e for e in after if e.pinned and (e.frame, e.frames, e.drawing, e.pinned, e.chosen) not in old)
    found = ((e, a, b) for e in new for a, b in ([(e.frame, e.end)] if whole else _decided_of(e, before)))
    return tuple(Pin(a, b - a, e.drawing, e.chosen) for e, a, b in found)


def _decided_of(own: Exposure, before: Sequence[Exposure]) -> list[tuple[int, int]]:
    first = bisect_right(before, own.frame, key=lambda e: e.end)
    there = before[first : bisect_right(before, own.end - 1, key=lambda e: e.frame)]
    same = [e for e in there if e.drawing == own.drawing]
    if any(e.pinned for e in same) or all(e.frames <= LONG for e in same):
        return [(own.frame, own.end)]
    changed = [(max(e.frame, own.frame), min(e.end, own.end)) for e in there if e.drawing != own.drawing]
    if own.frame not in {e.frame for e in there}:
        changed.append((own.frame, min(own.end, own.frame + BESIDE)))
    if own.end not in {e.end for e in there}:
        changed.append((max(own.frame, own.end - BESIDE), own.end))
    return [(one.start, one.stop) for one in merged(range(a, b) for a, b in changed)] or [(own.frame, own.end)]


def place_on(track: Sequence[Exposure], frame: int) -> int:
    """Return the place of the exposure that is seen on a frame. TrackError where none is."""
    place = bisect_right(track, frame, key=lambda e: e.frame) - 1
    if place < 0 or frame >= track[place].end:
        raise TrackError("No exposure is seen on this frame; look at the frame number and try again.")
    return place


def show(track: Exposures, frames: Iterable[int], drawing: str) -> Exposures:
    """Return the track with another drawing for some exposures."""
    return _with(track, {place: _chosen(track[place], drawing) for place in _places(track, frames)})


def keep(track: Exposures, frames: Iterable[int]) -> Exposures:
    """Return the track with some exposures decided as they are."""
    return _with(track, {place: replace(track[place], pinned=True) for place in _places(track, frames)})


def lay(track: Exposures, at: int, pieces: Iterable[Piece], hold: int = 1) -> Exposures:
    """Return the track with drawings laid from a frame on, over whatever is there, of which what is left stays as
    free as it was, or is free where less than a hold is left of it; what lies outside the track is left away.
    TrackError when all of it does."""
    first, end = track[0].frame, track[-1].end
    spans = [(max(first, at + one.at), min(end, at + one.at + one.frames), one) for one in pieces]
    new = [Exposure(a, b - a, one.drawing, True, (), one.chosen) for a, b, one in spans if b > a]
    if not new:
        raise TrackError("There is no room for this here: it would lie outside the scene.")
    for run in _side_by_side(new):
        track = _laid(track, run, hold)
    return track


def covered(track: Exposures, fresh: Iterable[Exposure], hold: int = 1) -> Exposures:
    """Return the track as it is seen when others, which follow one another, lie on it: cut to what they leave, and
    they. hold: where less is left of one that was not decided, and than it had, what is beside it is held over that."""
    on = cut_to(fresh, range(track[0].frame, track[-1].end)) if track else ()
    if not on:
        return track
    before, after = tuple(e for e in track if e.frame < on[0].frame), tuple(e for e in track if e.end > on[-1].end)
    left = _without_bit(before, on[0].frame, hold)
    right = _turned(_without_bit(_turned(after), -on[-1].end, hold))
    if not left and before:
        on = (replace(on[0], frame=before[0].frame, frames=on[0].end - before[0].frame), *on[1:])
    if not right and after:
        on = (*on[:-1], replace(on[-1], frames=after[-1].end - on[-1].frame))
    return (*left, *on, *right)


def _without_bit(before: Exposures, end: int, hold: int) -> Exposures:
    """Exposures cut to end before a frame, the last of them left away where too little is left of it: the one before is
    held. Nothing where there is none before."""
    if not before:
        return ()
    last = before[-1]
    left = end - last.frame
    if last.pinned or left >= min(hold, last.frames):
        return (*before[:-1], replace(last, frames=left))
    held = before[:-1]
    return (*held[:-1], replace(held[-1], frames=end - held[-1].frame)) if held else ()


def alike_as_one(track: Sequence[Exposure], looks: Sequence[Hashable], decided: bool = False) -> Exposures:
    """Return the exposures, of which neighbours that look alike and were not decided are one. looks: of each;
    decided: whether one of the two may be."""
    found: list[Exposure] = []
    last: Hashable = None
    for e, look in zip(track, looks, strict=True):
        either, both = (e.pinned or found[-1].pinned, e.pinned and found[-1].pinned) if found else (False, False)
        if found and look == last and not (both if decided else either):
            sounds = tuple(sorted({*found[-1].sounds, *e.sounds}))
            found[-1] = replace(found[-1], frames=e.end - found[-1].frame, sounds=sounds, pinned=either)
        else:
            found.append(e)
        last = look
    return tuple(found)


def stretch_of(track: Exposures, first: int, end: int) -> tuple[Piece, ...]:
    """Return all that is seen from one frame to before another, cut to them, as pieces."""
    own = cut_to(track, range(first, end))
    return tuple(Piece(e.frame - first, e.frames, e.drawing, e.chosen) for e in own)


def repeated(pieces: Sequence[Piece], times: int) -> tuple[Piece, ...]:
    """Return the pieces so often one after the other. TrackError for less than once."""
    if times < 1:
        raise TrackError("A range is repeated once at least.")
    long = max((one.at + one.frames for one in pieces), default=0)
    return tuple(replace(one, at=one.at + turn * long) for turn in range(times) for one in pieces)


def split(track: Exposures, frame: int) -> Exposures:
    """Return the track with an exposure cut into two of the same drawing, the second from a frame on. TrackError
    where one begins already."""
    place = place_on(track, frame)
    own = track[place]
    if own.frame == frame:
        raise TrackError("An exposure begins on this frame already; put the playhead inside one to split it.")
    halves = (_span(own, own.frame, frame), _span(own, frame, own.end))
    return (*track[:place], *halves, *track[place + 1 :])


def merge(track: Exposures, frames: Iterable[int]) -> Exposures:
    """Return the track with each run of neighbours among some exposures as one, with the drawing of its first.
    TrackError where no two are neighbours."""
    runs = [run for run in runs_of(track, frames) if len(run) > 1]
    if not runs:
        raise TrackError("Select two exposures or more that stand side by side to make them one.")
    for run in reversed(runs):
        own = _span(track[run.start], track[run.start].frame, track[run.stop - 1].end)
        track = (*track[: run.start], own, *track[run.stop :])
    return track


def remove(track: Exposures, frames: Iterable[int], seams: Mapping[int, int] | None = None) -> Exposures:
    """Return the track with some exposures taken away. The one before is held over their frames; or, where the frame
    each run begins on is in seams, it is held until the frame given there, and the one after begins on that."""
    runs = runs_of(track, frames)
    if sum(map(len, runs)) == len(track):
        raise TrackError("Something must be seen: select fewer exposures, or put the drawing at rest there.")
    for run in reversed(runs):
        begins, end = track[run.start].frame, track[run.stop - 1].end
        track = _closed(track, run, min(end, max(begins, (seams or {}).get(begins, end))))
    return track


def span(track: Exposures, frame: int, first: int, frames: int) -> Exposures:
    """Return the track with an exposure moved to a frame, for so many frames. What it lies on is covered; where it
    was, its neighbours are held. TrackError when it would have no frame inside the track."""
    place = place_on(track, frame)
    first, last = max(first, track[0].frame), min(first + frames, track[-1].end)
    if last <= first:
        raise TrackError("An exposure needs at least one frame inside the scene.")
    own = (_span(track[place], first, last),)
    return _put(track, range(place, place + 1), own)


def seam(track: Exposures, frame: int, to: int) -> Exposures:
    """Return the track with the seam at which an exposure begins moved to another frame: one side gets longer, the
    other shorter, and what it passes over is covered. TrackError where no seam is."""
    place = place_on(track, frame)
    own = track[place]
    if own.frame != frame or place == 0:
        raise TrackError("There is no seam between two exposures on this frame.")
    if to > frame:
        before = track[place - 1]
        return span(track, before.frame, before.frame, to - before.frame)
    return span(track, frame, to, own.end - max(to, track[0].frame))


def hold_on(track: Exposures, frame: int, stops: Collection[str] = ()) -> Exposures:
    """Return the track with an exposure held until the next that is pinned, or that shows one of some drawings.
    TrackError where that is the next one already."""
    place = place_on(track, frame)
    after = track[place + 1 :]
    end = next((e.frame for e in after if e.pinned or e.drawing in stops), track[-1].end)
    if end == track[place].end:
        raise TrackError("What comes next is pinned, or at rest, or the scene ends; drag the edge to hold it longer.")
    return span(track, frame, track[place].frame, end - track[place].frame)


def slide(
    track: Exposures, frames: Iterable[int], by: int, border: Border = Border.SQUEEZE, hold: int = 1
) -> Exposures:
    """Return the track with some exposures so many frames later, or earlier where by is negative; each run of
    neighbours as a block. What it moves away from is held, what it moves onto gives way as said. hold: the least
    frames of what is pushed together. TrackError when it is to be refused, and where a block would leave the track."""
    spans = [(track[run.start].frame, track[run.stop - 1].end) for run in runs_of(track, frames)]
    if not by:
        return track
    for first, end in reversed(spans) if by > 0 else spans:
        # What was moved before may have covered exposures, so that the others have other places.
        track = _slid(track, range(place_on(track, first), place_on(track, end - 1) + 1), by, border, hold)
    return track


def _slid(track: Exposures, run: range, by: int, border: Border, hold: int) -> Exposures:
    own = tuple(_span(e, e.frame + by, e.end + by) for e in track[run.start : run.stop])
    if own[0].frame < track[0].frame or own[-1].end > track[-1].end:
        raise TrackError("This would move out of the scene; move it by fewer frames.")
    before, after = track[: run.start], track[run.stop :]
    if border is Border.OVERWRITE or not (after if by > 0 else before):
        return _put(track, run, own)
    if by > 0:
        return (*_held(before, own, by), *_pushed(after, by, border, hold))
    turned = [_turned(part) for part in (after, own, before)]
    return _turned((*_held(turned[0], turned[1], -by), *_pushed(turned[2], -by, border, hold)))


def _turned(track: Exposures) -> Exposures:
    """A track as it is seen from its end, so that earlier is later."""
    return tuple(replace(e, frame=-e.end) for e in reversed(track))


def _held(before: Exposures, own: Exposures, by: int) -> Exposures:
    """What comes before something that was moved away from it by some frames, held, and that."""
    if before:
        return (*_until(before, own[0].frame), *own)
    return (_span(own[0], own[0].frame - by, own[0].end), *own[1:])


def _put(track: Exposures, run: range, own: Exposures) -> Exposures:
    """A run of neighbours put elsewhere, or made to last otherwise: own, which follow one another. What comes before is
    held until they begin, and what comes after from where they end, or is covered so far; a new seam has two sides, and
    both are decided."""
    before = _until(track[: run.start], own[0].frame)
    after = _turned(_until(_turned(track[run.stop :]), -own[-1].end))
    if not before:
        own = (_span(own[0], track[0].frame, own[0].end), *own[1:])
    if not after:
        own = (*own[:-1], _span(own[-1], own[-1].frame, track[-1].end))
    return (*before, *own, *after)


def _until(track: Exposures, end: int) -> Exposures:
    """A track held, or cut, so that it ends before a frame; what is last then is decided, unless it did so already."""
    kept = [e for e in track if e.frame < end]
    if kept and kept[-1].end != end:
        kept[-1] = replace(kept[-1], frames=end - kept[-1].frame, pinned=True)
    return tuple(kept)


def _pushed(after: Exposures, by: int, border: Border, hold: int) -> Exposures:
    """Exposures so many frames later, of which the first ones are shortened for it, so that the others stay."""
    pushed: list[Exposure] = []
    for e in after:
        gives = max(0, min(by, e.frames - min(hold, e.frames)))
        if border is Border.REFUSE and gives < by:
            raise TrackError("What is next to it would be shown for less than its hold; squeeze or cover it instead.")
        pushed.append(_span(e, e.frame + by, e.end + by - gives))
        by -= gives
        if not by:
            return (*pushed, *after[len(pushed) :])
    raise TrackError("There is no room left to push things together; cover what is there instead.")


def runs_of(track: Exposures, frames: Iterable[int]) -> list[range]:
    """Return the places of the exposures seen on some frames, each run of neighbours as a range."""
    return merged(range(place, place + 1) for place in _places(track, frames))


def _places(track: Exposures, frames: Iterable[int]) -> list[int]:
    """The places of the exposures that are seen on some frames. TrackError where there is none to be changed."""
    places = sorted({place_on(track, frame) for frame in frames})
    if not places:
        raise TrackError("Select an exposure first.")
    return places


def _chosen(own: Exposure, drawing: str) -> Exposure:
    return replace(own, drawing=drawing, pinned=True, chosen=True)


def _span(own: Exposure, first: int, end: int) -> Exposure:
    """An exposure on other frames, decided."""
    if (first, end) == (own.frame, own.end):
        return own
    return replace(own, frame=first, frames=end - first, pinned=True)


def _with(track: Exposures, changed: Mapping[int, Exposure]) -> Exposures:
    return tuple(changed.get(place, e) for place, e in enumerate(track))


def _side_by_side(exposures: Sequence[Exposure]) -> list[list[Exposure]]:
    """Exposures in runs that follow one another without a gap."""
    runs: list[list[Exposure]] = []
    for e in exposures:
        if runs and runs[-1][-1].end == e.frame:
            runs[-1].append(e)
        else:
            runs.append([e])
    return runs


def _closed(track: Exposures, run: range, meet: int) -> Exposures:
    """The track without a run: what comes before is held until a frame, and what comes after begins there; itself where
    there is neither."""
    before, after = track[: run.start], track[run.stop :]
    begins, end = track[run.start].frame, track[run.stop - 1].end
    meet = begins if not before else end if not after else meet
    if before and meet > begins:
        before = (*before[:-1], _span(before[-1], before[-1].frame, meet))
    if after and meet < end:
        after = (_span(after[0], meet, after[0].end), *after[1:])
    return (*before, *after) if before or after else track


def _laid(track: Exposures, fresh: Sequence[Exposure], hold: int = 1) -> Exposures:
    """Exposures that follow one another laid over a track. hold: what is left of a decided one in less frames, and than
    it had, is not decided."""
    first, end = fresh[0].frame, fresh[-1].end
    a, b = place_on(track, first), place_on(track, end - 1)
    left = [_cut(track[a], track[a].frame, first, hold)] if track[a].frame < first else []
    right = [_cut(track[b], end, track[b].end, hold)] if track[b].end > end else []
    return (*track[:a], *left, *fresh, *right, *track[b + 1 :])


def _cut(own: Exposure, first: int, end: int, hold: int) -> Exposure:
    return replace(own, frame=first, frames=end - first, pinned=own.pinned and end - first >= min(hold, own.frames))
