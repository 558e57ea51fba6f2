"""Who guesses wrong too often from one place waits: passwords, codes of telephones, the code of the first person."""

from axes.handlers.proxy import AxesProxyHandler
from django.conf import settings
from django.contrib.auth.signals import user_login_failed
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from tinfork.core.errors import TinForkError

TOO_MANY = "There were too many wrong guesses from here. Wait a quarter of an hour, then try again."


class TooManyGuesses(TinForkError):
    """It is not looked at any more."""

    def __init__(self) -> None:
        super().__init__(TOO_MANY)


def address_of(request: HttpRequest) -> str:
    """Return where a request comes from, as our own front says where one stands before us."""
    own = request.META.get("REMOTE_ADDR", "")
    return str((request.headers.get("X-Real-IP") if settings.BEHIND_FRONT else None) or own)


def locked_out(request: HttpRequest, *_: object, **__: object) -> HttpResponse:
    """Return the page somebody gets who guesses on."""
    return render(request, "trouble.html", {"sentence": TOO_MANY, "status": 429}, status=429)


def check(request: HttpRequest, what: str) -> None:
    """Raise TooManyGuesses when a code of this kind was guessed wrong too often from where the request comes from."""
    if not AxesProxyHandler.is_allowed(request, {"username": what}):
        raise TooManyGuesses


def wrong(request: HttpRequest, what: str) -> None:
    """Count a wrong guess."""
    user_login_failed.send(__name__, credentials={"username": what}, request=request)
