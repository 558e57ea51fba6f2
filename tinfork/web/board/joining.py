"""Two shots made one, with all that was decided in both."""

from dataclasses import replace
from typing import Any

from django.db import transaction
from django.utils import timezone
from msgspec import structs

from tinfork.core.acting.lanes import Lane
from tinfork.core.errors import TinForkError
from tinfork.core.exposure.ranges import AnchoredSettings
from tinfork.core.following import carrying, joined
from tinfork.core.following.joined import Seam
from tinfork.core.following.ways import OtherPlace
from tinfork.core.plain import plain, restore
from tinfork.core.speech.reading import Line
from tinfork.web.acting.models import GESTURES, LANE, Acting, PhraseNotes, acting_of, kept_lane
from tinfork.web.edits import actions as edits
from tinfork.web.edits.models import Edit
from tinfork.web.productions.actions import hold
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.script.actions import script_of
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.shots.models import Shot
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.actions import stave_for
from tinfork.web.staves.models import RANGED, Stave

from .cutting import copied_comments, copied_scene

_VERB = "join"


@transaction.atomic
def join_scenes(person: Person, first: Scene, second: Scene) -> str:
    """Make one shot of two, the second after the first, and put both away. Return what was done, in words. TinForkError
    where they do not fit."""
    production = first.production
    check(person, production, "edit")
    hold(production)
    if first.pk == second.pk or second.production_id != production.pk:
        raise TinForkError("Choose two shots of this production, to be joined in their order.")
    for one in (first, second):
        edits.lock_scene(one)
    if first.fps != second.fps:
        raise TinForkError(
            f"“{first}” has {first.rate} frames a second and “{second}” {second.rate}; set both to one rate under "
            "Changes first."
        )
    made = copied_scene(person, first, first.name)
    _join(person, made, second)
    Edit.objects.filter(scene=made).delete()  # It begins as it is.
    for one in (first, second):
        Shot.objects.update_or_create(scene=one, defaults={"archived": timezone.now()})
    return f"“{made}” is made of “{first}” and “{second}”, which are put away."


def _join(person: Person, made: Scene, second: Scene) -> None:
    """Put what is in a second scene after what is in one."""
    arrangement, after = arrangement_of(made), arrangement_of(second)
    script = script_of(made)
    seam = joined.seam_of(arrangement.value, after.value, (script.value, script_of(second).value), float(made.fps))
    way = OtherPlace(made.fps, seam.frames, seam.sources)
    edits.change(
        person,
        edits.locked(person, arrangement),
        _VERB,
        {
            "body": joined.arrangements(arrangement.value, after.value, seam),
            "marks": joined.marks(arrangement.kept_marks, after.kept_marks, seam),
        },
    )
    lines = joined.scripts(script.value, script_of(second).value, seam)
    edits.change(person, edits.locked(person, script), _VERB, {"body": lines})
    for stave in second.staves.select_related("character"):
        stave.scene = second
        _join_stave(person, made, stave, way, seam, after.value.frames)
    for acting in Acting.objects.filter(scene=second).select_related("character"):
        acting.scene = second
        _join_acting(person, made, acting, way, seam)
    _join_notes(person, made, second, seam)
    copied_comments(second, made, range(after.value.frames), seam.frames)
    for take in second.takes.all():
        made.takes.create(character_id=take.character_id, sound_id=take.sound_id, person_id=take.person_id, at=None)


def _join_stave(person: Person, made: Scene, second: Stave, way: OtherPlace, seam: Seam, frames: int) -> None:
    """Put what was decided of somebody's mouths after what was; settings of their own stay with their frames."""
    held = edits.locked(person, stave_for(person, made, second.character))
    free = max(held.order, default=0)
    numbers = {restore(body, Line).id: n for n, body in zip(held.order, held.bodies(held.order), strict=True)}
    parts: dict[str, Any] = {}
    order = list(held.order)
    for body in second.bodies(second.order):
        own = restore(body, Line)
        number = numbers.get(seam.lines.get(own.id, 0))
        before = restore(held.bodies([number])[0], Line) if number else None
        if number is None:
            number = free = free + 1
            order.append(number)
        parts[f"line {number}"] = joined.line(own, seam, before)
    for name, kind in RANGED.items():
        moved = carrying.CARRY[name](way, second.restored(name, kind)).things
        known = held.restored(name, kind)
        there = set(known)
        parts[name] = (*known, *(one for one in moved if one not in there))
    if second.settings_value != held.settings_value:
        apart = AnchoredSettings(seam.frames, frames, second.settings_value)
        many = len(held.passage_values)
        parts["passages"] = (*parts["passages"][:many], apart, *parts["passages"][many:])
    parts["order"] = order
    parts["about"] = held.about or second.about
    lost = [
        (seam.lines.get(line, 0), replace(word, source_id=seam.sources.get(word.source_id, word.source_id)))
        for line, word in second.lost_words
    ]
    parts["lost"] = plain((*held.lost_words, *lost))
    edits.change(person, held, _VERB, parts)


def _join_acting(person: Person, made: Scene, second: Acting, way: OtherPlace, seam: Seam) -> None:
    held = edits.locked(person, acting_of(made, second.character))
    notes: dict[int, PhraseNotes] = dict(held.notes)
    for line, own in second.notes.items():
        notes[seam.lines.get(line, line)] = structs.replace(own, moments=carrying.moments(way, own.moments))
    parts: dict[str, Any] = {"phrases": {str(line): own for line, own in notes.items()}}
    there = held.all_lanes()
    for name, lane in second.all_lanes().items():
        moved, _, _ = carrying.lane(way, lane)
        alone = Lane(lead=lane.lead, alone=lane.alone)
        kept = kept_lane(joined.lanes(there.get(name, alone), moved, seam))
        parts |= {LANE + name: kept["body"], GESTURES + name: kept["gestures"]}
    edits.change(person, held, _VERB, parts)


def _join_notes(person: Person, made: Scene, second: Scene, seam: Seam) -> None:
    for notes in SheetNotes.objects.filter(scene=second):
        own, _ = SheetNotes.objects.get_or_create(scene=made)
        own.scene = made
        later = {str(frame + seam.frames): text for frame, text in notes.by_frame.items()}
        edits.change(person, edits.locked(person, own), _VERB, {"notes": own.notes | later})
