"""What is said in a scene by one character, as far as acting goes by it: phrases, and in them words and their accents.

Frames are the scene's.
"""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Said:
    """A word. frame, end: its first frame and the one after its last; accent: how much it stands out, from 1 on
    surely."""

    text: str
    frame: int
    end: int
    accent: float = 0.0


@dataclass(frozen=True)
class Phrase:
    """A line as it is said once. line: its number in the script; text: as it is written."""

    line: int
    text: str
    words: tuple[Said, ...]

    @property
    def frame(self) -> int:
        """The first frame on which something of it is said."""
        return self.words[0].frame

    @property
    def end(self) -> int:
        """The first frame after it."""
        return max(word.end for word in self.words)

    def accented(self, least: float = 0.35) -> list[Said]:
        """Return the words that stand out: those from a score on, and the one that does most."""
        most = max(self.words, key=lambda word: word.accent)
        return [word for word in self.words if word.accent >= least or word is most]


@dataclass(frozen=True)
class Speech:
    """What acting knows of what is said in a scene. phrases: in order; closures: frames on which lips or teeth
    close, in order; frames: of the scene; fps: frames a second."""

    phrases: tuple[Phrase, ...]
    closures: tuple[int, ...]
    frames: int
    fps: float

    def territory(self, number: int) -> range:
        """Return the frames that belong to a phrase by its place, its pauses with them: from the end of the one before
        to its own end; the last has the rest of the scene."""
        first = self.phrases[number - 1].end if number else 0
        end = self.frames if number == len(self.phrases) - 1 else self.phrases[number].end
        return range(min(first, self.phrases[number].frame), max(end, self.phrases[number].end))

    def frames_of(self, seconds: float, least: int = 1) -> int:
        """So many seconds in frames."""
        return max(least, round(seconds * self.fps))


def near(frame: int, sorted_frames: Sequence[int], within: int) -> bool:
    """Return whether one of some frames in order lies no farther from a frame than so many."""
    at = bisect_left(sorted_frames, frame - within)
    return at < len(sorted_frames) and sorted_frames[at] <= frame + within
