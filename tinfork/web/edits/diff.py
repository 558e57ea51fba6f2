"""What changed between two plain JSON values, small enough to keep for every edit, and exact both ways."""

import marshal
from collections.abc import Iterator, Sequence
from typing import Any

_MOST_MOVED = 100

Change = list[Any]
"""[path, old, new]: at a path of keys and numbers one value stands for another; or [path, old, new, at]: in the list
there, from place `at` on, some items stand for others."""


def diff(old: Any, new: Any) -> list[Change]:
    """Return the changes that make one value the other.

    >>> diff({"a": [1, 2, 3], "b": 4}, {"a": [1, 9, 3], "b": 4})
    [[['a'], [2], [9], 1]]
    """
    return list(_changes(old, new, []))


def apply(value: Any, changes: Sequence[Change], back: bool = False, anywhere: bool = False) -> Any:
    """Return the value with the changes made, or taken back. What is not changed is shared with the value given.
    LookupError when the value is not what the changes were made to. anywhere: items of a list may have moved to another
    place in it, if that is the only one where they are."""
    for change in reversed(changes) if back else changes:
        path, old, new, *place = change
        old, new = (new, old) if back else (old, new)
        value = _put(value, path, old, new, place[0] if place else None, anywhere)
    return value


def _changes(old: Any, new: Any, path: list[Any]) -> Iterator[Change]:
    if _same(old, new):
        return
    if isinstance(old, dict) and isinstance(new, dict) and old.keys() == new.keys():
        for key in old:
            yield from _changes(old[key], new[key], [*path, key])
    elif isinstance(old, list) and isinstance(new, list):
        yield from _in_list(old, new, path)
    else:
        yield [path, old, new]


def _in_list(old: list[Any], new: list[Any], path: list[Any]) -> Iterator[Change]:
    shorter = min(len(old), len(new))
    first = next((i for i in range(shorter) if not _same(old[i], new[i])), shorter)
    last = next((i for i in range(shorter - first) if not _same(old[-1 - i], new[-1 - i])), shorter - first)
    before, after = old[first : len(old) - last], new[first : len(new) - last]
    nested = all(isinstance(one, (dict, list)) for one in (*before, *after))
    if len(before) == len(after) > 1 and (by := _moved_up(before, after)):
        yield [path, before[:by], [], first]
        yield [path, [], after[-by:], first + len(before) - by]
    elif len(before) == len(after) and nested:
        for number, (one, other) in enumerate(zip(before, after, strict=True), first):
            yield from _changes(one, other, [*path, number])
    elif before or after:
        yield [path, before, after, first]


def _moved_up(before: list[Any], after: list[Any]) -> int:
    """How many items were taken from the front of a list to which as many were added at its end; 0 where it is not
    so."""
    same = (by for by in range(1, min(len(before), _MOST_MOVED)) if before[by] == after[0])
    return next((by for by in same if _same(before[by:], after[:-by])), 0)


def _same(one: Any, other: Any) -> bool:
    """Whether two values are kept alike: to Python 0, 0.0 and False are equal, however deep they lie."""
    return one is other or (bool(one == other) and (_bytes(one) == _bytes(other) or _of_like_kinds(one, other)))


def _bytes(value: Any) -> bytes:
    """A value as bytes, quickly: the same for what is of the same kinds and has its keys in the same order."""
    return marshal.dumps(value, 2)


def _of_like_kinds(one: Any, other: Any) -> bool:
    """Whether two equal values are of the same kinds all through."""
    if isinstance(one, dict):
        return all(_of_like_kinds(value, other[key]) for key, value in one.items())
    if isinstance(one, list):
        return all(map(_of_like_kinds, one, other))
    return type(one) is type(other)


def _place(items: list[Any], some: list[Any], at: int) -> int:
    """Where some items are in a list: at a place, or the only one where they are. LookupError where there is none."""
    if items[at : at + len(some)] == some:
        return min(at, len(items))
    places = [n for n in range(len(items) - len(some) + 1) if items[n : n + len(some)] == some]
    if len(places) != 1:
        raise LookupError("the items are not there any more")
    return places[0]


def _put(value: Any, path: list[Any], old: Any, new: Any, at: int | None, anywhere: bool) -> Any:
    if path:
        key, *rest = path
        copy = value.copy()
        copy[key] = _put(value[key], rest, old, new, at, anywhere)
        return copy
    if anywhere and at is not None:
        at = _place(value, old, at)
    found = value if at is None else value[at : at + len(old)]
    if found != old:
        raise LookupError("the value is not what was changed")
    return new if at is None else [*value[:at], *new, *value[at + len(old) :]]
