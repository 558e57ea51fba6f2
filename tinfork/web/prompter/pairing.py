"""A telephone on the same network as a second pair of hands: it is paired by a code, sees what the prompter shows, and
presses for it. What a press does is done by the prompter's page, with the rights of who opened it."""

import secrets
from datetime import timedelta
from hashlib import sha256
from typing import Annotated, Any, Literal

from django.db import transaction
from django.utils import timezone
from msgspec import Meta, Struct, to_builtins

from tinfork.core.errors import TinForkError
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, number_of

from .models import Pairing

Press = Literal["back", "on", "shot", "again"]
_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"
_HALF = 4
_TO_TYPE_IT = timedelta(minutes=10)
_UNUSED = timedelta(hours=12)
_KEPT = 40
NOT_PAIRED = "This telephone is not paired any more; ask for a new code at the prompter."


class PairingError(TinForkError):
    """A telephone that is not, or not any more, paired."""


Text = Annotated[str, Meta(max_length=200)]


class Mouth(Struct, frozen=True, forbid_unknown_fields=True):
    """What a character shows: before, now and next, as names of drawings; to go: frames until the next."""

    who: Text
    was: Text = ""
    now: Text = ""
    next: Text = ""
    to_go: Annotated[int, Meta(ge=0, le=10_000_000)] = 0


class OnPrompter(Struct, frozen=True, forbid_unknown_fields=True):
    """What a prompter shows."""

    frame: Text
    word: Text = ""
    state: Text = ""
    mouths: Annotated[list[Mouth], Meta(max_length=40)] = []


def offer(person: Person, scene: Scene) -> Pairing:
    """Return a pairing with a code to be typed within ten minutes, in place of what the person had in the scene."""
    Pairing.objects.filter(used__lt=timezone.now() - _UNUSED).delete()
    Pairing.objects.filter(person_id=number_of(person), scene=scene).delete()
    code = "-".join("".join(secrets.choice(_LETTERS) for _ in range(_HALF)) for _ in range(2))
    return Pairing.objects.create(person_id=number_of(person), scene=scene, code=code)


def pair(code: str) -> tuple[Pairing, str]:
    """Pair the telephone on which a code was typed; with what it shows from then on."""
    typed = "".join(code.lower().split()).replace("-", "")[: 2 * _HALF]
    wanted = f"{typed[:_HALF]}-{typed[_HALF:]}"
    with transaction.atomic():
        fresh = Pairing.objects.filter(made__gt=timezone.now() - _TO_TYPE_IT).select_for_update()
        found = fresh.filter(code=wanted).first()
        if not found:
            raise PairingError("No prompter waits for this code: look at it again, or ask for a new one there.")
        token = secrets.token_urlsafe(32)
        found.code, found.phone = "", _digest(token)
        found.save()
    return found, f"{found.pk}:{token}"


def paired(token: str) -> Pairing:
    """Return the pairing of the telephone that shows this."""
    number, _, secret = token.partition(":")
    fresh = Pairing.objects.filter(used__gt=timezone.now() - _UNUSED).exclude(phone="")
    found = fresh.filter(pk=int(number)).first() if number.isdecimal() and len(number) < 12 else None
    if not found or not secrets.compare_digest(found.phone, _digest(secret)):
        raise PairingError(NOT_PAIRED)
    return found


def press(pairing: Pairing, what: Press) -> None:
    """Press a button of the telephone."""
    with transaction.atomic():
        own = Pairing.objects.select_for_update().filter(pk=pairing.pk).first()
        if not own:
            raise PairingError(NOT_PAIRED)
        last = own.presses[-1][0] if own.presses else 0
        own.presses = [*own.presses, [last + 1, what]][-_KEPT:]
        own.save(update_fields=["presses", "used"])


def exchange(pairing: Pairing, since: int, shown: OnPrompter | None) -> dict[str, Any]:
    """Return what was pressed after a number, and whether a telephone is paired; what the prompter shows now is
    kept."""
    if shown:
        Pairing.objects.filter(pk=pairing.pk).update(shown=to_builtins(shown), used=timezone.now())
    return {"presses": [one for one in pairing.presses if one[0] > since], "paired": bool(pairing.phone)}


def _digest(token: str) -> str:
    return sha256(token.encode()).hexdigest()
