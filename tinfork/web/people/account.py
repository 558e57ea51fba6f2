"""A person's own account: what others call them, their password, and its end."""

from django.contrib.auth.models import User
from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.web.accounts.models import Preferences
from tinfork.web.accounts.visits import end_others
from tinfork.web.productions.actions import checked_name, hold
from tinfork.web.productions.models import Membership, Production

from .actions import take_out

_MOST_NAMED = 4
_LEFT = "Somebody who left"


def rename(person: User, name: str) -> None:
    """Set what others call a person."""
    person.first_name, person.last_name = checked_name(name, "person"), ""
    person.save(update_fields=["first_name", "last_name"])


@transaction.atomic
def close(person: User) -> None:
    """End an account: nobody signs in with it again, and it is in no production. What was made with it stays, as that
    of somebody who left. TinForkError while there are productions that would have no owner."""
    person = User.objects.select_for_update().get(pk=person.pk)
    for production in Production.objects.filter(people=person).order_by("pk"):
        hold(production)  # Nobody hands one over to them meanwhile.
    owned = Production.objects.filter(membership__person=person, membership__role=Membership.Role.OWNER)
    names = ", ".join(f"“{one}”" for one in owned[:_MOST_NAMED])
    if names:
        raise TinForkError(f"You own {names}. Hand each over to somebody on its People page first, or delete it.")
    for membership in Membership.objects.filter(person=person, production__removed=None):
        take_out(membership)
    Preferences.objects.filter(person=person).delete()
    end_others(person)
    person.username, person.first_name, person.last_name, person.email = f"left-{person.pk}", _LEFT, "", ""
    person.is_active = False
    person.set_unusable_password()
    person.save()
