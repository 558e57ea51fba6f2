"""A long sound in pieces: who listens to it holds only those around what is heard."""

import io
from pathlib import Path

import soundfile

from ..errors import SoundError

SECONDS = 60
"""How long a piece is; as browser/lib/time/pieces.ts knows."""


def piece(path: Path, number: int) -> bytes:
    """Return the so-maniest piece of a listening copy, counted from 0, as FLAC. SoundError when there is none."""
    with soundfile.SoundFile(path) as sound:
        first = number * SECONDS * sound.samplerate
        if not 0 <= first < sound.frames:
            raise SoundError("The sound is shorter than that.")
        sound.seek(first)
        out = io.BytesIO()
        samples = sound.read(SECONDS * sound.samplerate, dtype="int16")
        soundfile.write(out, samples, sound.samplerate, format="FLAC", subtype="PCM_16")
    return out.getvalue()
