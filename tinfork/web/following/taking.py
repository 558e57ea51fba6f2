"""Another version of a sound takes the old one's place in a scene, with all that was set on it, in one step."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.db import transaction
from django.utils import timezone

from tinfork.core.errors import TinForkError
from tinfork.core.following import carrying as core
from tinfork.core.following.following import SAME, Followed
from tinfork.core.following.replacing import NewSound, Replaced, replaced
from tinfork.core.following.ways import OtherSounds, frame_of
from tinfork.core.plain import plain, restore
from tinfork.core.script.casting import clips_of
from tinfork.core.sound.anchors import SCENE
from tinfork.core.speech.reading import Line, Word
from tinfork.core.timebase import frame_count
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check, may, number_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement, Take
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import placed_now
from tinfork.web.staves.planning import carry_over, planned

from .carrying import Along, Set, actings_along, scene_along, stave_along
from .models import Following
from .numbering import as_runs
from .reading import lines_on

VERB = "new version of sound"


@dataclass(frozen=True)
class Plan:
    """How a new version lies in a scene."""

    following: Following
    found: Followed
    replaced: Replaced
    way: OtherSounds


def plan_of(following: Following, ends: bool) -> Plan:
    """Return how a compared version lies in its scene; ends: see replacing. TinForkError where it was not compared yet,
    or something else lies there by now."""
    found, scene = following.value, following.scene
    if found is None:
        raise TinForkError("Both sounds are still being compared; wait a moment.")
    if not lies_there(following):
        raise TinForkError("The old sound is not in this scene any more; there is nothing to take the place of.")
    if [[stave, number, plain(line)] for stave, number, line in lines_on(scene, following.source_id)] != following.of:
        raise TinForkError("The reading was changed since both sounds were compared; compare them again.")
    legs = found.legs(float(scene.fps), 0)
    same = [one.kind == SAME for one in found.placed]
    new = NewSound(following.new_id, frame_count(following.new.seconds, scene.fps))
    made = replaced(arrangement_of(scene).value, following.source_id, new, legs, same, ends)
    own = [replace(leg, source_id=made.source_id) for leg in legs]
    return Plan(following, found, made, OtherSounds(scene.fps, {following.source_id: own, SCENE: made.scene}))


def lies_there(following: Following) -> bool:
    """Return whether the old sound is in the scene still, or again."""
    return any(clip.source_id == following.source_id for clip in arrangement_of(following.scene).value.clips)


@transaction.atomic
def take(person: Person, following: Following, ends: bool) -> Along:
    """Put a compared version into the old one's place, and all that was set along with it. What has no place stays kept
    on the old sound, and is in the answer."""
    check(person, following.scene.production, "edit")
    edits.lock_scene(following.scene)
    along = _put(person, plan_of(following, ends))
    _keep_old(person, following)
    following.taken = timezone.now()
    following.save(update_fields=["taken"])
    return along


def looked(person: Person, following: Following, ends: bool) -> tuple[Plan, Along | None]:
    """Return how a compared version would lie in its scene and what would become of everything, None for whoever may
    not put it there. Nothing is changed."""
    if not may(person, following.scene.production, "edit"):
        return plan_of(following, ends), None
    with transaction.atomic():
        edits.lock_scene(following.scene)
        plan = plan_of(following, ends)
        along = _put(person, plan)
        transaction.set_rollback(True)
    return plan, along


def _put(person: Person, plan: Plan) -> Along:
    """Put a version into the old one's place, and all that was set along with it, in one step."""
    scene = plan.following.scene
    before, along = arrangement_of(scene), Along()
    with edits.one_step():
        tracks = _staves(person, scene, plan, along)
        actings_along(person, scene, plan.way, VERB, along, before.value)
        scene_along(person, scene, plan.way, VERB, along)
        _sounds(person, before, plan, along)
        _tracks(scene, plan, tracks)
    return along


def _staves(person: Person, scene: Scene, plan: Plan, along: Along) -> dict[int, Any]:
    """Take along what lies on staves; the tracks as they were, of those that hear the sound."""
    tracks = {}
    lines = _lines_after(plan)
    for stave in scene.staves.select_related("character"):
        stave.scene = scene
        heard = {clip.source_id for clip in clips_of(stave.arrangement.value, stave.character_id)}
        if plan.following.source_id in heard:
            stave = planned(stave).stave  # noqa: PLW2901
            tracks[stave.pk] = stave.track
        own, lost = lines.get(stave.pk, ({}, []))
        parts: dict[str, Any] = {f"line {number}": body for number, body in own.items()}
        if parts:
            parts["order"] = [number for number in stave.order if own.get(number, 1) is not None]
        if lost:
            parts["lost"] = plain((*stave.lost_words, *lost))
            along.left += [Set("word", stave.character.name, None, word.text) for _, word in lost]
        stave_along(person, stave, plan.way, VERB, along, parts)
    return tracks


Bodies = dict[int, Any]


def _lines_after(plan: Plan) -> dict[int, tuple[Bodies, list[tuple[int, Word]]]]:
    """Of each stave the bodies of its lines by their numbers, None for those that are gone; and the words that were set
    and have no place any more."""
    found: dict[int, tuple[Bodies, list[tuple[int, Word]]]] = {}
    after = {line.id: line for line in plan.found.lines}
    staves = {stave.pk: stave for stave in plan.following.scene.staves.all()}
    for stave in staves.values():
        stave.bodies(stave.order)  # All at once.
    for place, (stave, number, _) in enumerate(plan.following.of):
        (body,) = staves[stave].bodies([number])
        line = restore(body, Line)
        bodies, lost = found.setdefault(stave, ({}, []))
        bodies[number] = _merged(line, after.get(place), plan)
        lost += [(line.id, word) for at, word in plan.found.lost if at == place]
    return found


def _merged(line: Line, now: Line | None, plan: Plan) -> Any:
    """A line with its words on the new sound, among those on others; None where no word is left."""
    old, new = plan.following.source_id, plan.replaced.source_id
    fresh = [replace(word, source_id=new) for word in now.words] if now else []
    others = [(at, word) for at, word in enumerate(line.words) if word.source_id != old]
    words = list(fresh)
    for at, word in others:
        words.insert(min(at, len(words)), word)
    if not words:
        return None
    return plain(replace(line, words=tuple(words), start=words[0].start, end=words[-1].end))


def _sounds(person: Person, before: Arrangement, plan: Plan, along: Along) -> None:
    held = edits.locked(person, before)
    kept = held.kept_marks
    moved = core.marks(plan.way, kept.marks)
    along.add(moved, lambda mark: Set("mark of who speaks", "", None))
    marks = replace(kept, marks=tuple(sorted(moved.things, key=lambda mark: (mark.start, mark.id))))
    edits.change(person, held, VERB, {"body": plan.replaced.arrangement, "marks": marks}, everywhere=True)


def _tracks(scene: Scene, plan: Plan, tracks: dict[int, Any]) -> None:
    """The tracks go along too; only what is new or was said anew is planned."""
    for stave in Stave.objects.filter(pk__in=tracks).select_related("character"):
        stave.scene = scene
        carry_over(stave, tracks[stave.pk], _same(placed_now(stave).clips, plan))
        stave.save(update_fields=Stave.DERIVED)


def _same(clips: Sequence[Any], plan: Plan) -> list[tuple[Any, Any]]:
    """Pairs of clips on which the very same is heard before and afterwards."""
    others = [(clip, clip) for clip in clips if clip.source_id != plan.replaced.source_id]
    return [*plan.replaced.same, *others]


def _keep_old(person: Person, following: Following) -> None:
    """The old sound stays among the takes of whose it was."""
    track = next(
        (
            t
            for t in arrangement_of(following.scene).value.tracks
            if any(clip.sound == following.new_id for clip in t.clips)
        ),
        None,
    )
    if track is None or track.character is None:
        return
    Take.objects.get_or_create(
        scene=following.scene,
        character_id=track.character,
        sound=following.old,
        defaults={"person_id": number_of(person)},
    )


def shot_otherwise(plan: Plan) -> list[range]:
    """Return the frames that the camera has taken and on which something else is heard now, as runs."""
    taken = set(plan.following.scene.exposed.values_list("frame", flat=True))
    back = {at[1]: frame for frame in range(max(taken, default=-1) + 600) if (at := frame_of(plan.way, SCENE, frame))}
    moved = sorted(frame for frame in taken if back.get(frame) != frame)
    return as_runs(moved)
