"""What people do with productions, scenes and cast. Each checks who asks and changes state in one transaction."""

import random
import re
from collections.abc import Mapping
from typing import Any, TypeAlias

from django.db import transaction
from django.db.models import Max, QuerySet
from django.utils import timezone

from tinfork.core.errors import TinForkError
from tinfork.core.limits import MAX_NAME_CHARACTERS, MAX_START_FRAME
from tinfork.core.mouths.heads import COMMON, FORMS
from tinfork.core.naming import numbered
from tinfork.core.speech.espeak import check_language
from tinfork.core.timebase import format_rate, parse_rate
from tinfork.web.announcing import announce
from tinfork.web.cleaning import natural

from .models import Character, Membership, Production, Scene
from .permissions import Person, check, number_of

_SKINS = (
    ("#f0d6c2", "#b8705a"),
    ("#e3c3a5", "#b8705a"),
    ("#d9a77e", "#a65a4b"),
    ("#b57b50", "#8f4a3c"),
    ("#8a5a3c", "#6f352c"),
)
"""Skins, each with its lips."""

_HAIRS = ("#22302f", "#5a3b2a", "#8c5a2e", "#c9974a", "#a4452c", "#c9cfcc", "#2f4a57", "#8c2f4b")
_COLOUR = re.compile(r"#[0-9a-fA-F]{6}")


@transaction.atomic
def create_production(person: Person, name: str) -> Production:
    """A new production, owned by the person."""
    production = Production.objects.create(name=checked_name(name, "production"))
    Membership.objects.create(production=production, person_id=number_of(person), role=Membership.Role.OWNER)
    return production


def free_name(person: Person, name: str) -> str:
    """Return a production's name, with a number where one on the person's shelf has it already."""
    shelf = Production.objects.filter(membership__person=number_of(person))
    taken = set(shelf.values_list("name", flat=True))
    return next(one for one in numbered(name, " ({})", MAX_NAME_CHARACTERS - 6) if one not in taken)


def free_scene_name(production: Production, wanted: str) -> str:
    """Return a name no scene of a production has yet: the one that is wanted, else with a number."""
    taken = set(production.scenes.values_list("name", flat=True))
    return next(one for one in numbered(wanted[: MAX_NAME_CHARACTERS - 5]) if one not in taken)


def hold(production: Production) -> None:
    """Let nobody else change what belongs to a production, or what it is called, until the transaction ends; then its
    open pages hear of it."""
    Production.everything.select_for_update(no_key=True).only("pk").get(pk=production.pk)
    announce("board", production=production.pk)


@transaction.atomic
def create_character(person: Person, production: Production, name: str) -> Character:
    """A new member of the cast, with a head of ours by chance: one that nobody in the cast has, as long as there is."""
    check(person, production, "edit")
    hold(production)
    name = checked_name(name, "character")
    if production.characters.filter(name=name).exists():
        raise TinForkError(f"The cast has a {name} already; give another name.")
    worn = set(production.characters.values_list("form", flat=True))
    chance = random.Random(f"{production.pk} {name}")
    skin, lip = chance.choice(_SKINS)
    return Character.objects.create(
        production=production,
        name=name,
        place=_last(production.characters),
        form=chance.choice([form for form in COMMON if form not in worn] or COMMON),
        skin=skin,
        trim=chance.choice(_HAIRS),
        lip=lip,
    )


@transaction.atomic
def set_look(person: Person, character: Character, form: str, colours: Mapping[str, str]) -> None:
    """Another head of ours for a character. colours: of skin, trim and lip as CSS writes them, #rrggbb; those that are
    not named stay."""
    check(person, character.production, "edit")
    hold(character.production)
    character.refresh_from_db(fields=["form", "skin", "trim", "lip"])
    if form not in FORMS:
        raise TinForkError("This is no head of ours; reload the page and choose one.")
    character.form = form
    for name in ("skin", "trim", "lip"):
        if name in colours:
            if not _COLOUR.fullmatch(colours[name]):
                raise TinForkError("A colour is written as # and six digits or letters a to f, such as #e3c3a5.")
            setattr(character, name, colours[name].lower())
    character.save(update_fields=["form", "skin", "trim", "lip"])


@transaction.atomic
def create_scene(person: Person, production: Production, name: str, rate: str, start_frame: str) -> Scene:
    """A new scene at an exact frame rate."""
    check(person, production, "edit")
    hold(production)
    name = checked_name(name, "scene")
    if production.scenes.filter(name=name).exists():
        raise TinForkError(f"There is a scene “{name}” already; give another name.")
    return Scene.objects.create(
        production=production,
        name=name,
        rate=format_rate(parse_rate(rate)),
        start_frame=checked_start_frame(start_frame),
        place=_last(production.scenes),
    )


def check_in_cast(production: Production, character: int) -> Character:
    """The character of this number. TinForkError when the production's cast has none."""
    found = production.characters.filter(pk=character).first()
    if found is None:
        raise TinForkError("This character is not in the cast.")
    return found


@transaction.atomic
def set_language(person: Person, production: Production, character: str, language: str) -> None:
    """Set the language a character speaks, "" for the production's own; or, without a character, the production's."""
    check(person, production, "edit")
    if character:
        found = check_in_cast(production, natural(character) or 0)
        found.language = check_language(language) if language else ""
        found.save(update_fields=["language"])
    else:
        production.language = check_language(language)
        production.save(update_fields=["language"])


Thing: TypeAlias = Production | Scene | Character


def _held(person: Person, thing: Thing) -> tuple[Thing, str]:
    """A thing as it is now for somebody who may change it, its production held, and what it is called; a production is
    changed by its owner alone."""
    kind = type(thing)
    production = thing if isinstance(thing, Production) else thing.production
    check(person, production, "own" if kind is Production else "edit")
    hold(production)
    found: Thing = kind.everything.get(pk=thing.pk)
    return found, kind.__name__.lower()


def _others(thing: Thing) -> "QuerySet[Any]":
    """The things of its kind beside it."""
    if isinstance(thing, Production):
        return Production.objects.none()
    return type(thing).objects.filter(production=thing.production_id).exclude(pk=thing.pk)


@transaction.atomic
def rename(person: Person, thing: Thing, name: str) -> None:
    """Call a production, scene or character otherwise."""
    held, what = _held(person, thing)
    held.name = checked_name(name, what)
    if _others(held).filter(name=held.name).exists():
        raise TinForkError(f"There is a {what} “{held.name}” already; give another name.")
    held.save(update_fields=["name"])


@transaction.atomic
def move(person: Person, thing: Scene | Character, by: int) -> None:
    """Move a scene or character up (-1) or down (1) among the others."""
    held, _ = _held(person, thing)
    kind: Any = type(thing)
    put_elsewhere(kind.objects.filter(production=thing.production_id), held.pk, by, "place")


def put_elsewhere(among: QuerySet[Any], pk: int, by: int, field: str) -> None:
    """Move one of some rows by so many places among them, in the field they are ordered by; nothing where it is not
    among them any more."""
    order = list(among)
    at = next((place for place, one in enumerate(order) if one.pk == pk), None)
    if at is None:
        return
    order.insert(min(max(at + by, 0), len(order) - 1), order.pop(at))
    for place, one in enumerate(order, 1):
        setattr(one, field, place)
    among.bulk_update(order, [field])


@transaction.atomic
def remove(person: Person, thing: Thing) -> None:
    """Delete a production, scene or character: it is out of sight, and can be brought back with all that is in it."""
    held, _ = _held(person, thing)
    held.removed = timezone.now()
    held.save(update_fields=["removed"])


@transaction.atomic
def bring_back(person: Person, thing: Thing) -> None:
    """Undo a deletion."""
    held, what = _held(person, thing)
    if _others(held).filter(name=held.name).exists():
        raise TinForkError(f"There is a {what} “{held.name}” again; rename that one first.")
    held.removed = None
    held.save(update_fields=["removed"])


def _last(things: Any) -> int:
    """The place after all others."""
    return (things.aggregate(last=Max("place"))["last"] or 0) + 1


def checked_start_frame(text: str) -> int:
    """Return a scene's first frame, as somebody writes it."""
    frame = natural(text)
    if frame is not None and frame <= MAX_START_FRAME:
        return frame
    raise TinForkError(f"The start frame is a whole number from 0 to {MAX_START_FRAME:,}.")


def checked_name(text: str, what: str) -> str:
    name = " ".join(text.replace("\0", "").split())
    if not name:
        raise TinForkError(f"Give the {what} a name.")
    if len(name) > MAX_NAME_CHARACTERS:
        raise TinForkError(f"A name has up to {MAX_NAME_CHARACTERS} characters; this one has {len(name)}.")
    return name
