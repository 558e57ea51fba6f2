"""Takes: a mouth track kept under a name, compared with what is there now, and brought back whole or in part."""

import hashlib
import json
from typing import Any

from django.db import IntegrityError, transaction
from django.urls import reverse

from tinfork.core.errors import TrackError
from tinfork.core.exposure import ranges, verbs
from tinfork.core.exposure.track import NOTHING, Exposure, Track, differing
from tinfork.core.following.carrying import CARRY
from tinfork.core.following.clocked import exposures_at
from tinfork.core.following.ways import OtherRate
from tinfork.core.plain import restore
from tinfork.core.timebase import parse_rate
from tinfork.web.edits import actions as edits
from tinfork.web.productions.permissions import Person, check
from tinfork.web.staves.models import RANGED, Stave, TrackTake
from tinfork.web.staves.mouths import Mouths, mouths_of
from tinfork.web.staves.placing import Placed, placed_now
from tinfork.web.staves.planning import planned, planned_anew
from tinfork.web.staves.seeing import seen, seen_throughout

from .exposing import changed_near

MOST_TAKES = 60
MOST_NAME = 120


def keep_take(person: Person, stave: Stave, name: str) -> TrackTake:
    """Keep a stave's mouth track as it is seen now. TrackError when the name is none, or taken."""
    check(person, stave.scene.production, "edit")
    name = name.strip()
    if not name or len(name) > MOST_NAME:
        raise TrackError(f"Give the take a name of 1 to {MOST_NAME} letters.")
    if stave.takes.count() >= MOST_TAKES:
        raise TrackError(f"There are {MOST_TAKES} takes already; delete one first.")
    placed = planned(stave)  # As it is at one moment, whatever somebody does meanwhile.
    track = Track.of([one.exposure for one in seen_throughout(placed)])
    decisions = {field: getattr(placed.stave, field) for field in TrackTake.DECISIONS}
    try:
        with transaction.atomic():
            return stave.takes.create(
                name=name,
                person_id=person.pk,
                decisions=decisions,
                cells=track.packed(),
                drawings=list(track.drawings),
                derived=placed.stave.derived,
                rate=stave.scene.rate,
                followed=_followed(placed),
            )
    except IntegrityError:
        raise TrackError(f"There is a take “{name}” already; choose another name.") from None


def drop_take(person: Person, take: TrackTake) -> None:
    """Let go of a take."""
    check(person, take.stave.scene.production, "edit")
    take.delete()


@transaction.atomic
def restore_take(person: Person, stave: Stave, version: int, take: int) -> Stave:
    """What was decided when a take was kept is decided again. The reading stays as it is now: where it has not changed
    since, nor the sounds, the track is as it was; else it follows from both."""
    stave = edits.locked(person, stave, version)
    kept = _take(stave, take)
    if kept.derived and kept.rate == stave.scene.rate and kept.followed == _followed(placed_now(stave)):
        stave.to_bring_back[stave.area] = bytes(kept.derived)
    return edits.change(person, stave, f"bring back {kept.name}"[:40], at_rate_now(kept))


def _followed(placed: Placed) -> str:
    """A sum of what a track follows from beside what is decided of it: lines, and where they are heard."""
    stave = placed.stave
    lines = [*zip(stave.order, stave.bodies(stave.order), strict=True)]
    clips = [(clip.source_id, clip.start, clip.offset, clip.frames) for clip in placed.clips]
    heard = json.dumps([lines, clips, placed.frames, placed.allowed], sort_keys=True)
    return hashlib.sha256(heard.encode()).hexdigest()


def restore_range(person: Person, stave: Stave, version: int, take: int, frame: int, frames: int) -> Stave:
    """What a take showed on some frames, to the frame, whatever was read since; in the mood that holds there now."""
    kept = _take(stave, take)
    own = ranges.within(frame, frames, placed_now(stave).frames)
    names, moods = mouths_of(stave), placed_now(stave).moods

    def shown(e: Exposure) -> str:
        """In the mood that holds there, as all else."""
        ranged = ranges.on(moods, (e.frame + e.end - 1) // 2)
        name = _known(names, e.drawing)
        return name if ranged is None or name == NOTHING else names.chosen_as(name, ranged)

    row = [verbs.Piece(e.frame - own.start, e.frames, shown(e)) for e in track_now(kept).between(own)]
    if not row:
        raise TrackError("The take ends before these frames.")
    return changed_near(
        person,
        stave,
        version,
        f"part of {kept.name}"[:40],
        lambda of: own,
        lambda lane: lane.parts(verbs.lay(lane.track, own.start, row, stave.hold)),
    )


def _known(names: Mouths, drawing: str) -> str:
    return drawing if drawing == NOTHING else names.pin_seen_as(drawing)


def at_rate_now(take: TrackTake) -> dict[str, Any]:
    """Return what was decided when a take was kept, on the frames that the scene has at its rate now."""
    way = OtherRate(parse_rate(take.rate), take.stave.scene.fps)
    if way.before == way.after:
        return dict(take.decisions)
    own = {name: CARRY[name](way, restore(take.decisions[name], kind)).things for name, kind in RANGED.items()}
    return {**take.decisions, **own}


def track_now(take: TrackTake) -> Track:
    """Return what was seen when a take was kept, on the frames that the scene has at its rate now."""
    ratio = take.stave.scene.fps / parse_rate(take.rate)
    if ratio == 1:
        return take.track
    return Track.of(exposures_at(take.track.exposures(), ratio))


def _take(stave: Stave, number: int) -> TrackTake:
    found: TrackTake | None = stave.takes.filter(pk=number).first()
    if found is None:
        raise TrackError("This take is not there any more; reload the list.")
    return found


def take_document(take: TrackTake, names: Mouths) -> dict[str, Any]:
    """A take as the desk shows it: its exposures, with drawings that can be seen now."""
    rows = [[e.frame, e.frames, _known(names, e.drawing)] for e in track_now(take).exposures()]
    return head_document(take) | {"exposures": rows}


def anew_document(stave: Stave) -> dict[str, Any]:
    """What the track would be if all of it were planned anew, as a take is shown, and on how many of its frames that
    shows something else."""
    placed = planned(stave)
    everything = range(placed.frames)
    before = [one.exposure for one in seen(placed, everything)]
    placed.stave.track = Track.of(planned_anew(placed))
    after = [one.exposure for one in seen(placed, everything)]
    frames = sum(len(span) for span in differing(Track.of(before), Track.of(after)))
    return {"exposures": [[e.frame, e.frames, e.drawing] for e in after], "frames": frames, "of": placed.frames}


def head_document(take: TrackTake) -> dict[str, Any]:
    """A take in a list."""
    return {
        "id": take.pk,
        "url": reverse("take", args=[take.pk]),
        "deleteUrl": reverse("take-delete", args=[take.pk]),
        "name": take.name,
        "who": str(take.person or ""),
        "when": take.made.isoformat(timespec="minutes"),
    }
