"""What is seen of a stave's mouths: the planned track and its pins, in the moods that hold there, under the stretches
that have drawings of their own."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from tinfork.core.exposure import ranges, verbs
from tinfork.core.exposure.ranges import Bend
from tinfork.core.exposure.track import Exposure

from .models import Stave
from .mouths import mouths_of
from .placing import Placed
from .planning import planned, track_with_sounds

NO_BEND = Bend()


@dataclass(frozen=True)
class Seen:
    """An exposure as it is seen: drawing is the name of one that can be seen; mood: the one that holds there, None for
    the character's own; bend: how it is stretched; own: whether it is one of a stretch of its own."""

    exposure: Exposure
    mood: str | None = None
    bend: Bend = NO_BEND
    own: bool = False


def lane(placed: Placed, frames: range) -> tuple[Exposure, ...]:
    """Return the exposures of the track that are seen on some frames, with what a person decided of them; without moods
    and stretches. Two drawings of the plan that are shown as one are one exposure."""
    own = _with_choices(placed, _and_beside(placed, frames))
    return tuple(e for e in own if e.frame < frames.stop and e.end > frames.start)


def _and_beside(placed: Placed, frames: range) -> tuple[Exposure, ...]:
    """The exposures of the track on some frames, and so many beside them that none of these is one with others."""
    track, reach = placed.stave.track, 1
    while True:
        near = range(max(0, frames.start - reach), min(placed.frames, frames.stop + reach))
        wide = track.exposures(near)
        seen_once = verbs.alike_as_one(wide, _looks(placed, wide)) if _shows_two_as_one(placed.stave) else wide
        apart_left = near.start == 0 or not seen_once or seen_once[0].end <= frames.start
        apart_right = near.stop == placed.frames or not seen_once or seen_once[-1].frame >= frames.stop
        if seen_once is wide or (apart_left and apart_right):
            return wide
        reach *= 8


def _shows_two_as_one(stave: Stave) -> bool:
    """Whether two drawings that mouths are planned with are shown as one, anywhere."""
    return mouths_of(stave).shows_two_as_one(stave.mood_values)


def _looks(placed: Placed, track: Sequence[Exposure]) -> list[tuple[str, bool]]:
    """What each exposure is shown as: one that was decided as nobody else's."""
    own, moods = mouths_of(placed.stave), placed.moods
    return [(own.seen_as(e, ranges.on(moods, (e.frame + e.end - 1) // 2)), e.pinned) for e in track]


def _with_choices(placed: Placed, track: Sequence[Exposure]) -> tuple[Exposure, ...]:
    """Exposures with whether their drawings were chosen, those that are shown as one as one."""
    chosen = {pin.frame for pin in placed.pins.shown if pin.chosen}
    if _shows_two_as_one(placed.stave):
        track = verbs.alike_as_one(track, _looks(placed, track))
    return tuple(replace(e, chosen=True) if e.pinned and e.frame in chosen else e for e in track)


def seen(placed: Placed, frames: range) -> list[Seen]:
    """Return what is seen on some frames, whole exposures, as far as it is planned."""
    wide = range(max(0, frames.start - 1), min(placed.frames, frames.stop + 1))
    own = _dressed(placed, lane(placed, wide), wide)
    return [one for one in own if one.exposure.frame < frames.stop and one.exposure.end > frames.start]


def seen_throughout(placed: Placed) -> list[Seen]:
    """Return what is seen of a stave that is planned to the end, with the sounds each exposure serves."""
    return _dressed(placed, _with_choices(placed, track_with_sounds(placed)), range(placed.frames))


def track_of(stave: Stave) -> tuple[Exposure, ...]:
    """Return the whole track as it is seen, planned where it is not yet."""
    return tuple(one.exposure for one in seen_throughout(planned(stave))) if stave.cells else ()


def covered(placed: Placed, track: tuple[Exposure, ...]) -> tuple[Exposure, ...]:
    """Return exposures under the stretches that lie on them."""
    for span, stretch in placed.stretches:
        track = verbs.covered(track, stretch.exposures(span.start, len(span)), placed.stave.hold)
    return track


def _dressed(placed: Placed, track: tuple[Exposure, ...], frames: range) -> list[Seen]:
    """Exposures of the track on some frames as they are seen: an exposure is in the mood that holds in its middle."""
    own, moods, stretches = mouths_of(placed.stave), placed.moods, placed.stretches
    found = []
    for e in covered(placed, track):
        middle = (e.frame + e.end - 1) // 2
        stretch, ranged = ranges.on(stretches, middle), ranges.on(moods, middle)
        mood = ranged.mood if ranged else None
        shown = replace(e, drawing=own.seen_as(e, ranged), chosen=False)
        found.append(Seen(shown, mood, stretch.bend if stretch else NO_BEND, stretch is not None))
    return found
