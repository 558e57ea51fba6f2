"""Views of a character: from the front, the side or anywhere between, by names that anybody gives them.

Left and right are those of the picture. A view that is named in usual words has an angle, in degrees to the right of
the picture, by which the nearest is found where one is lacking; any other name is a view of its own.
"""

import re
from collections.abc import Collection

FRONT = "front"

ANGLES = {
    FRONT: 0.0,
    "three-quarter left": -45.0,
    "three-quarter right": 45.0,
    "side left": -90.0,
    "side right": 90.0,
    "back": 180.0,
}
"""Views by their usual names."""

_KINDS = {
    "front": r"front",
    "three-quarter": r"three[\s_-]*quarters?|3[_/-]4|3[\s_-]*q|quarter|tq",
    "side": r"side|profile",
    "back": r"back|rear",
}
_SIDES = {"left": r"left|l", "right": r"right|r"}
_WHERE = re.compile(
    r"(?:(?<=^)|(?<=[\s_\-./\\·]))(?:"
    rf"(?:(?P<first>{'|'.join(_SIDES.values())})[\s_-]+)?"
    rf"(?P<kind>{'|'.join(_KINDS.values())})"
    rf"(?:[\s_-]*(?P<side>{'|'.join(_SIDES.values())}))?"
    r")(?=$|[\s_\-./\\·])",
    re.IGNORECASE,
)


def view_in(name: str) -> tuple[str, str]:
    """Return the view that a name speaks of, "" for none, and what is left of the name.

    >>> view_in("happy side left"), view_in("3/4_R open"), view_in("wide open")
    (('side left', 'happy'), ('three-quarter right', 'open'), ('', 'wide open'))
    """
    found = _WHERE.search(name)
    if found is None:
        return "", name
    kind = next(kind for kind, words in _KINDS.items() if re.fullmatch(words, found["kind"], re.IGNORECASE))
    side = found["side"] or found["first"] or "right"
    way = next(way for way, words in _SIDES.items() if re.fullmatch(words, side, re.IGNORECASE))
    rest = f"{name[: found.start()]} {name[found.end() :]}".strip(" _-./\\·")
    return kind if kind in ANGLES else f"{kind} {way}", re.sub(r"\s{2,}", " ", rest)


def opposite(view: str) -> str:
    """Return the view that is another's mirror image; itself for one that has no side."""
    swap = {"left": "right", "right": "left"}
    return " ".join(swap.get(word, word) for word in view.split(" "))


def angle_of(view: str) -> float | None:
    """Return by how many degrees a view looks to the right of the picture; None for one of no usual name."""
    return ANGLES.get(view_in(view)[0] or view)


def nearest_view(view: str, known: Collection[str], mirror: bool = True) -> tuple[str, bool]:
    """Return which of some views stands for one, and whether mirrored: itself, its mirror image, else the one of the
    nearest angle that looks to the same side or can be mirrored to; the front, or any, for one of no angle. mirror:
    whether a mirror image may stand in.

    >>> nearest_view("side left", ["front", "three-quarter right"])
    ('three-quarter right', True)
    """
    if view in known:
        return view, False
    angle = angle_of(view)
    usual = FRONT if FRONT in known else next(iter(known), FRONT)
    if angle is None:
        return usual, False
    tries = []
    for one in known:
        own = angle_of(one)
        if own is not None:
            tries.append((_apart(own, angle), False, one))
            if mirror:
                tries.append((_apart(-own, angle), True, one))
    if not tries:
        return usual, False
    _, mirrored, found = min(tries)
    return found, mirrored


def _apart(one: float, other: float) -> float:
    away = abs(one - other) % 360
    return min(away, 360 - away)


def in_order(views: Collection[str]) -> list[str]:
    """Return views from the front on round to the back, those of no usual name last."""
    return sorted(set(views), key=lambda view: (angle_of(view) is None, abs(angle_of(view) or 0.0), view))


def towards(side: float, far: float, known: Collection[str]) -> list[str]:
    """Return the views a head goes through to look to a side of the picture, the last one the farthest; nothing where
    it has none that looks there. side: -1 for the left; far: how many degrees at the most."""
    own = [(angle_of(view), view) for view in known]
    there = [(abs(angle), view) for angle, view in own if angle is not None and 0 < angle * side <= far]
    return [view for _, view in sorted(there)]
