"""What comes in as text: without NUL, which PostgreSQL cannot keep, and halves of characters; and numbers in it."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, QueryDict

from tinfork.core.errors import TinForkError

MOST = 2**31 - 1
"""No number that a person gives is larger."""


class CleanForms:
    """Takes such signs out of every form and query."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.GET = _cleaned(request.GET)  # type: ignore[assignment]
        if request.method == "POST" and not (request.content_type or "").endswith("/json"):
            request.POST = _cleaned(request.POST)  # type: ignore[assignment]
        return self._get_response(request)


def clean(text: str) -> str:
    """Return a text without what cannot be kept."""
    return text.replace("\0", "").encode("utf-8", "ignore").decode()


def natural(text: str | None) -> int | None:
    """Return a whole number from 0 in plain digits, such as a frame or the number of a line; None where there is
    none."""
    given = (text or "").strip()
    if not given.isascii() or not given.isdigit() or len(given) > len(str(MOST)) or int(given) > MOST:
        return None
    return int(given)


def number_within(text: str, least: float, most: float) -> float:
    """Return the number a person gave. TinForkError, with a sentence, for none, or one that is not from least to
    most."""
    try:
        value = float(text)
    except ValueError:
        raise TinForkError(f"“{text[:20]}” is no number; give one from {least:g} to {most:g}.") from None
    if not least <= value <= most:
        raise TinForkError(f"{value:g} is not from {least:g} to {most:g}.")
    return value


def _cleaned(form: QueryDict) -> QueryDict:
    if all(clean(value) == value for values in form.lists() for value in (values[0], *values[1])):
        return form
    copy = QueryDict(mutable=True)
    for name, values in form.lists():
        copy.setlist(clean(name), [clean(value) for value in values])
    return copy
