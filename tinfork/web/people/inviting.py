"""How people come into a production: by a link that lets one person in, for a while, until it is withdrawn."""

from datetime import timedelta

from django.conf import settings
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.core.mail import send_mail
from django.core.signing import BadSignature
from django.core.validators import validate_email
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from tinfork.core.errors import TinForkError
from tinfork.web.accounts.names import name_of
from tinfork.web.productions.actions import checked_name, hold
from tinfork.web.productions.models import Membership, Production
from tinfork.web.productions.permissions import Person, check, number_of

from .models import SIGNER, Invitation

HOLDS = timedelta(days=14)
MOST_OPEN = 100
"""So many invitations of a production wait to be used."""

INVITED = (Membership.Role.ANIMATOR, Membership.Role.REVIEWER)


def mail_is_set() -> bool:
    """Return whether this installation can send mail."""
    return bool(settings.EMAIL_HOST)


def waiting(production: Production) -> "QuerySet[Invitation]":
    """Return the invitations by which somebody can still join."""
    return production.invitations.filter(used=None, withdrawn=False, until__gt=timezone.now())


@transaction.atomic
def invite(person: Person, production: Production, name: str, role: str) -> Invitation:
    """Make a link by which somebody joins a production as an animator or a reviewer."""
    check(person, production, "own")
    hold(production)
    if role not in INVITED:
        raise TinForkError("Somebody comes as an animator or as a reviewer; choose one of them.")
    if waiting(production).count() >= MOST_OPEN:
        raise TinForkError(f"{MOST_OPEN} invitations wait already; withdraw some first.")
    until = timezone.now() + HOLDS
    named = checked_name(name, "invitation")
    return production.invitations.create(by_id=number_of(person), name=named, role=role, until=until)


def checked_address(text: str) -> str:
    """Return a mail address. TinForkError where it is none."""
    try:
        validate_email(text.strip())
    except ValidationError:
        raise TinForkError(f"“{text.strip()[:60]}” is no mail address; look at it again.") from None
    return text.strip()


def send(invitation: Invitation, address: str, link: str) -> None:
    """Send an invitation's link by mail. TinForkError where that fails; the invitation stays."""
    by = name_of(invitation.by) if invitation.by else "Somebody"
    subject = f"{by} invites you to {invitation.production} in Tin Fork"
    text = (
        f"{by} invites you to {invitation.production} as {invitation.role}.\n\n{link}\n\nThe link lets one person in."
    )
    try:
        send_mail(" ".join(subject.split()), text, None, [address])
    except OSError:
        raise TinForkError("The mail could not be sent. The invitation is made: copy its link below.") from None


@transaction.atomic
def withdraw(person: Person, production: Production, invitation: int) -> None:
    """Let nobody join by an invitation any more."""
    check(person, production, "own")
    production.invitations.filter(pk=invitation, used=None).update(withdrawn=True)


def find_invitation(token: str) -> Invitation:
    """Return the invitation of a link. TinForkError, with a sentence, where nobody can join by it."""
    try:
        number = int(SIGNER.unsign(token))
    except (BadSignature, ValueError):
        raise TinForkError("This link is not whole. Copy it again, from its first sign to its last.") from None
    found = Invitation.objects.select_related("production", "by").filter(pk=number).first()
    if found is None or found.withdrawn or found.production.removed:
        raise TinForkError("This invitation was withdrawn. Ask who sent it for another.")
    if found.used:
        raise TinForkError("Somebody has joined by this link already; it lets one person in. Ask for another.")
    if found.over:
        raise TinForkError("This invitation is over. Ask who sent it for another.")
    return found


@transaction.atomic
def join(person: User, token: str) -> Production:
    """Let a person in by a link. Whoever is in the production already stays what they are, and the link is not used
    up."""
    production = find_invitation(token).production
    hold(production)
    found = find_invitation(token)
    made = Membership.objects.get_or_create(production=production, person=person, defaults={"role": found.role})[1]
    if made:
        found.used, found.used_by = timezone.now(), person
        found.save(update_fields=["used", "used_by"])
    return production
