"""How every document is changed: by one action on one version, in one transaction, logged with what undoes it."""

from typing import Any, TypeVar

from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.web.productions.permissions import Person, check

from .models import Document, Edit

D = TypeVar("D", bound=Document)

_MOST_TOLD = 4


class Stale(TinForkError):
    """The edit was made on an older version than the document has now."""


def locked(person: Person, document: D, version: int | None = None) -> D:
    """The document as it is now, held until the transaction ends. Stale when it is no longer the version given."""
    check(person, document.scene.production, "edit")
    rows = type(document)._default_manager.select_for_update(of=("self",)).select_related("scene__production")
    found: D = rows.get(pk=document.pk)
    if version is not None and version != found.version:
        raise Stale(f"This was changed meanwhile{_since(found, version)}. Nothing of it was overwritten.")
    return found


def _since(document: Document, version: int) -> str:
    """What was done to a document since a version, and by whom."""
    made = document.edits.filter(version__gte=version, undone=False).order_by("pk").select_related("person")
    done = dict.fromkeys(f"{edit.verb}, by {edit.person}" for edit in made if edit.person)
    return f" ({'; '.join(list(done)[-_MOST_TOLD:])})" if done else ""


def saved(document: D) -> D:
    """Keep a document under a new version."""
    document.version += 1
    document.save()
    return document


@transaction.atomic
def change(person: Person, document: D, verb: str, run: int | None = None, **changed: Any) -> D:
    """Set some of a locked document's choices and what follows from them; what was undone can no longer be redone.

    run: the number of a piece of long work; what it changes is one action, as long as nobody does anything in between.
    """
    before = document.choices()
    _set(document, changed)
    after = document.choices()
    names = [name for name in after if after[name] != before[name]]
    document.edits.filter(undone=True).update(superseded=True)
    last = document.edits.filter(undone=False, superseded=False).last() if run else None
    if last and last.run == run:
        last.before = {name: before[name] for name in names} | last.before
        last.after |= {name: after[name] for name in names}
        last.save(update_fields=["before", "after"])
        return saved(document)
    Edit.objects.create(
        scene=document.scene,
        area=document.area,
        person_id=person.pk,
        verb=verb,
        before={name: before[name] for name in names},
        after={name: after[name] for name in names},
        version=document.version,
        run=run,
    )
    return saved(document)


@transaction.atomic
def undo(person: Person, document: D, version: int | None) -> D:
    """Take back the last action that is not undone. TinForkError when there is none."""
    document = locked(person, document, version)
    return _go(document, document.edits.filter(undone=False, superseded=False).last(), back=True)


@transaction.atomic
def redo(person: Person, document: D, version: int | None) -> D:
    """Do again what was last undone. TinForkError when there is none."""
    document = locked(person, document, version)
    return _go(document, document.edits.filter(undone=True, superseded=False).first(), back=False)


def _go(document: D, edit: Edit | None, back: bool) -> D:
    if edit is None:
        raise TinForkError("There is nothing to undo." if back else "There is nothing to do again.")
    _set(document, edit.before if back else edit.after)
    edit.undone = back
    edit.save(update_fields=["undone"])
    return saved(document)


def _set(document: Document, changed: dict[str, Any]) -> None:
    before = document.choices()
    for name, value in changed.items():
        setattr(document, name, value)
    document.settle(before)
