"""All that was set on frames of a scene, taken along a way."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from django.db.models import QuerySet
from msgspec import Struct, structs

from tinfork.core.exposure.pins import AnchoredPin
from tinfork.core.following import carrying as core
from tinfork.core.following.ways import Way, frame_of
from tinfork.core.plain import plain, restore
from tinfork.core.script.casting import clips_of
from tinfork.core.sound.anchors import SCENE, firsts_of
from tinfork.core.sound.arrangement import Arrangement, Clip
from tinfork.core.speech.reading import Line
from tinfork.web.acting.models import GESTURES, LANE, Acting, kept_lane
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.script.models import Script
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.staves.models import RANGED, Stave
from tinfork.web.staves.placing import Placed

from .numbering import place_comments

WORDS = {
    "pins": "mouth",
    "moods": "mood",
    "passages": "settings",
    "stretches": "stretch",
    "intents": "“meant so”",
    "eases": "eased seams",
}
"""What a stave keeps that lies on frames, in words."""


class Set(Struct, frozen=True):
    """Something that somebody set, by what a list says of it. what: in words; who: the character, "" for none; frame:
    on which of the scene it was seen, counted from 0, None where it was not; drawing: what it shows, "" for none."""

    what: str
    who: str
    frame: int | None
    drawing: str = ""


class Along(Struct):
    """What went along a way. left: what has no place afterwards; together: what lies on the frame of something else now
    and is not seen; count: how much there was."""

    left: list[Set] = []
    together: list[Set] = []
    count: int = 0

    def add(self, moved: core.Carried, tell: Callable[[Any], Set]) -> None:
        """Count what went along, and tell what did not."""
        self.count += len(moved.things)
        self.left += map(tell, moved.left)
        self.together += map(tell, moved.together)


def staves_along(
    person: Person, scene: Scene, way: Way, verb: str, along: Along, character: int | None = None, anew: bool = False
) -> None:
    """Take along what lies on the staves of a scene, or on one character's. anew: whether all mouths are planned
    anew."""
    for stave in of_whom(scene.staves.select_related("character"), character):
        stave.scene = scene
        stave_along(person, stave, way, verb, along, {"plans": stave.plans + 1} if anew else {})


def actings_along(
    person: Person,
    scene: Scene,
    way: Way,
    verb: str,
    along: Along,
    before: Arrangement,
    character: int | None = None,
) -> None:
    """Take along what everybody in a scene does beside speaking, or one character. before: where sounds lay."""
    for acting in of_whom(scene.actings.select_related("character"), character):
        acting.scene = scene
        acting_along(person, acting, way, verb, along, clips_of(before, acting.character_id))


def of_whom(rows: "QuerySet[Any]", character: int | None) -> "QuerySet[Any]":
    """Return some rows, or those of one character."""
    return rows if character is None else rows.filter(character=character)


def scene_along(person: Person, scene: Scene, way: Way, verb: str, along: Along) -> None:
    """Take along what lies on the scene's own frames: the notes on its sheet, those of its reviews, the times of its
    script's lines."""
    script_along(person, scene, way, verb)
    notes_along(person, scene, way, verb, along)
    place_comments(person, scene, comments_along(scene, way, along), verb)


def stave_along(person: Person, stave: Stave, way: Way, verb: str, along: Along, more: dict[str, Any]) -> None:
    """Take along what lies on a stave's frames. more: what else is set of it in the same edit. Its scene and its
    arrangement are as before."""
    held = edits.locked(person, stave)
    clips = Placed(stave).clips
    parts = dict(more)
    loose = [int(number) for number, spans in held.where.items() if any(span[0] == SCENE for span in spans)]
    for number, body in zip(loose, held.bodies(loose), strict=True):
        parts.setdefault(f"line {number}", core.line(way, restore(body, Line)))
    for name, word in WORDS.items():
        moved = core.CARRY[name](way, held.restored(name, RANGED[name]))
        parts[name] = moved.things
        along.add(moved, _teller(word, stave.character.name, clips))
    edits.change(person, held, verb, parts, everywhere=True)


def acting_along(person: Person, acting: Acting, way: Way, verb: str, along: Along, clips: Sequence[Clip]) -> None:
    """Take along what lies on the frames of somebody's acting."""
    held = edits.locked(person, acting)
    who = acting.character.name
    parts: dict[str, Any] = {
        "phrases": {
            line: structs.replace(own, moments=core.moments(way, own.moments)) for line, own in held.notes.items()
        }
    }
    for name, own in held.all_lanes().items():
        after, left, together = core.lane(way, own)
        kept = kept_lane(after)
        parts |= {LANE + name: kept["body"], GESTURES + name: kept["gestures"]}
        count = [*(key for keys in own.keys.values() for key in keys), *own.shows, *own.gestures]
        along.add(core.Carried(tuple(count), left, together), _teller(f"{name}: acting", who, clips))
    edits.change(person, held, verb, parts, everywhere=True)


def script_along(person: Person, scene: Scene, way: Way, verb: str) -> None:
    """Take along the times that lines of the script have."""
    for script in Script.objects.filter(scene=scene):
        script.scene = scene
        held = edits.locked(person, script)
        lines = tuple(core.written(way, one) for one in held.value.lines)
        edits.change(person, held, verb, {"body": replace(held.value, lines=lines)})


def notes_along(person: Person, scene: Scene, way: Way, verb: str, along: Along) -> None:
    """Take along the notes on the scene's sheet."""
    for own in SheetNotes.objects.filter(scene=scene):
        own.scene = scene
        held = edits.locked(person, own)
        texts = held.by_frame
        moved, together, left = core.notes(way, texts)
        along.count += len(texts)
        along.together += [Set("note on the sheet", "", frame, texts[frame]) for frame in together]
        along.left += [Set("note on the sheet", "", frame, texts[frame]) for frame in left]
        edits.change(person, held, verb, {"notes": plain(moved)}, everywhere=True)


def comments_along(scene: Scene, way: Way, along: Along) -> dict[str, list[int]]:
    """Return where the notes of reviews lie afterwards, [first frame, last], by their numbers."""
    places = {}
    for one in scene.comments.all():
        first, last = (frame_of(way, SCENE, at) for at in (one.frame, one.end))
        to = one.frame if first is None or first[1] < 0 else first[1]
        places[str(one.pk)] = [to, max(to, last[1] if last else to)]
        along.count += 1
        along.left += [Set("note of a review", "", one.frame)] if first is None or first[1] < 0 else []
    return places


def _teller(word: str, who: str, clips: Sequence[Clip]) -> Callable[[Any], Set]:
    def tell(one: Any) -> Set:
        (first,), (heard,) = firsts_of([one], clips)
        drawing = one.drawing if isinstance(one, AnchoredPin) else ""
        return Set(word, who, int(first) if heard or one.source_id == SCENE else None, drawing)

    return tell
