"""Where what lies on a sound is in the scene: places kept in the sound's own time, shown where its clips lie.

An anchored thing names the source_id it belongs to (see arrangement) and its place there, or no source_id at all, and
then it stays where it is in the scene. What lies outside every clip is hidden, and comes back when the clip does.
"""

from collections.abc import Sequence
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from .arrangement import Clip

SCENE = 0
"""The source_id number of what belongs to no sound."""


class Anchored(Protocol):
    """Anything that lies on frames of a sound, or of the scene."""

    @property
    def frame(self) -> int: ...

    @property
    def frames(self) -> int: ...

    @property
    def source_id(self) -> int: ...


def anchor(frame: int, clips: Sequence[Clip]) -> tuple[int, int]:
    """Return a frame of the scene in the sound whose clip covers it, with that sound's source_id; in the scene where
    none does."""
    clip = clip_at(frame, clips)
    return (frame, SCENE) if clip is None else (frame - clip.start + clip.offset, clip.source_id)


def spans_of(things: Sequence[Anchored], clips: Sequence[Clip], frames: int) -> list[range | None]:
    """Return where things lie in a scene of this many frames now; None for what is cut away with its sound."""
    firsts, heard = firsts_of(things, clips)
    there = heard & (firsts >= 0) & (firsts < frames)
    return [
        range(first, min(first + one.frames, frames)) if seen else None
        for one, first, seen in zip(things, firsts.tolist(), there.tolist(), strict=True)
    ]


def firsts_of(things: Sequence[Anchored], clips: Sequence[Clip]) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """Return (things,) the frame of the scene on which each begins, and whether it is not cut away."""
    firsts = np.array([one.frame for one in things], np.int64)
    sources = np.array([one.source_id for one in things], np.int64)
    heard, shifts = sources == SCENE, np.zeros_like(firsts)
    own = set(sources.tolist())
    for clip in clips:
        if clip.source_id in own:
            here = ~heard & (sources == clip.source_id) & (firsts >= clip.offset) & (firsts < clip.offset + clip.frames)
            shifts[here] = clip.start - clip.offset
            heard |= here
    return firsts + shifts, heard


def clip_at(frame: float, clips: Sequence[Clip]) -> Clip | None:
    """Return the clip heard at a frame of the scene, if there is one."""
    return next((c for c in clips if c.start <= frame < c.end), None)


def bound_span(
    start: float | None, end: float | None, clips: Sequence[Clip], fps: float
) -> tuple[float | None, float | None, int]:
    """Return a stretch of the scene, in seconds, as one of the sound that is heard in its middle, with that sound's
    source_id; where nothing is heard it stays the scene's. An end that is not known stays so."""
    clip = clip_at(_middle(start, end) * fps, clips)
    if clip is None or (start is None and end is None):
        return start, end, SCENE
    by = (clip.offset - clip.start) / fps
    return _later(start, by), _later(end, by), clip.source_id


def placed_span(
    start: float | None, end: float | None, source_id: int, clips: Sequence[Clip], fps: float
) -> tuple[float | None, float | None] | None:
    """Return where a stretch kept in the time of its sound is heard in the scene now, in seconds; None where it is
    not."""
    if source_id == SCENE:
        return start, end
    middle = _middle(start, end) * fps
    for clip in clips:
        if clip.source_id == source_id and clip.offset <= middle < clip.offset + clip.frames:
            by = (clip.start - clip.offset) / fps
            return _later(start, by), _later(end, by)
    return None


def _middle(start: float | None, end: float | None) -> float:
    known = [edge for edge in (start, end) if edge is not None]
    return sum(known) / len(known) if known else 0.0


def _later(seconds: float | None, by: float) -> float | None:
    return None if seconds is None else round(seconds + by, 6)
