"""Where a person is signed in: kept as somebody signs in, listed on their own page, ended there."""

from typing import Any

from django.contrib.auth.models import User
from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.models import Session
from django.db.models import QuerySet
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

from tinfork.web.announcing import announce

from .models import Visit
from .preferences import theme_of

_MOST_CHARACTERS = 300


@receiver(user_logged_in)
def _begin(request: HttpRequest, user: User, **_: Any) -> None:
    """Note where somebody signs in, and give the page the theme they chose last."""
    request.session["theme"], request.session["since"] = theme_of(user), str(timezone.now().timestamp())
    note(request, user)


def note(request: HttpRequest, user: User) -> None:
    """Note that a person is signed in where a request comes from; again when their session has another key."""
    session = request.session
    session.save()
    browser = request.headers.get("User-Agent", "")[:_MOST_CHARACTERS]
    Visit.objects.update_or_create(session_id=session.session_key, defaults={"person": user, "browser": browser})


def visits_of(person: User) -> QuerySet[Visit]:
    """Return where a person is signed in now, the last first."""
    return Visit.objects.filter(person=person, session__expire_date__gt=timezone.now())


def end(person: User, visit: int) -> None:
    """Sign a person out where one of their visits is."""
    Session.objects.filter(visit__person=person, visit=visit).delete()
    announce("visits", person=person.pk)


def end_others(person: User, request: HttpRequest | None = None) -> None:
    """Sign a person out everywhere, but for where a request comes from."""
    own = request.session.session_key if request else None
    Session.objects.filter(visit__person=person).exclude(pk=own or "").delete()
    announce("visits", person=person.pk)
