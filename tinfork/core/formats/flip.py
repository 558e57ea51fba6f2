"""Pictures that move without sound: animated PNG (W3C PNG, third edition) and GIF (GIF89a)."""

import itertools
from pathlib import Path

from PIL import Image

from ..errors import HandoverError
from ..shot.stage import Frames

_MILLISECONDS, _HUNDREDTHS = 1000, 100
MOST_TURNS = 4_000
MOST_PIXELS = 200_000_000
"""So many are held at a time."""


def write_apng(path: Path, frames: Frames) -> None:
    """Each picture as long as it is seen, to the millisecond."""
    _write(path, frames, "PNG", _MILLISECONDS, default_image=False)


def write_gif(path: Path, frames: Frames) -> None:
    """Each picture as long as it is seen, to the hundredth of a second, which is all that a GIF knows."""
    _write(path, frames, "GIF", _HUNDREDTHS, disposal=2, optimize=False)


def _write(path: Path, frames: Frames, kind: str, per_second: int, **options: object) -> None:
    turns = frames.turns()
    edges = [round(frame * per_second / frames.shot.rate) for frame in (*turns, len(frames))]
    spans = [(b - a) * _MILLISECONDS // per_second for a, b in itertools.pairwise(edges)]
    tokens = [frames.token(frame) for frame in turns]
    size = len(set(tokens)) * frames.look.width * frames.look.height
    if len(turns) > MOST_TURNS or size > MOST_PIXELS:
        raise HandoverError("This is too long for an animated picture; choose a film, a range or a smaller size.")
    images = {token: Image.fromarray(frames[frame]) for frame, token in zip(turns, tokens, strict=True)}
    first, *rest = [images[token] for token in tokens]
    with path.open("wb") as out:
        first.save(out, kind, save_all=True, append_images=rest, duration=spans, loop=0, **options)
