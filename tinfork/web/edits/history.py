"""What was done in a scene, step by step, and going back: to any point, or of one step alone."""

from typing import Any

from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check

from .actions import change, document_of, going, lock_scene, locked, one_step, replayed
from .models import Document, Edit

MOST_SHOWN = 80
_TELLING = ("pk", "scene", "version")


def versions(scene: Scene) -> dict[str, int]:
    """The version of each document of a scene, by what the edit log calls it."""
    kinds = Document.__subclasses__()
    own = (one for kind in kinds for one in kind.of_scene(scene).only(*_TELLING))
    return {one.area: one.version for one in own}


def steps(scene: Scene) -> list[dict[str, Any]]:
    """The last steps, the newest first: step, who, when, verb, the documents it touched, and whether it is undone."""
    own = (
        Edit.objects.filter(scene=scene, superseded=False)
        .order_by("-step", "-pk")
        .select_related("person")
        .defer("changes")
    )
    found: dict[int, dict[str, Any]] = {}
    for edit in own[: MOST_SHOWN * 4]:
        row = found.setdefault(
            edit.step,
            {
                "step": edit.step,
                "who": str(edit.person or "somebody who left"),
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
    own = list(Edit.objects.filter(scene=scene, step=step, superseded=False, undone=False).order_by("-pk"))
    if not own:
        raise TinForkError("This step is not done, or no longer in the history; reload it.")
    with one_step():
        for part in own:
            document = document_of(scene, part.area)
            if document is not None:
                held = locked(person, document)
                change(person, held, f"take back: {part.verb}"[:40], _without(held, part))


def _without(document: Document, part: Edit) -> dict[str, Any]:
    try:
        return replayed(document.decided(part.changes), part, back=True, anywhere=True)
    except TinForkError:
        by = f" by {part.person}" if part.person else ""
        raise TinForkError(
            f"“{part.verb}”{by} cannot be taken back alone: what was done later stands on it. "
            "Go back to it, or undo what came after."
        ) from None
