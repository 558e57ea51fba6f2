"""What a body does: it follows its head, a little later, more slowly and less far."""

from collections.abc import Iterable

from ..mouths.parts import FACING
from .lanes import Gesture, Points
from .moves import rounded
from .speech import Speech
from .temper import LEAN, RISE, SHRUG, TILT

TURN = "turn"
_FOLLOWS = frozenset([LEAN, RISE, SHRUG, TILT, TURN])
"""Nods, shakes and narrowed eyes leave a body where it is."""

_LATE_SECONDS, _SLOWER = 0.12, 1.25
_SHARES = {"x": 0.4, "y": 0.3, "turn": 0.3, "size": 0.5}
_BY_FACING = 0.09
"""How far a body goes to a side for each degree its head faces there."""


def of_body(heads: Iterable[Gesture], speech: Speech) -> list[Gesture]:
    """Return what a body does for what its head does."""
    late = speech.frames_of(_LATE_SECONDS)
    found = []
    for one in heads:
        dials: dict[str, Points] = {
            dial: _less(points, _SHARES[dial]) for dial, points in one.dials.items() if dial in _SHARES
        }
        if FACING in one.dials:
            dials["x"] = _less(one.dials[FACING], _BY_FACING)
        if one.kind in _FOLLOWS and dials:
            found.append(Gesture(0, one.kind, one.frame + late, one.line, dials=rounded(dials)))
    return found


def _less(points: Points, share: float) -> Points:
    """The same way less far and more slowly; no two of its places on one frame."""
    found: list[tuple[int, float]] = []
    for at, value in points:
        later = round(at * _SLOWER)
        found.append((max(later, found[-1][0] + 1) if found else later, share * value))
    return tuple(found)
