"""Opening any sound: blocks of samples from a file whose content, never its name, decides what it is.

libsndfile decodes WAV, FLAC, OGG, MP3 and AIFF. M4A, AAC, WebM and the sound of a video go through PyAV, and there
only with the one demuxer the first bytes name: no playlist, no list of other files and no guess is ever followed.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from ..errors import SoundError
from ..limits import MAX_CHANNELS, MAX_SOUND_BYTES, MAX_SOUND_SECONDS

FORMATS = {"WAV", "WAVEX", "RF64", "FLAC", "OGG", "MP3", "MPEG", "AIFF", "W64"}
TAKEN = "WAV, FLAC, OGG, MP3, M4A, WebM or a video with sound"
_BLOCK = 1 << 16
_LATEST_BEGINNING = 60.0

Samples = NDArray[np.float32]

_LOUDEST = np.float32(1000)
"""60 dB above full scale: what a file says is louder is no sound."""


@dataclass
class SoundSource:
    """An open sound. rate in Hz; blocks yields (samples, channels) in -1..1, finite; notes fill as it is read."""

    rate: int
    channels: int
    blocks: Iterator[Samples]
    has_picture: bool = False
    notes: list[str] = field(default_factory=list)


@contextmanager
def open_sound(path: Path) -> Iterator[SoundSource]:
    """Open a file for reading once from its start. SoundError says what is wrong with it and what to do."""
    size = path.stat().st_size
    if size == 0:
        raise SoundError("The file is empty; export or record the sound again.")
    if size > MAX_SOUND_BYTES:
        raise SoundError(f"The file is larger than {MAX_SOUND_BYTES // 2**20} MB; cut the sound into scenes first.")
    demuxer = demuxer_of(path)
    if demuxer is None:
        with _plain(path) as source:
            yield source
    else:
        with _contained(path, demuxer) as source:
            yield source


def demuxer_of(path: Path) -> str | None:
    """Return the container PyAV shall read this file as, by its first bytes; None where libsndfile shall try."""
    with path.open("rb") as file:
        head = file.read(16)
    if head[4:8] == b"ftyp":
        return "mov"
    if head[:4] == b"\x1aE\xdf\xa3":
        return "matroska"
    if head[:4] == b"RIFF" and head[8:12] == b"AVI ":
        return "avi"
    if head[:1] == b"\xff" and len(head) > 1 and head[1] & 0xF6 == 0xF0:
        return "aac"
    return None


def _checked(source: SoundSource) -> SoundSource:
    if not 1_000 <= source.rate <= 768_000:
        raise SoundError(f"A sample rate of {source.rate} Hz cannot be right; export the sound again.")
    if not 1 <= source.channels <= MAX_CHANNELS:
        raise SoundError(f"The file has {source.channels} channels; Tin Fork takes up to {MAX_CHANNELS}. Mix it down.")
    source.blocks = _finite(source, source.blocks)
    return source


def _finite(source: SoundSource, blocks: Iterator[Samples]) -> Iterator[Samples]:
    limit, done, strange = MAX_SOUND_SECONDS * source.rate, 0, 0
    for block in blocks:
        done += len(block)
        if done > limit:
            raise too_long(None)
        wrong = ~(np.abs(block) < _LOUDEST)
        if wrong.any():
            strange += int(wrong.sum())
            block = np.where(wrong, np.float32(0), block)  # noqa: PLW2901
        yield block
    if strange:
        source.notes.append(f"{strange:,} samples of the file are no sound; they are silent now. Export it again.")


def too_long(seconds: float | None) -> SoundError:
    """Return the refusal of a sound over the limit."""
    length = f"lasts {seconds / 3600:.1f} hours" if seconds else "is too long"
    most = MAX_SOUND_SECONDS // 60
    return SoundError(f"The sound {length}; Tin Fork takes up to {most} minutes. Cut it into scenes.")


@contextmanager
def _plain(path: Path) -> Iterator[SoundSource]:
    try:
        file = soundfile.SoundFile(path)
    except soundfile.LibsndfileError:
        raise SoundError(f"This is not a sound file Tin Fork can read; give {TAKEN}.") from None
    with file:
        if file.format not in FORMATS:
            raise SoundError(f"{file.format} sound is not read; give {TAKEN}.")
        limit = MAX_SOUND_SECONDS * file.samplerate
        if 0 < limit < file.frames < 2**62 and file.format != "MP3":
            raise too_long(file.frames / file.samplerate)
        source = SoundSource(file.samplerate, file.channels, iter(()))
        source.blocks = _plain_blocks(file, source.notes)
        yield _checked(source)


def _plain_blocks(file: soundfile.SoundFile, notes: list[str]) -> Iterator[Samples]:
    """Blocks until the file ends or breaks off; what breaks off is said in notes."""
    done, broken = 0, False
    while True:
        try:
            block = file.read(_BLOCK, dtype="float32", always_2d=True)
        except soundfile.LibsndfileError:
            broken = True
            break
        if not len(block):
            break
        done += len(block)
        yield block
    if broken or (done < file.frames * 0.999 - file.samplerate and file.frames < 2**62):
        notes.append(_breaks_off(done / file.samplerate))


def _breaks_off(seconds: float) -> str:
    return f"The file breaks off after {seconds:.1f} s; what came before is kept."


@contextmanager
def _contained(path: Path, demuxer: str) -> Iterator[SoundSource]:
    try:
        container = av.open(str(path), format=demuxer, options={"protocol_whitelist": "file"})
    except (av.error.FFmpegError, OSError, ValueError):
        raise SoundError(f"The file is broken: no sound can be got out of it. Export it again as {TAKEN}.") from None
    with container:
        if not container.streams.audio:
            raise SoundError("There is no sound in this file; export the video with its sound.")
        stream = container.streams.audio[0]
        source = SoundSource(int(stream.rate or 0), int(stream.channels or 0), iter(()), bool(container.streams.video))
        source.blocks = _contained_blocks(container, stream, source.notes)
        yield _checked(source)


def _contained_blocks(
    container: av.container.InputContainer, stream: av.AudioStream, notes: list[str]
) -> Iterator[Samples]:
    """Blocks on the picture's time line: sound that begins after the picture is led in by silence."""
    resampler = av.AudioResampler(format="flt", layout=stream.layout, rate=stream.rate)
    channels, done = stream.channels, 0
    try:
        for frame in container.decode(stream):
            if done == 0 and frame.time and 0 < frame.time <= _LATEST_BEGINNING:
                yield np.zeros((round(frame.time * stream.rate), channels), np.float32)
            for piece in resampler.resample(frame):
                block = _samples(piece, channels)
                done += len(block)
                yield block
        for piece in resampler.resample(None):
            yield _samples(piece, channels)
    except (av.error.FFmpegError, OSError, ValueError):
        if not done:
            raise SoundError("The file is broken: no sound can be got out of it. Export it again.") from None
        notes.append(_breaks_off(done / stream.rate))


def _samples(frame: av.AudioFrame, channels: int) -> Samples:
    return np.asarray(frame.to_ndarray(), np.float32).reshape(-1, channels)
