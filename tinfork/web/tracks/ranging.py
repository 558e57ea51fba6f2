"""What people decide for a range of frames of a stave: its mood, settings of its own, or a stretch with drawings of its
own. Each is one undoable action on one version; frames are the scene's."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from django.db import transaction

from tinfork.core.errors import TrackError
from tinfork.core.exposure import ranges, verbs
from tinfork.core.exposure.checks import Kind
from tinfork.core.exposure.ranges import AnchoredIntent, AnchoredMood, AnchoredSettings, AnchoredStretch, Bend
from tinfork.core.exposure.track import Settings
from tinfork.core.exposure.verbs import Piece
from tinfork.core.sound.anchors import SCENE
from tinfork.web.edits import actions as edits
from tinfork.web.productions.permissions import Person
from tinfork.web.staves.dressing import in_mood
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import charts_to_lend, mouths_of, mouths_with
from tinfork.web.staves.placing import Placed, placed_now
from tinfork.web.staves.planning import plan_in_view
from tinfork.web.staves.seeing import covered, lane


@transaction.atomic
def _change(
    person: Person,
    stave: Stave,
    version: int | None,
    verb: str,
    frame: int,
    frames: int,
    do: Callable[[Placed, range], dict[str, Any]],
) -> Stave:
    stave = edits.locked(person, stave, version)
    placed = placed_now(stave)
    return edits.change(person, stave, verb, do(placed, ranges.within(frame, frames, placed.frames)))


def set_mood(
    person: Person, stave: Stave, version: int | None, frame: int, frames: int, mood: str, chart: int = 0
) -> Stave:
    """Another mood on some frames, "" for the character's own, or the drawings of another chart, by its number; no
    timing changes. What was chosen by hand there is shown in it too."""
    lent = charts_to_lend(stave.character).filter(pk=chart).first() if chart else None
    if chart and lent is None:
        raise TrackError("This chart cannot be shown here: it was deleted, is another production's, or has no drawing.")

    def do(placed: Placed, own: range) -> dict[str, Any]:
        if mood and mood not in mouths_of(placed.stave).moods:
            raise TrackError(f"The chart has no mood “{mood}”.")

        def make(first: int, count: int, source_id: int) -> AnchoredMood:
            return AnchoredMood(first, count, mood, source_id, chart)

        ranged = make if mood or lent else None
        found = ranges.over(placed.stave.mood_values, own, ranged, placed.clips, placed.frames)
        names = mouths_with(placed.stave, (*placed.stave.mood_values, *found))
        return {"moods": found, **in_mood(placed, own.__contains__, names, ranged and ranged(0, 1, SCENE))}

    told = f"drawings of {lent}" if lent else f"mood {mood}".strip()
    return _change(person, stave, version, told[:40], frame, frames, do)


def set_passage(
    person: Person, stave: Stave, version: int, frame: int, frames: int, settings: Settings | None
) -> Stave:
    """Settings of their own on some frames, or with None those of the stave again."""

    def do(placed: Placed, own: range) -> dict[str, Any]:
        def make(first: int, count: int, source_id: int) -> AnchoredSettings:
            assert settings is not None
            return AnchoredSettings(first, count, settings, source_id)

        known = placed.stave.passage_values
        return {"passages": ranges.over(known, own, make if settings else None, placed.clips, placed.frames)}

    return _change(person, stave, version, "settings of a range", frame, frames, do)


def no_passage(person: Person, stave: Stave, version: int, frame: int, frames: int) -> Stave:
    """The settings of the stave again on some frames."""
    return set_passage(person, stave, version, frame, frames, None)


def make_stretch(
    person: Person, stave: Stave, version: int, frame: int, frames: int, drawing: str | None = None
) -> Stave:
    """A stretch of its own on some frames, which begins with what is seen there, or with one drawing throughout; what
    is planned runs on underneath."""

    def do(placed: Placed, own: range) -> dict[str, Any]:
        placed = plan_in_view(placed, own)
        if drawing is None:
            pieces = verbs.stretch_of(covered(placed, lane(placed, own)), own.start, own.stop)
        else:
            mouths_of(placed.stave).check(drawing)
            pieces = (Piece(0, len(own), drawing),)

        def make(first: int, count: int, source_id: int) -> AnchoredStretch:
            return AnchoredStretch(first, count, pieces, Bend(), source_id)

        return {"stretches": ranges.over(placed.stave.stretch_values, own, make, placed.clips, placed.frames)}

    return _change(person, stave, version, "a stretch set apart", frame, frames, do)


def bend_stretch(
    person: Person, stave: Stave, version: int, frame: int, wide: float, tall: float, lean: float
) -> Stave:
    """Stretch and bend all drawings of the stretch that is seen on a frame."""

    def do(placed: Placed, own: range) -> dict[str, Any]:
        number = _stretch_on(placed, frame)
        found = list(placed.stave.stretch_values)
        found[number] = replace(found[number], bend=Bend(wide, tall, lean))
        return {"stretches": found}

    return _change(person, stave, version, "bend a stretch", frame, 1, do)


def drop_stretch(person: Person, stave: Stave, version: int, frame: int) -> Stave:
    """The stretch of its own that is seen on a frame taken away; what was planned underneath is seen again."""

    def do(placed: Placed, own: range) -> dict[str, Any]:
        number = _stretch_on(placed, frame)
        found = placed.stave.stretch_values
        return {"stretches": (*found[:number], *found[number + 1 :])}

    return _change(person, stave, version, "stretch taken away", frame, 1, do)


def mean_it(person: Person, stave: Stave, version: int, frame: int, frames: int, kind: str, meant: bool) -> Stave:
    """What looks wrong on some frames is meant so, and is no longer told; or it is to be looked at again."""

    def do(placed: Placed, own: range) -> dict[str, Any]:
        if kind not in set(Kind):
            raise TrackError("Nothing is looked for under this name; reload the page.")
        others = tuple(one for one in placed.stave.intent_values if one.kind != kind)
        same = tuple(one for one in placed.stave.intent_values if one.kind == kind)

        def make(first: int, count: int, source_id: int) -> AnchoredIntent:
            return AnchoredIntent(first, count, kind, source_id)

        found = ranges.over(same, own, make if meant else None, placed.clips, placed.frames)
        return {"intents": (*others, *found)}

    return _change(person, stave, version, "meant so" if meant else "look at it again", frame, frames, do)


def _stretch_on(placed: Placed, frame: int) -> int:
    """The number of the stretch that is seen on a frame. TrackError where none is."""
    found = ranges.on(placed.stretches, frame)
    if found is None:
        raise TrackError("There is no stretch set apart on this frame.")
    return placed.stave.stretch_values.index(found)
