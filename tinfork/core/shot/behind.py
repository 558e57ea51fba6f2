"""The reference film behind everybody: its picture on each frame of a shot."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
from PIL import Image

from ..errors import HandoverError
from ..sound.decode import demuxer_of

_BACK_SECONDS = 1.0
_INTO = Fraction(1, 3)
"""At the edges of frames, and half way between, films of the usual rates change their pictures."""


@dataclass(frozen=True)
class Strip:
    """A stretch of a film: seen from frame first to before end, from its own second offset on."""

    path: Path
    first: int
    end: int
    offset: float


class Behind:
    """The pictures of strips, as large as they fit into a picture of some pixels; best asked for in order."""

    def __init__(self, strips: Sequence[Strip], rate: Fraction, size: tuple[int, int]) -> None:
        self._strips, self._rate, self._size = list(strips), rate, size
        self._open: tuple[Strip, _Film] | None = None

    def picture(self, frame: int) -> Image.Image | None:
        """Return what is seen a third into a frame; None where there is no film. HandoverError where it cannot be
        read."""
        strip = next((one for one in reversed(self._strips) if one.first <= frame < one.end), None)
        if strip is None:
            return None
        try:
            if self._open is None or self._open[0] is not strip:
                self.close()
                self._open = (strip, _Film(strip.path, self._size))
            return self._open[1].at(strip.offset + float((frame - strip.first + _INTO) / self._rate))
        except (av.error.FFmpegError, OSError, ValueError, IndexError):
            raise HandoverError("The reference film cannot be read; leave it out, or export it again.") from None

    def close(self) -> None:
        """Let go of the film that is open."""
        if self._open:
            self._open[1].close()
        self._open = None


class _Film:
    """A film that is read forward, and from further back where that is asked for."""

    def __init__(self, path: Path, size: tuple[int, int]) -> None:
        self._container = av.open(str(path), format=demuxer_of(path), options={"protocol_whitelist": "file"})
        self._stream = self._container.streams.video[0]
        self._size = size
        self._now: av.VideoFrame | None = None
        self._next: av.VideoFrame | None = None
        self._coming = self._decoded()
        self._seen: tuple[float, Image.Image] | None = None

    def at(self, seconds: float) -> Image.Image | None:
        """Return the last picture that has begun at a time; the first where none has."""
        if self._now is not None and self._time(self._now) > seconds:
            self._back_to(seconds)
        if self._now is None:
            self._now = next(self._coming, None)
            self._next = next(self._coming, None)
        while self._next is not None and self._time(self._next) <= seconds:
            self._now, self._next = self._next, next(self._coming, None)
        return self._fitted(self._now) if self._now is not None else None

    def close(self) -> None:
        """Let go of the file."""
        self._container.close()

    def _decoded(self) -> Iterator[av.VideoFrame]:
        return (picture for picture in self._container.decode(self._stream) if picture.time is not None)

    def _back_to(self, seconds: float) -> None:
        self._container.seek(round(max(0.0, seconds - _BACK_SECONDS) * av.time_base))
        self._coming, self._now, self._next = self._decoded(), None, None

    def _fitted(self, picture: av.VideoFrame) -> Image.Image:
        time = self._time(picture)
        if self._seen is None or self._seen[0] != time:
            share = min(self._size[0] / picture.width, self._size[1] / picture.height)
            width, height = (max(1, round(side * share)) for side in (picture.width, picture.height))
            self._seen = (time, Image.fromarray(picture.reformat(width, height, "rgb24").to_ndarray()))
        return self._seen[1]

    @staticmethod
    def _time(picture: av.VideoFrame) -> float:
        return float(picture.time or 0.0)
