"""What a person decided for a range of frames: another mood, settings of its own, a stretch with drawings of its own.

Like pins they belong to a sound and move with it, begin and end on a frame, and where two overlap the later one stands.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from ..errors import TrackError
from ..sound.anchors import SCENE, anchor, spans_of
from ..sound.arrangement import Clip
from .track import Exposure, Settings
from .verbs import Piece

T = TypeVar("T", bound="AnchoredMood | AnchoredSettings | AnchoredStretch | AnchoredIntent | AnchoredEase")


@dataclass(frozen=True)
class AnchoredMood:
    """Frames on which a character is in another mood; chart: the number of another chart whose drawings are shown
    there, 0 for their own."""

    frame: int
    frames: int
    mood: str
    source_id: int = SCENE
    chart: int = 0


@dataclass(frozen=True)
class AnchoredSettings:
    """Frames whose mouths are planned with settings of their own."""

    frame: int
    frames: int
    settings: Settings
    source_id: int = SCENE


@dataclass(frozen=True)
class AnchoredIntent:
    """Frames on which something that looks wrong is meant so; kind: of the check, as tinfork.core.exposure.checks has
    it."""

    frame: int
    frames: int
    kind: str
    source_id: int = SCENE


@dataclass(frozen=True)
class AnchoredEase:
    """Frames whose seams are eased; ease: over how many frames each (tinfork.core.exposure.easing); drawn: whether by a
    drawing between (tinfork.core.exposure.betweens), else both are seen at once."""

    frame: int
    frames: int
    ease: int
    source_id: int = SCENE
    drawn: bool = False


@dataclass(frozen=True)
class Bend:
    """How drawings are stretched and bent, about the mouth's anchor: wide and tall as factors, lean in degrees."""

    wide: float = 1.0
    tall: float = 1.0
    lean: float = 0.0

    def __post_init__(self) -> None:
        if not (0.2 <= self.wide <= 4.0 and 0.2 <= self.tall <= 4.0 and -45.0 <= self.lean <= 45.0):
            raise TrackError("A drawing is stretched by 0.2 to 4 times, and leans by up to 45 degrees.")

    @property
    def transform(self) -> str:
        """As an SVG transform about the mouth's anchor; "" for none."""
        return "" if self == Bend() else f"skewX({-self.lean:g}) scale({self.wide:g} {self.tall:g})"

    def named(self, drawing: str) -> str:
        """Return what a drawing is called that is bent so."""
        return f"{drawing} ({self.wide:g} x {self.tall:g}, {self.lean:g}°)" if self.transform and drawing else drawing


@dataclass(frozen=True)
class AnchoredStretch:
    """Frames with drawings of their own; what is planned runs on underneath. pieces follow one another and cover all of
    them."""

    frame: int
    frames: int
    pieces: tuple[Piece, ...]
    bend: Bend = Bend()
    source_id: int = SCENE

    def exposures(self, first: int, frames: int) -> tuple[Exposure, ...]:
        """Return its drawings where it lies in the scene now, as far as it does."""
        own = ((first + p.at, first + min(p.at + p.frames, frames), p) for p in self.pieces if p.at < frames)
        return tuple(Exposure(a, b - a, p.drawing, True, (), p.chosen) for a, b, p in own)


def within(frame: int, frames: int, of: int) -> range:
    """Return a range of a scene of so many frames. TrackError when it is none."""
    if frames < 1 or frame < 0 or frame >= of:
        raise TrackError("Set in and out first: a range needs at least one frame inside the scene.")
    return range(frame, min(frame + frames, of))


def over(
    things: Sequence[T], own: range, make: Callable[[int, int, int], T] | None, clips: Sequence[Clip], of: int
) -> tuple[T, ...]:
    """Return what holds over ranges, with one more over some frames of the scene, or with None nothing there: older
    ones keep what lies outside. make: takes frame, frames and source_id. A stretch that is cut keeps its drawings."""
    kept: list[T] = []
    for one, span in zip(things, spans_of(things, clips, of), strict=True):
        if span is None:
            kept.append(one)
            continue
        for first, end in ((span.start, min(span.stop, own.start)), (max(span.start, own.stop), span.stop)):
            if end > first:
                kept.append(_cut(one, first - span.start, end - first))
    if make is not None:
        frame, source_id = anchor(own.start, clips)
        kept.append(make(frame, len(own), source_id))
    return tuple(kept)


def _cut(one: T, by: int, frames: int) -> T:
    changed: dict[str, Any] = {"frame": one.frame + by, "frames": frames}
    if isinstance(one, AnchoredStretch):
        spans = ((max(0, p.at - by), min(frames, p.at - by + p.frames), p) for p in one.pieces)
        changed["pieces"] = tuple(replace(p, at=a, frames=b - a) for a, b, p in spans if b > a)
    return replace(one, **changed)


def placed(things: Sequence[T], clips: Sequence[Clip], of: int) -> list[tuple[range, T]]:
    """Return where ranges lie in a scene of so many frames now, in the order they were set; those cut away are left
    out."""
    spans = zip(things, spans_of(things, clips, of), strict=True)
    return [(span, one) for one, span in spans if span is not None]


def on(things: Iterable[tuple[range, T]], frame: int) -> T | None:
    """Return what holds on a frame: of those that overlap the one that was set last."""
    return next((one for span, one in reversed(list(things)) if frame in span), None)
