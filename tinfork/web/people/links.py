"""Links to watch by, for those who have no account: to a shot or a sequence, for a while, until they are withdrawn."""

from datetime import timedelta

from django.core.signing import BadSignature
from django.db import transaction
from django.db.models import F, QuerySet
from django.utils import timezone

from tinfork.core.errors import TinForkError
from tinfork.web.cleaning import natural
from tinfork.web.productions.actions import checked_name, hold
from tinfork.web.productions.models import Production
from tinfork.web.productions.permissions import Person, check, number_of

from .models import WATCHING, WatchLink

DAYS = (1, 7, 30, 90)
"""For so long a link may be good."""

MOST_OPEN = 200
_WITHDRAWN = "This link was withdrawn. Ask who sent it for another."


def open_links(production: Production) -> "QuerySet[WatchLink]":
    """Return the links by which somebody can watch now."""
    own = production.watch_links.filter(withdrawn=False, until__gt=timezone.now())
    return own.select_related("scene", "sequence", "by")


@transaction.atomic
def make_link(person: Person, production: Production, name: str, to: str, days: str, may_comment: bool) -> WatchLink:
    """Make a link to watch. to: "shot 12" or "sequence 3"."""
    check(person, production, "edit")
    hold(production)
    what, _, number = to.partition(" ")
    known = {"shot": production.scenes, "sequence": production.sequences}.get(what)
    found = known.filter(pk=natural(number) or 0).first() if known is not None else None
    if found is None:
        raise TinForkError("Choose what is watched: a sequence, or a shot.")
    if natural(days) not in DAYS:
        raise TinForkError(
            f"A link is good for {', '.join(map(str, DAYS[:-1]))} or {DAYS[-1]} days; choose one of them."
        )
    if open_links(production).count() >= MOST_OPEN:
        raise TinForkError(f"{MOST_OPEN} links are open already; withdraw some first.")
    return WatchLink.objects.create(
        production=production,
        name=checked_name(name, "link"),
        may_comment=may_comment,
        by_id=number_of(person),
        until=timezone.now() + timedelta(days=int(days)),
        **{"scene" if what == "shot" else "sequence": found},
    )


@transaction.atomic
def withdraw_link(person: Person, production: Production, link: int) -> None:
    """Let nobody watch by a link any more."""
    check(person, production, "edit")
    production.watch_links.filter(pk=link).update(withdrawn=True)


def find_link(token: str) -> WatchLink:
    """Return the link of an address. TinForkError, with a sentence, where nobody can watch by it."""
    try:
        number = int(WATCHING.unsign(token))
    except (BadSignature, ValueError):
        raise TinForkError("This link is not whole. Copy it again, from its first sign to its last.") from None
    found = WatchLink.objects.select_related("production", "scene", "sequence").filter(pk=number).first()
    if found is None or found.withdrawn or found.production.removed or (found.scene and found.scene.removed):
        raise TinForkError(_WITHDRAWN)
    if found.over:
        raise TinForkError("This link is over. Ask who sent it for another.")
    return found


def count_opening(link: WatchLink) -> None:
    """Count that the page of a link was opened."""
    WatchLink.objects.filter(pk=link.pk).update(opened=F("opened") + 1, last_opened=timezone.now())
