"""A number for each request, said with a failure and written with whatever the log says of it."""

import logging
import secrets
from collections.abc import Callable
from contextvars import ContextVar

from django.conf import settings
from django.http import HttpRequest, HttpResponse

_NONE = "-"
_number: ContextVar[str] = ContextVar("request_number", default=_NONE)


def number_requests(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Return the middleware that gives them: the number of our own front where one stands before us."""

    def numbered(request: HttpRequest) -> HttpResponse:
        given = request.headers.get("X-Request-ID", "") if settings.BEHIND_FRONT else ""
        # Not taken back afterwards: what is said of a failure is written when all here is left.
        _number.set(given[:12] or secrets.token_hex(6))
        return get_response(request)

    return numbered


def number() -> str:
    """Return the number of the request that is being answered; "-" outside of one."""
    return _number.get()


class WithNumber(logging.Filter):
    """Adds it to what is logged."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Return all passes."""
        record.request_number = number()
        return True
