"""A mouth track: exposures that cover every frame once, and the pins a person set in it."""

from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass
from typing import Any

from ..errors import TrackError
from ..limits import MAX_HOLD, MAX_LEAD


@dataclass(frozen=True)
class Settings:
    """hold: least frames a drawing is shown; lead: frames the mouth comes early; detail: 0 calm to 1 crisp.

    Raises TrackError when one is out of range.
    """

    hold: int = 2
    lead: int = 1
    detail: float = 0.5

    def __post_init__(self) -> None:
        if not 1 <= self.hold <= MAX_HOLD:
            raise TrackError(f"A hold is 1 to {MAX_HOLD} frames.")
        if not 0 <= self.lead <= MAX_LEAD:
            raise TrackError(f"A lead is 0 to {MAX_LEAD} frames.")
        if not 0.0 <= self.detail <= 1.0:
            raise TrackError("Detail goes from 0, calm, to 1, crisp.")


@dataclass(frozen=True)
class Pin:
    """A drawing a person set on frames frame to frame + frames."""

    frame: int
    frames: int
    drawing: str

    @property
    def end(self) -> int:
        """The first frame after it."""
        return self.frame + self.frames


@dataclass(frozen=True)
class Exposure:
    """A drawing shown from frame for frames. sounds: numbers of the reading's sounds it serves."""

    frame: int
    frames: int
    drawing: str
    pinned: bool = False
    sounds: tuple[int, ...] = ()

    @property
    def end(self) -> int:
        """The first frame after it."""
        return self.frame + self.frames

    def to_json(self) -> dict[str, Any]:
        """Plain JSON values."""
        return asdict(self)


def exposure_from_json(document: Mapping[str, Any]) -> Exposure:
    """The exposure a document from to_json stands for."""
    return Exposure(**{**document, "sounds": tuple(document["sounds"])})


def with_pin(pins: Iterable[Pin], new: Pin) -> tuple[Pin, ...]:
    """The pins with one more; older pins give way where it lies over them. TrackError when it has no frame."""
    if new.frames < 1 or new.frame < 0:
        raise TrackError("A pin needs at least one frame, at or after the first.")
    kept = [new]
    for pin in pins:
        if pin.frame < new.frame:
            kept.append(Pin(pin.frame, min(pin.end, new.frame) - pin.frame, pin.drawing))
        if pin.end > new.end:
            start = max(pin.frame, new.end)
            kept.append(Pin(start, pin.end - start, pin.drawing))
    return tuple(sorted(kept, key=lambda pin: pin.frame))


def without_pin(pins: Iterable[Pin], frame: int) -> tuple[Pin, ...]:
    """The pins less the one that covers a frame. TrackError when none does."""
    pins = tuple(pins)
    kept = tuple(pin for pin in pins if not pin.frame <= frame < pin.end)
    if len(kept) == len(pins):
        raise TrackError("There is no pin on this frame.")
    return kept


def check_pins(pins: Iterable[Pin], frames: int, drawings: Iterable[str]) -> tuple[Pin, ...]:
    """The pins in order, when they fit a track of this many frames and this chart. TrackError otherwise."""
    ordered = tuple(sorted(pins, key=lambda pin: pin.frame))
    known = set(drawings)
    end = 0
    for pin in ordered:
        if pin.frames < 1 or pin.frame < end or pin.end > frames:
            raise TrackError(f"The pin at frame {pin.frame} does not fit a track of {frames} frames.")
        if pin.drawing not in known:
            raise TrackError(f"The chart has no drawing “{pin.drawing}”.")
        end = pin.end
    return ordered


def clip_pins(pins: Iterable[Pin], frames: int) -> tuple[Pin, ...]:
    """The pins as far as they lie within a track of this many frames; what lies beyond is left to the caller."""
    return tuple(Pin(p.frame, min(p.end, frames) - p.frame, p.drawing) for p in pins if p.frame < frames)
