"""Drawings of several pictures: a cycle that goes on wherever it is seen, or played once and held."""

from dataclasses import dataclass

from ..errors import ChartError
from ..limits import MAX_PHASES


@dataclass(frozen=True)
class Moving:
    """How a drawing moves. pictures: how many it has; each: for how many frames one is shown; once: whether it is
    played from where it begins to be seen, and its last picture held; a cycle goes by the frames of the scene, so that
    it goes on from one exposure to the next.

    Raises ChartError when it is out of range.
    """

    pictures: int
    each: int = 2
    once: bool = False

    def __post_init__(self) -> None:
        if self.pictures > MAX_PHASES:
            raise ChartError(f"A drawing has {MAX_PHASES} pictures at the most; it is too short a time for more.")
        if not 1 <= self.each <= MAX_PHASES:
            raise ChartError(f"Each picture of a drawing is shown for 1 to {MAX_PHASES} frames.")

    def on(self, frame: int, first: int) -> int:
        """Return which of its pictures is seen on a frame, of an exposure that begins on the first.

        >>> cycle = Moving(3, 2)
        >>> [cycle.on(frame, 0) for frame in range(8)]
        [0, 0, 1, 1, 2, 2, 0, 0]
        >>> [Moving(3, 2, once=True).on(frame, 10) for frame in range(10, 18)]
        [0, 0, 1, 1, 2, 2, 2, 2]
        """
        if self.once:
            return min(self.pictures - 1, (frame - first) // self.each)
        return frame // self.each % self.pictures

    def runs(self, first: int, end: int, begins: int) -> list[tuple[int, int, int]]:
        """Return which picture is seen from which frame to before which, of an exposure that begins on a frame."""
        found: list[tuple[int, int, int]] = []
        for frame in range(first, end):
            picture = self.on(frame, begins)
            if found and found[-1][2] == picture:
                found[-1] = (found[-1][0], frame + 1, picture)
            else:
                found.append((frame, frame + 1, picture))
        return found
