"""What a scene asks of what is proposed in it."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from .blinks import USUAL_RATE
from .framing import FRAMINGS, MEDIUM, Framing
from .temper import Temper


@dataclass(frozen=True)
class Wish:
    """What a scene asks of its proposals. rate: blinks a minute; seed: of all that is left to chance; eyes_first: by
    how many frames eyes go before the head; turns: whether the head faces to a side by its dial; temper: of who acts;
    framing: how large they are seen; again: by phrases' lines how often others were asked for; liked: by how much more
    than others kinds were kept."""

    rate: float = USUAL_RATE
    seed: int = 1
    eyes_first: int = 3
    turns: bool = False
    temper: Temper = field(default_factory=Temper)
    framing: Framing = FRAMINGS[MEDIUM]
    again: Mapping[int, int] = field(default_factory=dict)
    liked: Mapping[str, float] = field(default_factory=dict)
