"""What has no place any more, as the sound it lies on is in the scene no longer: it is shown until somebody puts it
somewhere or drops it."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from django.db import transaction
from msgspec import Struct, structs

from tinfork.core.acting.lanes import Lane
from tinfork.core.errors import TinForkError
from tinfork.core.script.casting import clips_of
from tinfork.core.sound.anchors import SCENE, anchor
from tinfork.web.acting.models import GESTURES, LANE, Acting, kept_lane
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.models import RANGED, Stave

from .carrying import WORDS

_GONE = "This has a place again, or is gone; reload the page."


@dataclass(frozen=True)
class Leftover:
    """Something without a place. area: its document, as the edit log calls it; part: what of that; number: its place
    there; who: the character; what: in words; drawing: what it shows, "" for none; frames: how many; thing: as it is
    kept."""

    area: str
    part: str
    number: int
    who: str
    what: str
    thing: Any

    @property
    def drawing(self) -> str:
        """What it shows, "" for no drawing."""
        return getattr(self.thing, "drawing", "")

    @property
    def frames(self) -> int:
        """For how many frames it holds."""
        return int(self.thing.frames)


def leftovers(scene: Scene) -> list[Leftover]:
    """Return all that lies on sounds that are not in a scene, in the order of its characters."""
    there = {clip.source_id for clip in arrangement_of(scene).value.clips} | {SCENE}
    found = []
    for stave in scene.staves.select_related("character"):
        for part in WORDS:
            values = stave.restored(part, RANGED[part])
            found += [
                Leftover(stave.area, part, n, stave.character.name, WORDS[part], one)
                for n, one in enumerate(values)
                if one.source_id not in there
            ]
    for acting in Acting.objects.filter(scene=scene).select_related("character"):
        acting.scene = scene
        for name, lane in acting.all_lanes().items():
            found += [
                Leftover(acting.area, f"{name}/{kind}", n, acting.character.name, f"{name}: {word}", one)
                for kind, word, things in _of_lane(lane)
                for n, one in enumerate(things)
                if one.source_id not in there
            ]
    return found


def _of_lane(lane: Lane) -> list[tuple[str, str, tuple[Any, ...]]]:
    keys = [(f"keys/{dial}", f"key of {dial}", own) for dial, own in lane.keys.items()]
    return [*keys, ("shows", "drawing", lane.shows), ("gestures", "gesture", lane.gestures)]


@transaction.atomic
def settle(person: Person, scene: Scene, area: str, part: str, number: int, frame: int | None) -> None:
    """Put something that has no place on a frame of the scene, counted from 0, or drop it for good: None."""
    check(person, scene.production, "edit")
    edits.lock_scene(scene)
    found = next((one for one in leftovers(scene) if (one.area, one.part, one.number) == (area, part, number)), None)
    if found is None:
        raise TinForkError(_GONE)
    arrangement = arrangement_of(scene).value
    if frame is not None and not 0 <= frame < arrangement.frames:
        last = scene.start_frame + arrangement.frames - 1
        raise TinForkError(f"Give a frame of the scene, {scene.start_frame} to {last}.")
    document = edits.document_of(scene, area)
    if not isinstance(document, Stave | Acting):
        raise TinForkError(_GONE)
    document.scene = scene
    held: Any = edits.locked(person, document)
    place = None if frame is None else anchor(frame, clips_of(arrangement, held.character_id))

    def settled(things: tuple[Any, ...]) -> tuple[Any, ...]:
        own = () if place is None else (_at(things[number], *place),)
        return (*things[:number], *things[number + 1 :], *own)

    parts = _parts(held, part, settled)
    edits.change(person, held, "drop" if frame is None else "put", parts)


def _at(one: Any, frame: int, source_id: int) -> Any:
    make = structs.replace if isinstance(one, Struct) else replace
    return make(one, frame=frame, source_id=source_id)


def _parts(held: Any, part: str, settled: Callable[[tuple[Any, ...]], tuple[Any, ...]]) -> dict[str, Any]:
    """What to set of a document so that one thing of it is another, or none."""
    if isinstance(held, Stave):
        return {part: settled(held.restored(part, RANGED[part]))}
    name, kind, *dial = part.split("/")
    lane = held.lane(name)
    if dial:
        lane = replace(lane, keys={**lane.keys, dial[0]: settled(lane.keys[dial[0]])})
    else:
        lane = replace(lane, **{kind: settled(getattr(lane, kind))})
    kept = kept_lane(lane)
    return {LANE + name: kept["body"], GESTURES + name: kept["gestures"]}
