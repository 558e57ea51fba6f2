"""How lanes are changed: as one undoable action on one version, and what is seen in a phrase that is locked stays as
it is."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from django.db import transaction

from tinfork.core.acting.lanes import Lane
from tinfork.core.errors import ActingError
from tinfork.core.mouths.parts import Part
from tinfork.web.edits import actions as edits
from tinfork.web.productions.permissions import Person

from .models import GESTURES, LANE, Acting, kept_lane
from .staging import Stage, stage_of

SEEN_MOVES = 0.02
"""By how much a dial may be elsewhere in a phrase that is locked: nobody sees less."""

Change = Callable[[Stage, Part, Lane], Lane]
Changes = Mapping[str, Change] | Callable[[Stage], Mapping[str, Change]]
"""What is to be done to lanes, by their parts; or what finds that out."""


@transaction.atomic
def on_lanes(
    person: Person,
    acting: Acting,
    version: int | None,
    verb: str,
    changes: Changes,
    *fields: str,
    beside: Callable[[Acting], dict[str, Any]] = lambda held: {},
) -> Acting:
    """Change lanes, each for itself, as one action. fields: what of a lane its change goes by, as Acting.lane has it;
    of "shows" it changes nothing; beside: what of the acting is changed with them. ActingError where that would change
    what is seen in a phrase that is locked."""
    held = edits.locked(person, acting, version)
    stage = stage_of(held)
    decided: dict[str, Any] = {}
    needed = () if stage.locked else fields
    own = changes(stage) if callable(changes) else changes
    held.load(own, *needed)
    for name, do in own.items():
        part, before = stage.part(name), held.lane(name, *needed)
        after = do(stage, part, before)
        _check_locked(stage, before, after)
        known = {field: held.row_field(field, name) for field in fields or ("body", "gestures") if field != "shows"}
        kept = kept_lane(after, before, **known)
        if "body" in known and after != replace(before, gestures=after.gestures):
            decided[LANE + name] = kept["body"]
        if "gestures" in known and after.gestures != before.gestures:
            decided[GESTURES + name] = kept["gestures"]
    return edits.change(person, held, verb, decided | beside(held), is_plain=True)


def _check_locked(stage: Stage, before: Lane, after: Lane) -> None:
    locked = stage.locked
    if not locked:
        return
    old, new = stage.place(before), stage.place(after)
    for frames in locked:
        moved = any(
            abs(old.curve(dial, frames) - new.curve(dial, frames)).max(initial=0.0) > SEEN_MOVES
            for dial in {*old.dials, *new.dials}
        )
        if moved or old.drawings(frames) != new.drawings(frames):
            raise ActingError("This would change a phrase that is locked; unlock it first, or stay out of it.")


def on_lane(person: Person, acting: Acting, version: int, verb: str, part: str, do: Change, *fields: str) -> Acting:
    """Change one lane; see on_lanes."""
    return on_lanes(person, acting, version, verb, {part: do}, *fields)
