"""What people set of shots: whose each is, its day, priority, number and sequence, and whether it is put away. Many at
once, in one step that is taken back as one."""

from collections.abc import Callable, Iterable
from datetime import date
from typing import Any, TypeAlias

from django.db import transaction
from django.db.models import F, Max, QuerySet
from django.utils import timezone

from tinfork.core.errors import TinForkError
from tinfork.web.accounts.names import name_of
from tinfork.web.cleaning import natural
from tinfork.web.notices.noticing import notify
from tinfork.web.productions.actions import checked_name, hold
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import EDITORS, Person, check, number_of

from .models import MAX_NUMBER_CHARACTERS, BoardStep, Sequence, Shot

MOST_SHOTS = 5_000
"""So many shots are changed at once."""

_KEPT_STEPS = 100
_TO_BE_SET = "Choose shots first: tick them in the list."

Plain: TypeAlias = str | int | None
"""A field of a shot as a step keeps it."""


def _who(production: Production, text: str) -> int | None:
    """Whose it is: the number of somebody who animates here, "" for nobody."""
    if not text:
        return None
    found = production.membership_set.filter(person_id=natural(text), role__in=EDITORS).first()
    if found is None:
        raise TinForkError("A shot is given to its production's owner or to one of its animators.")
    return found.person_id


def checked_day(text: str) -> date | None:
    """Return a day written as 2026-12-24; None for nothing."""
    try:
        return date.fromisoformat(text.strip()) if text.strip() else None
    except ValueError:
        raise TinForkError(f"“{text[:20]}” is no day; write it as 2026-12-24.") from None


def _due(_: Production, text: str) -> str | None:
    day = checked_day(text)
    return day.isoformat() if day else None


def _priority(_: Production, text: str) -> int:
    found = next((value for value, label in Shot.Priority.choices if text in (label, str(value))), None)
    if found is None:
        raise TinForkError("A priority is low, usual or high.")
    return int(found)


def checked_number(text: str) -> str:
    """Return a shot's number in the film, as it is written."""
    number = " ".join(text.split())
    if len(number) > MAX_NUMBER_CHARACTERS:
        raise TinForkError(f"A shot's number has up to {MAX_NUMBER_CHARACTERS} characters.")
    return number


def sequence_named(production: Production, name: str) -> int | None:
    """Return the sequence of a name, made where there is none; None for ""."""
    if not name.strip():
        return None
    name = checked_name(name, "sequence")
    found = production.sequences.filter(name=name).first()
    if found is None:
        last = production.sequences.aggregate(last=Max("place"))["last"] or 0
        found = Sequence.objects.create(production=production, name=name, place=last + 1)
    return found.pk


FIELDS: dict[str, tuple[str, Callable[[Production, str], Plain]]] = {
    "who": ("who_id", _who),
    "due": ("due", _due),
    "priority": ("priority", _priority),
    "sequence": ("sequence_id", sequence_named),
    "number": ("number", lambda _, text: checked_number(text)),
    "archived": ("archived", lambda _, text: timezone.now().isoformat() if text else None),
}
"""What can be set: for each the field it is kept in, and how what a form says is read."""


def _words(name: str, text: str, count: int) -> str:
    what = f"{count} shot{'' if count == 1 else 's'}"
    if name == "archived":
        return f"{'put away' if text else 'bring back'} {what}"
    return f"set {'whose it is' if name == 'who' else name} of {what}"


@transaction.atomic
def set_field(person: Person, production: Production, scenes: Iterable[int], name: str, text: str) -> BoardStep:
    """Set one thing of many shots. TinForkError where it is none of FIELDS or cannot be so."""
    check(person, production, "edit")
    hold(production)
    if name not in FIELDS:
        raise TinForkError("This could not be understood; reload the page and do it again.")
    field, read = FIELDS[name]
    own = _shots(production, scenes)
    value = read(production, text)
    changes = [(one.scene_id, field, _plain(one, field), value) for one in own if _plain(one, field) != value]
    _apply(own, {(scene, field): value for scene, *_ in changes})
    step = keep_step(person, production, _words(name, text, len(own)), changes)
    if name == "who" and changes and isinstance(value, int) and value != person.pk:
        _tell_whose(person, production, value, [scene for scene, *_ in changes])
    return step


def keep_step(
    person: Person, production: Production, text: str, changes: Iterable[tuple[int, str, Plain, Plain]]
) -> BoardStep:
    """Keep what one action changed of shots, as BoardStep has it."""
    step = BoardStep.objects.create(
        production=production, person_id=number_of(person), text=text, changes=list(changes)
    )
    _forget_old(production)
    return step


def _tell_whose(person: Person, production: Production, who: int, scenes: list[int]) -> None:
    """Let somebody know that shots are theirs now."""
    alone = production.scenes.get(pk=scenes[0]) if len(scenes) == 1 else None
    what = "A shot is" if alone else f"{len(scenes)} shots are"
    text = f"{what} yours now, says {name_of(person)}"
    notify([who], production, text, production.get_absolute_url(), alone)


def _shots(production: Production, scenes: Iterable[int]) -> list[Shot]:
    """The shots of scenes, made where there are none yet. TinForkError where none is chosen, or too many are."""
    asked = set(scenes)
    if not asked:
        raise TinForkError(_TO_BE_SET)
    if len(asked) > MOST_SHOTS:
        raise TinForkError(f"{MOST_SHOTS:,} shots are changed at once; choose fewer.")
    known = set(production.scenes.filter(pk__in=asked).values_list("pk", flat=True))
    if known != asked:
        raise TinForkError("One of these shots is gone; reload the page and choose again.")
    there = set(Shot.objects.filter(scene__in=asked).values_list("scene", flat=True))
    Shot.objects.bulk_create(Shot(scene_id=scene) for scene in asked - there)
    return list(Shot.objects.filter(scene__in=asked))


def _plain(shot: Shot, field: str) -> Plain:
    value: date | Plain = getattr(shot, field)
    return value.isoformat() if isinstance(value, date) else value


def _apply(shots: Iterable[Shot], values: dict[tuple[int, str], Any]) -> None:
    fields = {field for _, field in values}
    changed = [one for one in shots if any((one.scene_id, field) in values for field in fields)]
    for one in changed:
        for field in fields:
            setattr(one, field, values.get((one.scene_id, field), getattr(one, field)))
    if changed:
        Shot.objects.bulk_update(changed, sorted(fields))


@transaction.atomic
def change_sequence(person: Person, production: Production, number: int, doing: str, name: str = "") -> None:
    """Rename a sequence, move it "up" or "down" among the others, or "remove" one that has no shot."""
    check(person, production, "edit")
    hold(production)
    ordered = list(production.sequences.all())
    place = next((at for at, one in enumerate(ordered) if one.pk == number), None)
    if place is None:
        raise TinForkError("This sequence is gone; reload the page.")
    found = ordered[place]
    match doing:
        case "rename":
            found.name = checked_name(name, "sequence")
            if any(one.name == found.name for one in ordered if one.pk != number):
                raise TinForkError(f"There is a sequence “{found.name}” already; give another name.")
            found.save(update_fields=["name"])
        case "up" | "down":
            ordered.insert(max(0, place - 1) if doing == "up" else place + 1, ordered.pop(place))
            for at, one in enumerate(ordered, 1):
                one.place = at
            Sequence.objects.bulk_update(ordered, ["place"])
        case "remove":
            if found.shots.exists():
                raise TinForkError(f"“{found}” has shots; put them into another sequence first.")
            found.delete()
        case _:
            raise TinForkError("This could not be understood; reload the page and do it again.")


def in_film_order(scenes: "QuerySet[Scene]") -> "QuerySet[Scene]":
    """Return scenes as the film has them: sequence by sequence, those in none last, each in their own order."""
    return scenes.order_by(F("shot__sequence__place").asc(nulls_last=True), "shot__sequence", "place", "pk")


@transaction.atomic
def undo(person: Person, production: Production) -> str:
    """Take back what a person did last on a board. What others have set otherwise since stays. Return what was taken
    back, in words."""
    check(person, production, "edit")
    hold(production)
    step = last_step(person, production)
    if step is None:
        raise TinForkError("There is nothing to take back.")
    own = {one.scene_id: one for one in Shot.objects.filter(scene__in={scene for scene, *_ in step.changes})}
    still = [c for c in step.changes if c[0] in own and _plain(own[c[0]], c[1]) == c[3]]
    _apply(own.values(), {(scene, field): _there(production, field, before) for scene, field, before, _ in still})
    step.undone = True
    step.save(update_fields=["undone"])
    left = len(step.changes) - len(still)
    return f"Taken back: {step.text}." + (f" {left} that changed since stay." if left else "")


def _there(production: Production, field: str, value: Plain) -> Plain:
    """A value to be brought back, if who or what it names is still there."""
    if field == "who_id" and value and not production.membership_set.filter(person_id=int(value)).exists():
        return None
    if field == "sequence_id" and value and not production.sequences.filter(pk=int(value)).exists():
        return None
    return value


def last_step(person: Person, production: Production) -> BoardStep | None:
    """Return what a person did last on a board and can take back."""
    return production.board_steps.filter(person=person.pk, undone=False).first()


def _forget_old(production: Production) -> None:
    """Forget steps that nobody goes back to."""
    old = production.board_steps.values_list("pk", flat=True)[_KEPT_STEPS:]
    BoardStep.objects.filter(pk__in=list(old)).delete()
