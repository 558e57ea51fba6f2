"""The sound of a shot as WAV, with its exposures as cue points and their names as labels (RIFF: cue, adtl labl)."""

import struct
from pathlib import Path

import soundfile

from ..errors import HandoverError
from ..shot.shot import Shot

_MOST_BYTES = 4_000_000_000


def write(path: Path, shot: Shot) -> None:
    """16 bits, at the rate of the sound. Everybody's exposures are cue points; where there are several characters a
    label begins with the name. HandoverError for a shot without sound."""
    if shot.sound is None:
        raise HandoverError("This shot has no sound; hand over another format.")
    with soundfile.SoundFile(shot.sound) as source:
        length = round(shot.frames / shot.rate * source.samplerate)
        with soundfile.SoundFile(path, "w", source.samplerate, source.channels, "PCM_16", format="WAV") as out:
            out.write(source.read(length, dtype="float32", fill_value=0.0))
        points = [
            (round(e.frame / shot.rate * source.samplerate), _label(role.name, e.drawing, len(shot.roles)))
            for role in shot.roles
            for e in role.exposures
        ]
    _append(path, sorted(points))


def _label(name: str, drawing: str, roles: int) -> str:
    return f"{name}: {drawing or 'nothing'}" if roles > 1 else drawing or "nothing"


def _append(path: Path, points: list[tuple[int, str]]) -> None:
    cues = b"".join(struct.pack("<II4sIII", n, at, b"data", 0, 0, at) for n, (at, _) in enumerate(points, 1))
    labels = b"".join(
        _chunk(b"labl", struct.pack("<I", n) + text.encode() + b"\0") for n, (_, text) in enumerate(points, 1)
    )
    more = _chunk(b"cue ", struct.pack("<I", len(points)) + cues) + _chunk(b"LIST", b"adtl" + labels)
    with path.open("r+b") as file:
        size = file.seek(0, 2)
        if size + len(more) > _MOST_BYTES:
            raise HandoverError("This sound is too long for a WAV file; choose a range of it.")
        file.write(more)
        file.seek(4)
        file.write(struct.pack("<I", size + len(more) - 8))


def _chunk(name: bytes, data: bytes) -> bytes:
    return name + struct.pack("<I", len(data)) + data + b"\0" * (len(data) % 2)
