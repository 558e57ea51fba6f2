"""Pictures that move without sound: animated PNG (W3C PNG, third edition) and GIF (GIF89a)."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Annotated, Any

import av
import numpy as np
from msgspec import Meta
from PIL import Image

from ..shot.stage import Frames, MadeOnce, Picture, Progress
from .options import Options

_COLOURS = 255
"""Of a picture of a GIF; one more lets through what lies under it."""

_SOLID = 128


class FlipOptions(Options, frozen=True):
    """How pictures that move by themselves are played."""

    plays: Annotated[int, Meta(title="Times it plays", description="0 is over and over", ge=0, le=1_000)] = 0


def write_apng(path: Path, frames: Frames, options: FlipOptions, progress: Progress = lambda share: None) -> None:
    """Each picture as long as it is seen, to the millisecond."""
    kind = replace(_APNG, container={"plays": str(options.plays)})
    _write(path, frames, kind, _as_it_is, progress)


def write_gif(path: Path, frames: Frames, options: FlipOptions, progress: Progress = lambda share: None) -> None:
    """Each picture as long as it is seen, to the hundredth of a second, which is all that a GIF knows."""
    # Its container counts how often it is played again: -1 for never, 0 for over and over.
    again = {0: 0, 1: -1}.get(options.plays, options.plays - 1)
    kind = replace(_GIF, container={"loop": str(again)})
    _write(path, frames, kind, lambda picture: _in_few_colours(picture, frames.clear), progress)


@dataclass(frozen=True)
class _Kind:
    """name: of its encoder and of its container; pixels: how its pictures are kept; per_second: what it counts time in;
    final: how long the last picture is seen, as the container takes it."""

    name: str
    pixels: str
    per_second: int
    final: str
    container: dict[str, str] = field(default_factory=dict)
    encoder: dict[str, str] = field(default_factory=dict)


_APNG = _Kind("apng", "rgba", 1000, "{}/1000")

# Pictures differ in their colours' numbers, so that what stayed the same cannot be told by them.
_GIF = _Kind("gif", "pal8", 100, "{}", encoder={"gifflags": "0"})


def _write(
    path: Path, frames: Frames, kind: _Kind, image_of: Callable[[Picture], av.VideoFrame], progress: Progress
) -> None:
    turns, rate = frames.turns(), frames.shot.rate
    edges = [round(frame * kind.per_second / rate) for frame in (*turns, len(frames))]
    container = kind.container | {"final_delay": kind.final.format(edges[-1] - edges[-2])}
    images = MadeOnce(frames, image_of)
    with av.open(str(path), "w", format=kind.name, options=container) as out:
        stream = out.add_stream(kind.name, rate=kind.per_second, options=kind.encoder)
        assert isinstance(stream, av.VideoStream)
        stream.width, stream.height, stream.pix_fmt = frames.look.width, frames.look.height, kind.pixels
        stream.time_base = stream.codec_context.time_base = Fraction(1, kind.per_second)
        for frame, at in zip(turns, edges, strict=False):
            image = images.of(frame)
            image.pts, image.time_base = at, stream.time_base
            out.mux(stream.encode(image))
            progress(frame / len(frames))
        out.mux(stream.encode(None))


def _as_it_is(picture: Picture) -> av.VideoFrame:
    return av.VideoFrame.from_ndarray(picture, format="rgba")


def _in_few_colours(picture: Picture, clear: bool) -> av.VideoFrame:
    """A picture in the colours that suit it best; what is more clear than solid is clear. clear: whether others let
    something through; then a corner of this does too, as otherwise it would stay under the next."""
    few = Image.fromarray(picture).convert("RGB").quantize(_COLOURS, dither=Image.Dither.NONE)
    numbers = np.array(few)
    numbers[picture[..., 3] < _SOLID] = _COLOURS
    if clear:
        numbers[0, 0] = _COLOURS
    colours = np.array(few.getpalette("RGB"), np.uint8).reshape(-1, 3)
    palette = np.zeros((256, 4), np.uint8)  # alpha, red, green, blue
    palette[: len(colours), 1:] = colours
    palette[:_COLOURS, 0] = 255
    both: Any = (numbers, palette)
    return av.VideoFrame.from_ndarray(both, format="pal8")
