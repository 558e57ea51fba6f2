"""What follows from a change: what is derived registers here, and is told what was decided before."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from .models import Document

Follower = Callable[[Any, dict[str, Any]], None]
"""Takes the document that was changed, and by their names the parts that were, as they were before."""

Changes = list[tuple[Document, dict[str, Any]]]
"""Documents that were changed, each with its changed parts as they were before."""

_followers: dict[type[Document], list[Follower]] = {}
_changed: ContextVar[Changes | None] = ContextVar("changed", default=None)


def follow(kind: type[Document], follower: Follower) -> None:
    """Let a follower hear of every change to a kind of document, in the transaction that makes it."""
    _followers.setdefault(kind, []).append(follower)


def tell(document: Document, before: dict[str, Any]) -> None:
    """Tell the followers of a document that parts of it have changed."""
    for follower in _followers.get(type(document), ()):
        follower(document, before)
    changed = _changed.get()
    if changed is not None:
        changed.append((document, before))


@contextmanager
def listening() -> Iterator[Changes]:
    """All that is changed inside."""
    found: Changes = []
    token = _changed.set(found)
    try:
        yield found
    finally:
        _changed.reset(token)
