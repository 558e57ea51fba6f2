"""A cut comes in over shots that are there: their order, ins, outs and lengths become those of the cut, in one step."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from tinfork.core.errors import TinForkError
from tinfork.core.formats.cut_in import CutShot, FilmCut
from tinfork.core.naming import some_of
from tinfork.core.timebase import format_rate, nearest_frame
from tinfork.web.edits import actions as edits
from tinfork.web.following.windowing import set_window
from tinfork.web.productions.actions import create_scene, free_scene_name, hold
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.shots import changing
from tinfork.web.shots.changing import in_film_order
from tinfork.web.shots.models import Shot
from tinfork.web.sound.arranging import arrangement_of, set_length

from .many import MADE, PLACE, STEP
from .reelcut import read_cut

GONE, NEW, SAME = "gone", "new", "the same"


@dataclass(frozen=True)
class Recut:
    """What a cut makes of a shot. name; scene: its number, 0 for one that is new; what: in words; first: the frame it
    begins with, counted from 0; frames: how many it has then, 0 where it is gone; before: how many it has now; place,
    was: where it comes in the film, from 0, -1 for nowhere."""

    name: str
    scene: int
    what: str
    first: int
    frames: int
    before: int
    place: int
    was: int


def compared(production: Production, cut: FilmCut, sequence: int | None) -> list[Recut]:
    """Return what a cut makes of the shots of a production, or of one of its sequences: in the order of the cut, those
    that are gone last. TinForkError where none of its shots is here."""
    own = production.scenes.filter(shot__archived=None)
    scenes = list(in_film_order(own.filter(shot__sequence=sequence) if sequence else own))
    numbers = {n: pk for pk, n in Shot.objects.filter(scene__in=scenes).values_list("scene", "number") if n}
    by_name = {one.name.casefold(): one for one in scenes}
    by_number = {number: one for one in scenes for number, pk in numbers.items() if pk == one.pk}
    found, seen = [], set()
    for place, shot in enumerate(cut.shots):
        scene = by_name.get(shot.name.casefold()) or by_number.get(shot.name)
        if scene is not None and scene.pk in seen:
            raise TinForkError(f"“{scene}” is in this cut twice; cut it in two on the board first.")
        seen |= {scene.pk} if scene else set()
        found.append(_of_shot(cut, shot, scene, place, scenes))
    if not seen:
        names = some_of([f"“{one.name}”" for one in cut.shots], 4)
        raise TinForkError(f"No shot of this cut is here by its name or number: {names}. Nothing was changed.")
    for was, scene in enumerate(scenes):
        if scene.pk not in seen:
            frames = arrangement_of(scene).value.frames
            found.append(Recut(scene.name, scene.pk, GONE, 0, 0, frames, -1, was))
    return found


def _of_shot(cut: FilmCut, shot: CutShot, scene: Scene | None, place: int, scenes: Sequence[Scene]) -> Recut:
    if scene is None:
        return Recut(shot.name, 0, NEW, 0, shot.frames, 0, place, -1)
    ratio = scene.fps / cut.rate
    first = shot.first
    if not shot.from_start and scene.start_frame > 1 and first >= scene.start_frame:
        first -= scene.start_frame
    first, frames = nearest_frame(first * ratio), max(1, nearest_frame(shot.frames * ratio))
    before, was = arrangement_of(scene).value.frames, scenes.index(scene)
    own = [one.pk for one in scenes]
    what = [_by("in", -first)] if first else []
    after = first + frames - before
    what += [_by("out", after)] if after else []
    moved = own.index(scene.pk) != place
    told = ", ".join(what) or SAME
    return Recut(scene.name, scene.pk, f"{told}{', another place' if moved else ''}", first, frames, before, place, was)


def _by(edge: str, frames: int) -> str:
    many = "1 frame" if abs(frames) == 1 else f"{abs(frames)} frames"
    return f"{edge} {'grew' if frames > 0 else 'shrank'} by {many}"


def read_of(upload: "UploadedFile[Any] | None") -> FilmCut:
    """Return the cut in a file that was sent. SoundError where it is none."""
    if upload is None:
        raise TinForkError("Choose the cut as an OpenTimelineIO file.")
    return read_cut(upload)


@transaction.atomic
def apply(person: Person, production: Production, cut: FilmCut, sequence: int | None) -> str:
    """Make the shots as a cut has them, in one step of the board. Return what was done, in words."""
    check(person, production, "edit")
    hold(production)
    rows = compared(production, cut, sequence)
    changes: list[tuple[int, str, Any, Any]] = []
    places = sorted(production.scenes.filter(pk__in=[row.scene for row in rows]).values_list("place", flat=True))
    follows = max(production.scenes.values_list("place", flat=True), default=0)
    places += range(follows + 1, follows + 1 + len(rows))
    for row, place in zip(rows, places, strict=False):
        changes += _apply_to(person, production, cut, row, sequence, place)
    if not changes:
        return "All shots are as the cut has them already."
    changing.keep_step(person, production, f"take a cut of {len(cut.shots)} shots", changes)
    gone = sum(row.what == GONE for row in rows)
    new = sum(row.what == NEW for row in rows)
    return f"{len(cut.shots)} shots are as the cut has them: {new} new, {gone} put away."


def _apply_to(
    person: Person, production: Production, cut: FilmCut, row: Recut, sequence: int | None, place: int
) -> list[tuple[int, str, Any, Any]]:
    """Make one shot as the cut has it; what was changed, as a step of the board keeps it."""
    if row.what == NEW:
        made = create_scene(person, production, free_scene_name(production, row.name), format_rate(cut.rate), "1")
        set_length(person, arrangement_of(made), None, row.frames)
        Shot.objects.create(scene=made, sequence_id=sequence)
        Scene.objects.filter(pk=made.pk).update(place=place)
        return [(made.pk, MADE, None, made.pk)]
    scene = production.scenes.select_related("production").get(pk=row.scene)
    changes: list[tuple[int, str, Any, Any]] = []
    if scene.place != place:
        changes.append((scene.pk, PLACE, scene.place, place))
        Scene.objects.filter(pk=scene.pk).update(place=place)
    if row.what == GONE:
        now = timezone.now()
        Shot.objects.update_or_create(scene=scene, defaults={"archived": now})
        return [*changes, (scene.pk, "archived", None, now.isoformat())]
    edits.lock_scene(scene)
    step = set_window(person, scene, row.first, row.frames)
    return [*changes, (scene.pk, STEP, None, step)] if step else changes
