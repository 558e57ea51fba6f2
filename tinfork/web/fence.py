"""What keeps a piece of long work that was begun again elsewhere from writing any more: whoever changes something asks
here first, within the transaction of the change."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_holding: ContextVar[Callable[[], None] | None] = ContextVar("fence", default=None)


@contextmanager
def within(hold: Callable[[], None]) -> Iterator[None]:
    """Inside, everything that is changed calls this first. It raises where it must not be."""
    token = _holding.set(hold)
    try:
        yield
    finally:
        _holding.reset(token)


def hold() -> None:
    """Return when what is being done may go on to change something; it stays so until the transaction ends."""
    holding = _holding.get()
    if holding is not None:
        holding()
