"""Exposures of another program brought into a stave: first looked at, with its names matched to drawings, then laid."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction

from tinfork.core.errors import TrackError
from tinfork.core.exposure import verbs
from tinfork.core.exposure.track import NOTHING
from tinfork.core.exposure.verbs import Piece
from tinfork.core.formats import timing_in
from tinfork.core.formats.timing_in import Row
from tinfork.web.edits import actions as edits
from tinfork.web.productions.permissions import Person
from tinfork.web.staves.models import NameMatch, Stave
from tinfork.web.staves.mouths import mouths_of

from .exposing import changed_near


def looked_at(stave: Stave, text: str, base: int | None = None) -> dict[str, Any]:
    """What a file of exposures holds, at the scene's rate: its rows, for each name how often it comes and the drawing
    it is likely to stand for, and what was done to its rate; the number its frames are counted from, base where it is
    given, which others it might be, and the scene's frame on which the first would lie."""
    found, start = timing_in.parse(text), stave.scene.start_frame
    base = timing_in.counted_from(found, start) if base is None else base
    found = timing_in.counted_from_0(found, base)
    rows, told = timing_in.at_rate(found, stave.scene.fps)
    known = dict(NameMatch.objects.filter(character=stave.character).values_list("name", "drawing"))
    own = mouths_of(stave)
    guessed = timing_in.matched(found.names, own.chart_to_choose, known)
    count = {name: sum(row[2] == name for row in rows) for name in found.names}
    names = [{"name": name, "times": count[name], "drawing": guessed[name]} for name in found.names]
    bases = {"base": base, "bases": sorted({0, 1, start}), "first": rows[0][0] + start if rows else None}
    return {"rows": rows, "names": names, "told": told, **bases}


@transaction.atomic
def lay_timing(
    person: Person, stave: Stave, version: int, rows: Sequence[Row], names: Mapping[str, str]
) -> dict[str, Any]:
    """Lay exposures of another program over what is there, each name as the drawing it was matched to, and remember
    what was matched. What would lie past the end of the scene is left away, and said."""
    rows = timing_in.checked(rows)
    own = mouths_of(stave)
    used = {row[2] for row in rows} - {NOTHING}
    for name in used:
        if not names.get(name):
            raise TrackError(f"Choose the drawing that “{name[:60]}” stands for.")
        own.check(names[name])
    first = min(row[0] for row in rows)
    pieces = [Piece(at - first, frames, names.get(name, NOTHING)) for at, frames, name in rows]
    frames = stave.arrangement.value.frames
    inside = [piece for piece in pieces if first + piece.at < frames]
    if not inside:
        raise TrackError("All of it lies past the end of the scene; make the scene longer under Sound.")
    end = min(frames, max(first + piece.at + piece.frames for piece in inside))
    with edits.one_step():
        changed_near(
            person,
            stave,
            version,
            "bring timing in",
            lambda of: range(first, end),
            lambda lane: lane.parts(verbs.lay(lane.track, first, inside)),
        )
    _remember(stave, {name: names[name] for name in used})
    left = len(pieces) - len(inside)
    return {"notes": [f"{left} of {len(pieces)} did not fit before the end of the scene."]} if left else {}


def _remember(stave: Stave, names: Mapping[str, str]) -> None:
    kept = [NameMatch(character=stave.character, name=name, drawing=drawing) for name, drawing in names.items()]
    NameMatch.objects.bulk_create(
        kept, update_conflicts=True, unique_fields=["character", "name"], update_fields=["drawing"]
    )
