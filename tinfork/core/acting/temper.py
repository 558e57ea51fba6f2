"""How somebody is, as far as it is seen in what they do while they speak: a few dials, and tempers that have names."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

NOD, RISE, TILT, LEAN, NARROW, ONE_BROW, SHAKE, SHRUG = (
    "nod",
    "rise",
    "tilt",
    "lean",
    "narrow",
    "one brow",
    "shake",
    "shrug",
)
ACCENTS = (NOD, RISE, TILT, LEAN, NARROW, ONE_BROW, SHAKE, SHRUG)
"""Kinds of what is done on a stressed word: the head goes down on it; up; to a side, and stays there; forward; the eyes
become narrow; one brow goes up; the head says no; it and the brows say that nobody knows."""


@dataclass(frozen=True)
class Temper:
    """Dials, each 1 for somebody even. size: how far they move; often: on how many words; quick: how fast; restless:
    how often they blink and eyes go elsewhere; favours: what comes to them more easily than to others, by kind."""

    size: float = 1.0
    often: float = 1.0
    quick: float = 1.0
    restless: float = 1.0
    favours: Mapping[str, float] = field(default_factory=dict)


EVEN = "even"
TEMPERS = {
    EVEN: Temper(),
    "calm": Temper(0.7, 0.6, 0.8, 0.75, {TILT: 2.0, NOD: 1.6}),
    "lively": Temper(1.2, 1.6, 1.2, 1.1, {RISE: 2.0, ONE_BROW: 1.6, LEAN: 1.6}),
    "nervous": Temper(0.8, 1.3, 1.5, 1.6, {NARROW: 2.0, ONE_BROW: 1.6, SHAKE: 1.5}),
    "grand": Temper(1.5, 0.8, 0.7, 0.7, {LEAN: 2.2, RISE: 2.0, TILT: 1.6}),
}
"""Ours, by eye."""

_UNKNOWN, _MOST = 3, 4.0
"""So many of each that were kept, and thrown away, are supposed before any was; a kind comes up to so many times as
often for it, or as seldom."""


def liking(learned: Mapping[str, Sequence[int]]) -> dict[str, float]:
    """Return by how much more than others kinds are to be proposed. learned: by kind how often it was kept, and how
    often thrown away or turned down."""
    found = {}
    for kind, (kept, dropped) in learned.items():
        found[kind] = min(_MOST, max(1 / _MOST, (kept + _UNKNOWN) / (dropped + _UNKNOWN)))
    return found
