"""The core's values as plain JSON values, and back: one way for all that is kept or handed on.

A value's own fields and types say what its document holds, so they are also what a document is checked against.
"""

from typing import Any, TypeVar

import msgspec

from .errors import DocumentError

T = TypeVar("T")


def plain(value: Any) -> Any:
    """Return dicts, lists, texts, numbers, booleans and None, which restore takes back unchanged.

    >>> plain(Pin(3, 2, "ah"))
    {'frame': 3, 'frames': 2, 'drawing': 'ah', 'pinned': True}
    """
    return msgspec.json.decode(msgspec.json.encode(value))


def restore(document: Any, kind: type[T]) -> T:
    """Return the value of a kind that a document holds. DocumentError, with the place, when it holds something else."""
    try:
        return msgspec.convert(document, kind, str_keys=True)
    except msgspec.ValidationError as amiss:
        raise DocumentError(f"What was kept here cannot be read ({amiss}); bring back a copy of it.") from None
