"""The first person of an installation: made once, by whoever can read the code that script/start prints."""

import os
import secrets

from django.conf import settings
from django.contrib.auth.forms import UserCreationForm
from django.contrib.auth.models import User
from django.db import connection, transaction
from django.utils.crypto import constant_time_compare

from tinfork.core.errors import TinForkError

from .demo import USERNAME

_LOCK = 8040


class WrongCode(TinForkError):
    """What was given is not the code."""


def nobody_yet() -> bool:
    """Return whether there is nobody but the demo's person."""
    return not User.objects.exclude(username=USERNAME).exists()


def code() -> str:
    """Return what shows that somebody has this machine's data folder before them; made when it is first asked for."""
    path = settings.DATA / "first-person-code"
    try:
        with open(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
            file.write(secrets.token_urlsafe(18))
    except FileExistsError:
        pass
    return path.read_text().strip()


@transaction.atomic
def make_first(form: "UserCreationForm[User]", given: str) -> User:
    """Make the first person of a valid form. TinForkError when the code is another, or when somebody is there."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_LOCK])
    if not nobody_yet():
        raise TinForkError("Somebody is here already; ask them for a way in, or sign in.")
    if not constant_time_compare(given.strip(), code()):
        raise WrongCode("This is not the code that script/start printed; copy it from there.")
    person: User = form.save()
    return person
