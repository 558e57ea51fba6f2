"""Where a change touches a document, so that two people who change different things of it are not in each other's way.

A spot is [part, first, end, of]: a part of the document, and of that the frames, or the words, from first to before
end, counted in the sound of that number; None for both: all of it.
"""

from collections.abc import Collection, Iterable, Iterator
from typing import Any

from msgspec.json import encode

Spot = list[Any]

_RESTS_ON = {"line": ("order", "about")}
"""What is named by its place in something else: a line in the order of the lines."""


def spots(part: str, before: Any, after: Any) -> list[Spot]:
    """Return where a part of a document, as plain values, is another than before.

    >>> spots("pins", [], [{"frame": 4, "frames": 2, "drawing": "ah", "source_id": 7}])
    [['pins', 4, 6, 7]]
    """
    before, after = _like(before, after), _like(after, before)
    if isinstance(before, list) and isinstance(after, list):
        return _of_items(part, before, after)
    if isinstance(before, dict) and isinstance(after, dict) and before.keys() == after.keys():
        return [spot for key in before if before[key] != after[key] for spot in _of_field(part, key, before, after)]
    return [[part, None, None, 0]] if before != after else []


def _like(value: Any, other: Any) -> Any:
    """A value; for one that is not there one with nothing in it, if the other is of fields that can be empty."""
    if value is not None or not isinstance(other, dict) or "words" in other:
        return value
    return {key: type(one)() for key, one in other.items()}


def _of_field(part: str, key: str, before: dict[str, Any], after: dict[str, Any]) -> list[Spot]:
    one, other = before[key], after[key]
    if key == "words" and len(one) == len(other):
        return [[part, n, n + 1, 0] for n, (a, b) in enumerate(zip(one, other, strict=True)) if a != b]
    if key in ("start", "end") and part.startswith("line "):
        return []  # Of a line they follow from its words.
    if key == "keys" and isinstance(one, dict) and isinstance(other, dict):
        dials = sorted(one.keys() | other.keys())
        return [s for dial in dials for s in _of_items(f"{part} {dial}", one.get(dial, []), other.get(dial, []))]
    if isinstance(one, list) and isinstance(other, list):
        return _of_items(f"{part} {key}", one, other)
    return [[part, None, None, 0]]


def _of_items(part: str, before: list[Any], after: list[Any]) -> list[Spot]:
    """Items that are there before or after alone, each with the frames it lies on."""
    shorter = min(len(before), len(after))
    first = next((n for n in range(shorter) if before[n] != after[n]), shorter)
    last = next((n for n in range(shorter - first) if before[-1 - n] != after[-1 - n]), shorter - first)
    one, other = before[first : len(before) - last], after[first : len(after) - last]
    # By how they are written: of thousands that moved up by one place, comparing each with each would take a second.
    here, there = ({encode(item): item for item in items} for items in (one, other))
    found = [_of_item(part, here.get(key, there.get(key))) for key in here.keys() ^ there.keys()]
    return found or ([[part, None, None, 0]] if before != after else [])


def _of_item(part: str, item: Any) -> Spot:
    if isinstance(item, dict) and "frame" in item:
        return [part, item["frame"], item["frame"] + item.get("frames", 1), item.get("source_id", 0)]
    if isinstance(item, list) and item and isinstance(item[0], int):  # A key: its frame first, its sound last.
        return [part, item[0], item[0] + 1, item[-1]]
    return [part, None, None, 0]


def meet(ours: Iterable[Spot], theirs: Iterable[Spot]) -> bool:
    """Return whether something is touched by both, or what ours are named by was touched by theirs."""
    own = list(ours)
    others = list(theirs)
    rests = {part for spot in own for part in _named_by(spot[0])}
    return any(other[0] in rests or any(_touch(spot, other) for spot in own) for other in others)


def rest_on(own: Iterable[Spot], moved: Collection[int]) -> bool:
    """Return whether something that is touched lies on sounds that were moved, or it is not known on which it lies."""
    return bool(moved) and any(spot[1] is None or not spot[3] or spot[3] in moved for spot in own)


def _named_by(part: str) -> Iterator[str]:
    yield from _RESTS_ON.get(part.partition(" ")[0], ())


def _touch(one: Spot, other: Spot) -> bool:
    if one[1] is None or other[1] is None:
        return bool(_within(one[0], other[0]) or _within(other[0], one[0]))
    return bool(one[0] == other[0] and one[3] == other[3] and one[1] < other[2] and other[1] < one[2])


def _within(part: str, whole: str) -> bool:
    return part == whole or part.startswith(f"{whole} ")
