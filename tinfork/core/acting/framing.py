"""How large a character is seen, and what that asks of their acting: near by little is much, from afar small things
are not seen at all."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from .temper import NARROW, ONE_BROW, Temper

_HARDLY = 1e-9


@dataclass(frozen=True)
class Framing:
    """How large somebody is seen. size: by how much more they move for it; unseen: kinds of what nobody sees; darts:
    whether small looks are seen."""

    size: float
    unseen: Sequence[str] = ()
    darts: bool = True


MEDIUM = "medium"
FRAMINGS = {
    "close": Framing(0.55),
    MEDIUM: Framing(1.0),
    "wide": Framing(1.6, (NARROW, ONE_BROW), darts=False),
}
"""Ours, by eye: a face that fills the picture; from the waist up; the whole body."""


def for_framing(temper: Temper, framing: Framing) -> Temper:
    """Return a temper as it is to be seen so large: what nobody sees is done only where nothing else suits."""
    favours = dict(temper.favours) | dict.fromkeys(framing.unseen, _HARDLY)
    return replace(temper, size=temper.size * framing.size, favours=favours)
