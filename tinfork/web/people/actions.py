"""What is done with the people of a production. It has one owner, who alone changes who is in it."""

from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.web.announcing import announce
from tinfork.web.notices.noticing import forget
from tinfork.web.productions.actions import hold
from tinfork.web.productions.models import Membership, Production
from tinfork.web.productions.permissions import Person, check, number_of
from tinfork.web.shots.models import Shot

from .inviting import INVITED
from .models import Invitation, WatchLink

GONE = "This person is not in the production any more; reload the page."


def _member(production: Production, membership: int) -> Membership:
    """Return somebody in a production beside its owner. TinForkError where there is nobody of this number."""
    others = production.membership_set.exclude(role=Membership.Role.OWNER)
    found = others.select_related("person").filter(pk=membership).first()
    if found is None:
        raise TinForkError(GONE)
    return found


@transaction.atomic
def set_role(person: Person, production: Production, membership: int, role: str) -> None:
    """Let somebody be an animator or a reviewer."""
    check(person, production, "own")
    hold(production)
    if role not in INVITED:
        raise TinForkError("Somebody is an animator or a reviewer; choose one of them.")
    found = _member(production, membership)
    found.role = role
    found.save(update_fields=["role"])


@transaction.atomic
def hand_over(person: Person, production: Production, membership: int) -> None:
    """Make somebody else the owner; the one before is an animator from then on."""
    check(person, production, "own")
    hold(production)
    found = _member(production, membership)
    production.membership_set.filter(role=Membership.Role.OWNER).update(role=Membership.Role.ANIMATOR)
    found.role = Membership.Role.OWNER
    found.save(update_fields=["role"])


@transaction.atomic
def remove_person(person: Person, production: Production, membership: int) -> None:
    """Take somebody out of a production. What they made stays."""
    check(person, production, "own")
    hold(production)
    take_out(_member(production, membership))


@transaction.atomic
def leave(person: Person, production: Production) -> None:
    """Let a person leave a production; its owner hands it over first."""
    check(person, production, "see")
    hold(production)
    found = production.membership_set.get(person=number_of(person))
    if found.role == Membership.Role.OWNER:
        raise TinForkError("You own this production. Hand it over to somebody first, or delete it on the shelf.")
    take_out(found)


def take_out(membership: Membership) -> None:
    """End what somebody may do in a production, what others may by their invitations, and what is theirs to do."""
    for kind in (Invitation, WatchLink):
        kind.objects.filter(production=membership.production_id, by=membership.person_id).update(withdrawn=True)
    Shot.objects.filter(scene__production=membership.production_id, who=membership.person_id).update(who=None)
    membership.delete()
    forget(membership.person_id, membership.production)
    announce("people", production=membership.production_id)
