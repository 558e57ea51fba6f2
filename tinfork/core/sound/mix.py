"""Mixing clips down: listening copies laid on the scene's time line, for reading, rendering and hearing."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from .clipped import restored
from .recording import READ_RATE, Recording, Samples, resampled
from .survey import LISTEN_RATE

_BLOCK = 1 << 16


@dataclass(frozen=True)
class SoundPiece:
    """A stretch of a listening copy: heard from start for seconds (scene time), taken from offset in the file.

    gain: a factor. Times in seconds; a start below zero is cut off.
    """

    path: Path
    start: float
    offset: float
    seconds: float
    gain: float = 1.0


def blocks(pieces: Sequence[SoundPiece], seconds: float, begin: float = 0.0) -> Iterator[Samples]:
    """Yield mono blocks at 48 kHz that cover begin to begin + seconds of the scene, silence where no piece lies."""
    total = round(seconds * LISTEN_RATE)
    first = round(begin * LISTEN_RATE)
    files = [(piece, soundfile.SoundFile(piece.path)) for piece in pieces]
    try:
        for start in range(0, total, _BLOCK):
            out = np.zeros(min(_BLOCK, total - start), np.float32)
            for piece, file in files:
                _add(out, first + start, piece, file)
            yield out
    finally:
        for _, file in files:
            file.close()


def _add(out: Samples, at: int, piece: SoundPiece, file: soundfile.SoundFile) -> None:
    """Add what of a piece lies within a block that begins at sample at."""
    begins = round(piece.start * LISTEN_RATE)
    first, last = max(at, begins), min(at + len(out), begins + round(piece.seconds * LISTEN_RATE))
    source = round(piece.offset * LISTEN_RATE) + first - begins
    if first >= last or source >= file.frames:
        return
    file.seek(source)
    heard = file.read(last - first, dtype="float32", always_2d=True)[:, 0]
    out[first - at : first - at + len(heard)] += heard * np.float32(piece.gain)


def recording(pieces: Sequence[SoundPiece], seconds: float, rate: int = LISTEN_RATE) -> Recording:
    """Return the mix as the engine hears it, 16 kHz. rate: the sample rate the sound came with, in Hz."""
    heard = (restored(block, LISTEN_RATE) for block in blocks(pieces, seconds))
    return Recording(resampled(heard, LISTEN_RATE, READ_RATE), seconds, rate)


def write(path: Path, pieces: Sequence[SoundPiece], seconds: float, begin: float = 0.0) -> None:
    """Write the mix as a mono FLAC at 48 kHz."""
    with soundfile.SoundFile(path, "w", LISTEN_RATE, 1, "PCM_16", format="FLAC") as out:
        for block in blocks(pieces, seconds, begin):
            out.write(np.clip(block, -1, 1))
