"""What people do with productions, scenes and cast. Each checks who asks and changes state in one transaction."""

from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.core.limits import MAX_NAME_CHARACTERS, MAX_START_FRAME
from tinfork.core.mouths.face import FORMS
from tinfork.core.speech.espeak import check_language
from tinfork.core.timebase import format_rate, parse_rate

from .models import Character, Membership, Production, Scene
from .permissions import Person, check

_COLOURS = (("#e3c3a5", "#2f4a57", "#b8705a"), ("#d9b08c", "#7a3b2e", "#a65a4b"), ("#c9cfcc", "#2f7d72", "#7d8a8c"))


@transaction.atomic
def create_production(person: Person, name: str) -> Production:
    """A new production, owned by the person."""
    production = Production.objects.create(name=_name(name, "production"))
    Membership.objects.create(production=production, person_id=person.pk, role=Membership.Role.OWNER)
    return production


@transaction.atomic
def create_character(person: Person, production: Production, name: str) -> Character:
    """A new member of the cast, with the next of the built-in faces."""
    check(person, production, "edit")
    name = _name(name, "character")
    if production.characters.filter(name=name).exists():
        raise TinForkError(f"The cast has a {name} already; give another name.")
    number = production.characters.count()
    skin, trim, lip = _COLOURS[number % len(_COLOURS)]
    return Character.objects.create(
        production=production, name=name, form=FORMS[number % len(FORMS)], skin=skin, trim=trim, lip=lip
    )


@transaction.atomic
def create_scene(person: Person, production: Production, name: str, rate: str, start_frame: str) -> Scene:
    """A new scene at an exact frame rate."""
    check(person, production, "edit")
    name = _name(name, "scene")
    if production.scenes.filter(name=name).exists():
        raise TinForkError(f"There is a scene “{name}” already; give another name.")
    return Scene.objects.create(
        production=production, name=name, rate=format_rate(parse_rate(rate)), start_frame=_start_frame(start_frame)
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
        found = check_in_cast(production, int(character) if character.isdigit() else 0)
        found.language = check_language(language) if language else ""
        found.save(update_fields=["language"])
    else:
        production.language = check_language(language)
        production.save(update_fields=["language"])


def _start_frame(text: str) -> int:
    if text.strip().isascii() and text.strip().isdigit() and int(text) <= MAX_START_FRAME:
        return int(text)
    raise TinForkError(f"The start frame is a whole number from 0 to {MAX_START_FRAME:,}.")


def _name(text: str, what: str) -> str:
    name = " ".join(text.replace("\0", "").split())
    if not name:
        raise TinForkError(f"Give the {what} a name.")
    if len(name) > MAX_NAME_CHARACTERS:
        raise TinForkError(f"A name has up to {MAX_NAME_CHARACTERS} characters; this one has {len(name)}.")
    return name
