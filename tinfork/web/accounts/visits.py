"""Where a person is signed in: kept as somebody signs in, listed on their own page, ended there."""

from typing import Any

from django.contrib.auth.models import User
from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.models import Session
from django.dispatch import receiver
from django.http import HttpRequest

from .models import Visit
from .preferences import theme_of

_MOST_CHARACTERS = 300


@receiver(user_logged_in)
def _begin(request: HttpRequest, user: User, **_: Any) -> None:
    """Note where somebody signs in, and give the page the theme they chose last."""
    session = request.session
    session["theme"] = theme_of(user)
    session.save()
    browser = request.headers.get("User-Agent", "")[:_MOST_CHARACTERS]
    Visit.objects.update_or_create(session_id=session.session_key, defaults={"person": user, "browser": browser})


def end(person: User, visit: int) -> None:
    """Sign a person out where one of their visits is."""
    Session.objects.filter(visit__person=person, visit=visit).delete()


def end_others(person: User, request: HttpRequest | None = None) -> None:
    """Sign a person out everywhere, but for where a request comes from."""
    own = request.session.session_key if request else None
    Session.objects.filter(visit__person=person).exclude(pk=own or "").delete()
