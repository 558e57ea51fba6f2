"""How one drawing becomes the next where it is not cut: eased weights, for rigs and for charts that want it.

A seam that is eased over some frames lies in their middle. They are never more than the shorter of its two exposures
has, so that every drawing is seen whole for a moment, and lips close.
"""

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from ..errors import TrackError
from ..limits import MAX_EASE
from .track import Exposure


@dataclass(frozen=True)
class Blend:
    """A frame on which the exposure after a seam is seen in part: weight is its share, 0 to 1."""

    frame: int
    before: Exposure
    after: Exposure
    weight: float


def check_ease(frames: int) -> None:
    """TrackError where a seam cannot be eased over so many frames."""
    if not 0 <= frames <= MAX_EASE:
        raise TrackError(f"A seam is eased over 0 to {MAX_EASE} frames; 0 is a cut.")


Share = TypeVar("Share", float, NDArray[np.float64])


def smooth(share: Share) -> Share:
    """Return a share of the way, slow at both ends."""
    return share * share * (3.0 - 2.0 * share)


def weight(frame: float, seam: int, frames: int) -> float:
    """Return how much of what comes after a seam is seen in the middle of a frame: from 0 to 1, slow at both ends.

    >>> [round(weight(frame, 10, 4), 3) for frame in range(7, 13)]
    [0.0, 0.043, 0.316, 0.684, 0.957, 1.0]
    """
    share = min(1.0, max(0.0, (frame + 0.5 - seam) / frames + 0.5))
    return smooth(share)


def blends(exposures: Sequence[Exposure], ease: Callable[[int], int]) -> Iterator[Blend]:
    """Yield the frames on which two drawings are seen at once. exposures follow one another; ease: for the frame on
    which a seam lies, over how many frames it is eased."""
    for before, after in itertools.pairwise(exposures):
        frames = min(ease(after.frame), before.frames, after.frames)
        if frames < 2 or before.drawing == after.drawing:
            continue
        for frame in range(after.frame - (frames + 1) // 2, after.frame + (frames + 1) // 2):
            share = weight(frame, after.frame, frames)
            if 0 < share < 1:
                yield Blend(frame, before, after, share)
