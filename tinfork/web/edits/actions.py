"""How every document is changed: by one action on one version, in one transaction, logged with what undoes it.

The documents of a scene are locked in one order: the scene first, then what belongs to it, so that no two actions wait
for each other. Undo goes back through the history of the scene, one action a step, whichever documents it touched.
"""

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, TypeVar

import msgspec
from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.core.plain import plain
from tinfork.web import fence
from tinfork.web.announcing import announce
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check

from . import following
from .diff import apply, diff
from .models import Document, Edit
from .spots import Spot, meet, rest_on, spots

D = TypeVar("D", bound=Document)

_MOST_TOLD = 4
MOST_STEPS = 500
"""So many steps back a scene remembers, and a few more: it is looked after now and then."""

_OFTEN = 50

_MOST_BEHIND = 200
"""An edit is asked for on a version no more than so many before the newest."""

_merging: ContextVar[bool] = ContextVar("merging", default=False)
_open_step: ContextVar[list[int] | None] = ContextVar("open_step", default=None)


class Stale(TinForkError):
    """The edit was made on an older version than the document has now."""


def locked(person: Person, document: D, version: int | None = None) -> D:
    """The document as it is now, held until the transaction ends. Stale when it is no longer the version given."""
    check(person, document.scene.production, "edit")
    lock_scene(document.scene)
    found: D = type(document)._default_manager.select_for_update().get(pk=document.pk)
    for name in document.BELONGS_TO:  # That is known already, and never becomes another.
        setattr(found, name, getattr(document, name))
    if version is not None and version != found.version:
        if not _merging.get() or not 0 < found.version - version <= _MOST_BEHIND:
            raise _stale(found, version)
        found.asked_on = version
    return found


def _stale(document: Document, version: int) -> Stale:
    return Stale(f"This was changed meanwhile{_since(document, version)}. Nothing of it was overwritten.")


def stale_instead(document: Document, version: int, refused: TinForkError) -> TinForkError:
    """Why an edit was refused: what others did meanwhile, where it was asked for before that."""
    now = type(document)._default_manager.filter(pk=document.pk).values_list("version", flat=True).first()
    old = _merging.get() and not isinstance(refused, Stale) and now is not None and version < now
    return _stale(document, version) if old else refused


@contextmanager
def merging(may: bool) -> Iterator[None]:
    """Inside, an edit that was asked for on an older version is done on the newest all the same, if it may and what it
    touches is as it was."""
    token = _merging.set(may)
    try:
        yield
    finally:
        _merging.reset(token)


def _check_untouched(document: Document, own: list[Spot]) -> None:
    """Stale where what an edit touches was touched since the version it was asked for on."""
    version, document.asked_on = document.asked_on, None
    if version is None:
        return
    since = document.edits.filter(last_at__gte=version).values_list("spots", flat=True)
    if rest_on(own, document.moved_since(version)) or any(theirs is None or meet(own, theirs) for theirs in since):
        raise _stale(document, version)
    document.merged = True


def lock_scene(scene: Scene) -> None:
    """Hold a scene until the transaction ends: whoever changes something in it comes through here first, and knows by
    what rate its frames are counted now."""
    fence.hold()
    now = Scene.everything.select_for_update(no_key=True).only("rate", "start_frame").get(pk=scene.pk)
    scene.rate, scene.start_frame = now.rate, now.start_frame


def _since(document: Document, version: int) -> str:
    """What was done to a document since a version, and by whom."""
    made = document.edits.filter(last_at__gte=version).order_by("pk").select_related("person")
    done = dict.fromkeys(f"{edit.verb}, by {edit.person}" for edit in made if edit.person)
    return f" ({'; '.join(list(done)[-_MOST_TOLD:])})" if done else ""


def _saved(person: Person, document: D, names: Iterable[str], verb: str) -> D:
    """Keep a document of which some parts have changed under a new version, and tell open pages who did what."""
    document.version += 1
    fields = {document.stored_in(name) for name in names}
    document.save(update_fields=[*fields, *document.DERIVED, "version"])
    tell_changed(document, person, verb)
    return document


def tell_changed(document: Document, person: Person | None = None, verb: str = "") -> None:
    """Tell open pages that a document has another version; and who did what, where somebody did it."""
    scene = document.scene
    announce(
        "edit",
        production=scene.production_id,
        scene=scene.pk,
        area=document.area,
        version=document.version,
        by=(person.pk if person else None) or 0,
        verb=verb,
    )


@contextmanager
def one_step() -> Iterator[None]:
    """What is changed inside is one action, and one step of undo, however many documents it touches."""
    token = _open_step.set([])
    try:
        yield
    finally:
        _open_step.reset(token)


@transaction.atomic(savepoint=False)
def change(
    person: Person,
    document: D,
    verb: str,
    changed: dict[str, Any],
    batch: int | None = None,
    is_plain: bool = False,
    everywhere: bool = False,
) -> D:
    """Set parts of what a person decided of a locked document, by their names, to values of the core or plain ones, and
    what follows from them; what was undone can no longer be redone. Where nothing is changed by it, nothing was done.

    batch: the number of a piece of long work; what it changes is one action, as long as nobody does anything meanwhile.
    is_plain: all values are plain ones already. everywhere: whether the frames of the document mean others now, so that
    it is another even where nothing is set, and no edit that was asked for before is done after it.
    """
    changed = changed if is_plain else plain(changed)
    before = document.decided(changed)
    changes = {name: ops for name, value in changed.items() if (ops := diff(before[name], value))}
    if not changes and not everywhere:
        return document
    touched = None if everywhere else [spot for name in changes for spot in spots(name, before[name], changed[name])]
    _check_untouched(document, touched or [])
    _set(document, {name: changed[name] for name in changes}, before)
    Edit.objects.of_scene(document.scene, undone=True).update(superseded=True)
    last = Edit.objects.of_scene(document.scene, undone=False).last() if batch else None
    goes_on = last is not None and last.batch == batch
    if goes_on and last and (own := document.edits.filter(step=last.step).last()):
        for name, ops in changes.items():
            own.changes[name] = [*own.changes.get(name, []), *ops]
        own.spots, own.last_at = [*(own.spots or []), *(touched or [])], document.version
        own.save(update_fields=["changes", "spots", "last_at"])
        return _saved(person, document, changes, verb)
    edit = Edit.objects.create(
        scene=document.scene,
        area=document.area,
        person_id=person.pk,
        verb=verb,
        changes=changes,
        derived=_derived_before(document),
        version=document.version,
        spots=touched,
        last_at=document.version,
        batch=batch,
        **({"step": last.step} if goes_on and last else _step()),
    )
    _begun(edit.step)
    if edit.pk % _OFTEN == 0:
        forget(edit.scene, MOST_STEPS)
    return _saved(person, document, changes, verb)


def _step() -> dict[str, int]:
    """The step of the action that what is done now is part of; nothing for a new one, which the database numbers."""
    begun = _open_step.get()
    return {"step": begun[0]} if begun else {}


def _begun(step: int) -> None:
    """What else is done in the same action is of the same step."""
    begun = _open_step.get()
    if begun is not None and not begun:
        begun.append(step)


def forget(scene: Scene, kept: int) -> int:
    """Let go of all but the last steps of a scene's history; how many edits that were."""
    steps = Edit.objects.filter(scene=scene).order_by("-step").values_list("step", flat=True).distinct()
    oldest = steps[kept - 1 : kept].first() if kept else None
    old = Edit.objects.filter(scene=scene, step__lt=oldest) if oldest is not None else None
    return old.delete()[0] if old is not None else 0


@transaction.atomic
def undo(person: Person, document: D, version: int | None) -> dict[str, Any]:
    """Take back the last action in the document's scene that is not undone: what it was, and which other documents it
    touched. TinForkError when there is none."""
    document = locked(person, document, version)
    last = Edit.objects.of_scene(document.scene, undone=False).last()
    if last is None:
        raise TinForkError("There is nothing to undo.")
    return _go(person, document, last, back=True)


@transaction.atomic
def redo(person: Person, document: D, version: int | None) -> dict[str, Any]:
    """Do again what was last undone; as undo has it. TinForkError when there is none."""
    document = locked(person, document, version)
    first = Edit.objects.of_scene(document.scene, undone=True).first()
    if first is None:
        raise TinForkError("There is nothing to do again.")
    return _go(person, document, first, back=False)


def _go(person: Person, document: Document, edit: Edit, back: bool) -> dict[str, Any]:
    own = list(Edit.objects.filter(scene=document.scene, step=edit.step, superseded=False).order_by("pk"))
    others = False
    for part in reversed(own) if back else own:
        touched = document if part.area == document.area else document_of(document.scene, part.area)
        if touched is not None:
            touched = touched if touched is document else locked(person, touched)
            before = touched.decided(part.changes)
            if part.derived:
                touched.to_bring_back.update(msgspec.msgpack.decode(part.derived))
            _set(touched, replayed(before, part, back), before)
            part.derived = _derived_before(touched)
            part.last_at = touched.version
            _saved(person, touched, part.changes, f"{'undo' if back else 'redo'}: {edit.verb}")
            others |= touched.area != document.area
        part.undone = back
        part.save(update_fields=["undone", "derived", "last_at"])
    return {"done": f"{'Undone' if back else 'Done again'}: {edit.verb}.", "others": others}


def going(person: Person, scene: Scene, edit: Edit, back: bool) -> None:
    """Undo the step an edit is part of, or do it again."""
    document = document_of(scene, edit.area)
    if document is not None:
        _go(person, locked(person, document), edit, back)
        return
    Edit.objects.filter(scene=scene, step=edit.step, superseded=False).update(undone=back)


def document_of(scene: Scene, area: str) -> Document | None:
    """The document of a scene that the edit log calls so."""
    found = (kind.of_area(scene, area) for kind in Document.__subclasses__())
    return next((one for one in found if one is not None), None)


def replayed(now: dict[str, Any], edit: Edit, back: bool, anywhere: bool = False) -> dict[str, Any]:
    """What parts of a document are when an edit is taken back, or done again; anywhere: as apply has it. TinForkError
    when they are not what it left, or found."""
    try:
        return {name: apply(now[name], ops, back, anywhere) for name, ops in edit.changes.items()}
    except (LookupError, TypeError, AttributeError):
        raise TinForkError(f"“{edit.verb}” cannot be {'undone' if back else 'done again'} any more.") from None


def _derived_before(document: Document) -> bytes | None:
    return msgspec.msgpack.encode(document.derived_before) if document.derived_before else None


def _set(document: Document, changed: dict[str, Any], before: dict[str, Any]) -> None:
    document.derived_before.clear()
    for name, value in changed.items():
        document.decide(name, value)
    following.tell(document, {name: before[name] for name in changed})
