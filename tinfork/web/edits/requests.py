"""Edits as requests: JSON in, a verb with its values, checked before anything is done."""

import json
import math
from collections.abc import Callable, Mapping
from typing import Any

from django.http import HttpRequest, JsonResponse

from tinfork.core.errors import TinForkError

from .actions import Stale
from .models import Document

Verbs = Mapping[str, tuple[Callable[..., Any], Mapping[str, Callable[[Any], Any]]]]
"""For each verb its action, and how each of its values is read."""

_LONGEST_LIST = 2_000


def whole(value: Any) -> int:
    """A whole number. ValueError otherwise."""
    if isinstance(value, bool) or int(value) != float(value):
        raise ValueError(value)
    return int(value)


def number(value: Any) -> float:
    """A finite number. ValueError otherwise."""
    if isinstance(value, bool) or not math.isfinite(float(value)):
        raise ValueError(value)
    return float(value)


def text(value: Any) -> str:
    """A text as it is. ValueError otherwise."""
    if not isinstance(value, str):
        raise ValueError(value)
    return value.replace("\0", "")


def truth(value: Any) -> bool:
    """True or false. ValueError otherwise."""
    if not isinstance(value, bool):
        raise ValueError(value)
    return value


def optional(kind: Callable[[Any], Any]) -> Callable[[Any], Any]:
    """Nothing, or a value of a kind."""
    return lambda value: None if value is None else kind(value)


def many(kind: Callable[[Any], Any]) -> Callable[[Any], list[Any]]:
    """A list of values of a kind."""

    def read(value: Any) -> list[Any]:
        if not isinstance(value, list) or len(value) > _LONGEST_LIST:
            raise ValueError(value)
        return [kind(one) for one in value]

    return read


def span(value: Any) -> tuple[float, float]:
    """A pair of finite numbers. ValueError otherwise."""
    first, second = value
    return number(first), number(second)


def perform(request: HttpRequest, document: Document, verbs: Verbs) -> None:
    """Do the edit a request asks for: {"verb", "version", ...}. TinForkError when it cannot be understood or done."""
    try:
        asked = json.loads(request.body)
        action, shape = verbs[text(asked["verb"])]
        version = whole(asked["version"])
        values = {name: read(asked.get(name)) for name, read in shape.items()}
    except (ValueError, KeyError, TypeError, OverflowError, AttributeError, RecursionError):
        raise TinForkError("This edit could not be understood; reload the page and do it again.") from None
    action(request.user, document, version, **values)


def answer(do: Callable[[], Any], document: Callable[[], dict[str, Any]]) -> JsonResponse:
    """Do an edit and answer with the document as it is then.

    422 when it cannot be done, 409 when the version is stale; both with a sentence and the document as it is.
    """
    try:
        extra = do()
    except Stale as refused:
        return JsonResponse({"problem": str(refused), "document": document()}, status=409)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused), "document": document()}, status=422)
    return JsonResponse({"document": document(), **(extra if isinstance(extra, dict) else {})})
