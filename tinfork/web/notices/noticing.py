"""What concerns somebody, kept for them and told to their open pages at once."""

from collections.abc import Iterable

from django.db.models import Q, QuerySet
from django.utils import timezone

from tinfork.web.announcing import announce
from tinfork.web.productions.models import Membership, Production, Scene
from tinfork.web.productions.permissions import Person, number_of

from .models import MAX_TEXT_CHARACTERS, Notice

MOST_KEPT = 200
"""So many notices of a person are kept; the oldest go first."""

MOST_SHOWN = 60


def notify(
    people: Iterable[int | None], production: Production, text: str, address: str, scene: Scene | None = None
) -> None:
    """Let some of a production's people know of something; who is not in it any more hears nothing. Part of the
    transaction of what it is about."""
    wanted = {pk for pk in people if pk}
    own = Membership.objects.filter(production=production, person__in=wanted) if wanted else Membership.objects.none()
    told = list(own.values_list("person", flat=True))
    short = text if len(text) <= MAX_TEXT_CHARACTERS else f"{text[: MAX_TEXT_CHARACTERS - 1]}…"
    Notice.objects.bulk_create(
        Notice(person_id=pk, production=production, scene=scene, text=short, address=address) for pk in told
    )
    for pk in told:
        _forget_old(pk)
        announce("notice", person=pk)


def _forget_old(person: int) -> None:
    oldest = Notice.objects.filter(person=person).values_list("pk", flat=True)[MOST_KEPT:][:1].first()
    if oldest:
        Notice.objects.filter(person=person, pk__lte=oldest).delete()


def notices_of(person: Person) -> "QuerySet[Notice]":
    """Return what concerns a person, of what is still there, the newest first."""
    there = Q(scene=None) | Q(scene__removed=None)
    own = Notice.objects.filter(there, person=number_of(person), production__removed=None)
    return own.select_related("production", "scene")


def unseen(person: Person) -> int:
    """Return how much of it they have not seen."""
    return notices_of(person).filter(seen=None).count()


def see(person: Person, number: int = 0) -> None:
    """Say of one notice that its person has seen it; 0: of all."""
    own = Notice.objects.filter(person=number_of(person), seen=None)
    (own.filter(pk=number) if number else own).update(seen=timezone.now())
    announce("notice", person=number_of(person))


def forget(person: int, production: Production) -> None:
    """Forget what a production told somebody who is not in it any more."""
    Notice.objects.filter(person=person, production=production).delete()
