"""What was done in a scene, step by step, and going back: to any point, or of one step alone."""

from collections.abc import Collection
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from tinfork.core.errors import TinForkError
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check

from .actions import change, document_of, going, lock_scene, locked, one_step, replayed
from .models import Document, Edit

MOST_SHOWN = 80
NUMBERING = "timing"
"""The document whose rate says which frames all others mean."""
_TELLING = ("pk", "scene", "version")


def versions(scene: Scene) -> dict[str, int]:
    """Return the version of each document of a scene, by what the edit log calls it."""
    return versions_in([scene.pk])[scene.pk]


def versions_in(scenes: Collection[int]) -> dict[int, dict[str, int]]:
    """Return the same of many scenes, by their numbers."""
    numbers = list(scenes)
    found: dict[int, dict[str, int]] = {number: {} for number in numbers}
    for kind in Document.__subclasses__():
        for one in kind.of_scenes(numbers).only(*_TELLING):
            found[one.scene_id][one.area] = one.version
    return found


def steps(scene: Scene) -> list[dict[str, Any]]:
    """Return the last steps, the newest first: step, who, when, verb, the documents it touched, and whether it is
    undone."""
    own = (
        Edit.objects.filter(scene=scene, superseded=False)
        .order_by("-step", "-pk")
        .select_related("person")
        .defer("changes", "derived")
    )
    found: dict[int, dict[str, Any]] = {}
    for edit in own[: MOST_SHOWN * 4]:
        row = found.setdefault(
            edit.step,
            {
                "step": edit.step,
                "who": str(edit.person or edit.by or "somebody who left"),
                "person": edit.person_id,
                "when": edit.made.isoformat(timespec="seconds"),
                "verb": edit.verb,
                "areas": [],
                "undone": edit.undone,
            },
        )
        if edit.area not in row["areas"]:
            row["areas"].append(edit.area)
    return list(found.values())[:MOST_SHOWN]


@transaction.atomic
def back_to(person: Person, scene: Scene, step: int) -> None:
    """Undo, or do again, one step after the other until a step is the last that is done; 0 for none at all.
    TinForkError when there is no such step."""
    check(person, scene.production, "edit")
    lock_scene(scene)
    if step and not Edit.objects.filter(scene=scene, step=step, superseded=False).exists():
        raise TinForkError("This step is no longer in the history; reload it.")
    while (last := Edit.objects.of_scene(scene, undone=False).last()) and last.step > step:
        going(person, scene, last, back=True)
    while (first := Edit.objects.of_scene(scene, undone=True).first()) and first.step <= step:
        going(person, scene, first, back=False)


@transaction.atomic
def take_back(person: Person, scene: Scene, step: int) -> None:
    """Take back one step and leave everything later as it is; itself a step. TinForkError where what was done later
    stands on it."""
    check(person, scene.production, "edit")
    lock_scene(scene)
    own = list(_done(scene).filter(step=step))
    if not own:
        raise TinForkError("This step is not done, or no longer in the history; reload it.")
    _take_back(person, scene, own, f"take back: {own[-1].verb}")


@transaction.atomic
def take_back_all_of(person: Person, scene: Scene, author: int) -> None:
    """Take back every step of one person, by their number, and leave what others did; itself a step. TinForkError where
    what others did later stands on one of them: then nothing is taken back."""
    check(person, scene.production, "edit")
    lock_scene(scene)
    own = list(_done(scene).filter(person=author).select_related("person"))
    if not own:
        raise TinForkError("Nothing of theirs is done here, or it is no longer in the history; reload it.")
    _take_back(person, scene, own, f"take back all by {own[0].person}")


def _done(scene: Scene) -> QuerySet[Edit]:
    """What is done in a scene, the newest first."""
    return Edit.objects.filter(scene=scene, superseded=False, undone=False).order_by("-step", "-pk")


def _take_back(person: Person, scene: Scene, own: list[Edit], verb: str) -> None:
    """Take back edits, the newest of which comes first, as one step."""
    later = Edit.objects.filter(scene=scene, superseded=False, undone=False, step__gt=own[-1].step)
    if later.filter(area=NUMBERING, changes__has_key="rate").exists():
        raise TinForkError(
            f"“{own[-1].verb}” was done at another frame rate and cannot be taken back alone; undo what came after."
        )
    with one_step():
        for area in dict.fromkeys(part.area for part in own):
            document = document_of(scene, area)
            if document is not None:
                held = locked(person, document)
                changed: dict[str, Any] = {}
                for part in own:
                    if part.area == area:
                        unknown = [name for name in part.changes if name not in changed]
                        changed |= _without(held.decided(unknown) | changed, part)
                change(person, held, verb[:40], changed)


def _without(now: dict[str, Any], part: Edit) -> dict[str, Any]:
    try:
        return replayed(now, part, back=True, anywhere=True)
    except TinForkError:
        by = f" by {part.person}" if part.person else ""
        raise TinForkError(
            f"“{part.verb}”{by} cannot be taken back alone: what was done later stands on it. "
            "Go back to it, or undo what came after."
        ) from None
