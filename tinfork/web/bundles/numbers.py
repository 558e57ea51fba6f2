"""Numbers of characters, charts, drawings and sounds where they stand inside what people decided, and in its history.

In the database they are those of rows, in a bundle places in lists; everything else stays as it is.
"""

from collections.abc import Callable, Sequence
from typing import Any

Pattern = tuple[str | int, ...]
"""The path to a number: keys and places; "*" for each of a list."""

Number = Callable[[str, int], int]
"""What stands for a number of a kind."""

_PATTERNS: dict[tuple[str, str], tuple[tuple[str, Pattern], ...]] = {
    ("sound", "body"): (
        ("characters", ("tracks", "*", "character")),
        ("sounds", ("tracks", "*", "clips", "*", "sound")),
    ),
    ("sound", "marks"): (("characters", ("marks", "*", "character")),),
    ("script", "body"): (("characters", ("lines", "*", "character")),),
    ("stave", "moods"): (("charts", ("*", "chart")),),
    ("stave", "basis"): (("drawings", ("*", 2)),),
}


def renumbered(kind: str, parts: dict[str, Any], number: Number) -> dict[str, Any]:
    """Return what people decided of a document of a kind (sound, script, sheet or stave), by its parts."""
    return {name: _in_part(kind, name, value, number) for name, value in parts.items()}


def renumbered_changes(kind: str, changes: dict[str, list[Any]], number: Number) -> dict[str, list[Any]]:
    """Return the changes of an edit, as tinfork.web.edits.diff has them."""
    return {name: [_in_change(kind, name, change, number) for change in own] for name, own in changes.items()}


def _in_part(kind: str, name: str, value: Any, number: Number) -> Any:
    for what, pattern in _PATTERNS.get((kind, name), ()):
        value = _at(value, pattern, lambda old, what=what: number(what, old))  # type: ignore[misc]
    return value


def _in_change(kind: str, name: str, change: Sequence[Any], number: Number) -> list[Any]:
    path, old, new, *at = change
    first = at[0] if at else 0
    for what, pattern in _PATTERNS.get((kind, name), ()):
        if _leads(path, pattern):
            rest = pattern[len(path) :]
            old, new = (_at(value, rest, lambda one, what=what: number(what, one), first) for value in (old, new))  # type: ignore[misc]
    return [path, old, new, *at]


def _leads(path: Sequence[Any], pattern: Pattern) -> bool:
    """Whether a path leads to where a pattern goes on."""
    steps = zip(path, pattern, strict=False)
    return len(path) <= len(pattern) and all(isinstance(a, int) if b == "*" else a == b for a, b in steps)


def _at(value: Any, pattern: Pattern, change: Callable[[int], int], first: int = 0) -> Any:
    """A value with the numbers at a pattern changed. first: the place of its first, where it is a piece of a list."""
    if not pattern:
        return change(value) if isinstance(value, int) and not isinstance(value, bool) else value
    key, rest = pattern[0], pattern[1:]
    if isinstance(value, list):
        return [_at(one, rest, change) if key in ("*", place) else one for place, one in enumerate(value, first)]
    if isinstance(value, dict) and key in value:
        return value | {key: _at(value[key], rest, change)}
    return value
