"""Decoding: a sound file as 16 kHz mono for reading, a clean copy for listening, and peaks for drawing.

The file is streamed in blocks, so memory grows only with the 16 kHz mono signal. Its content decides what it is,
never its name. Decoders: libsndfile (WAV, FLAC, OGG, MP3), resampling by soxr.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

from ..errors import SoundError
from ..limits import MAX_SOUND_BYTES, MAX_SOUND_SECONDS, MIN_SOUND_SECONDS

READ_RATE = 16_000
LISTEN_RATE = 48_000
FORMATS = {"WAV", "WAVEX", "RF64", "FLAC", "OGG", "MP3", "MPEG", "AIFF", "W64"}
_BLOCK = 1 << 16
_FULL_SCALE_DB = 35.0

Samples = NDArray[np.float32]


@dataclass(frozen=True)
class Recording:
    """samples: 16 kHz mono in -1..1; seconds: length; rate: the file's own sample rate; notes: sentences."""

    samples: Samples
    seconds: float
    rate: int
    notes: tuple[str, ...] = ()
    _loud: float = field(init=False, default=0.0)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_loud", _loud_rms(self.samples))

    @property
    def peak(self) -> float:
        """The largest magnitude, 0..1 and over where the file clips."""
        return float(np.abs(self.samples).max(initial=0.0))

    def level(self, start: float, end: float) -> float:
        """How loud a stretch is, 0 to 1: 1 at the loud end of this recording, 0 at 35 dB below it."""
        piece = self.samples[int(start * READ_RATE) : max(int(end * READ_RATE), int(start * READ_RATE) + 1)]
        rms = float(np.sqrt(np.mean(piece**2))) if len(piece) else 0.0
        if rms <= 0 or self._loud <= 0:
            return 0.0
        below = 20 * np.log10(self._loud / rms)
        return round(float(np.clip(1 - below / _FULL_SCALE_DB, 0, 1)), 3)


def _loud_rms(samples: Samples) -> float:
    """RMS of the loudest tenth of 25 ms pieces."""
    usable = samples[: len(samples) // 400 * 400].reshape(-1, 400)
    if not len(usable):
        return 0.0
    rms = np.sqrt((usable**2).mean(axis=1))
    return float(np.quantile(rms, 0.9))


def load(path: Path) -> Recording:
    """Decode a file for reading. SoundError says what is wrong with it and what to do."""
    return _decode(path, None)


def load_with_copy(path: Path, copy: Path) -> Recording:
    """Decode a file for reading and write its listening copy: mono FLAC at 48 kHz, in time with the reading."""
    return _decode(path, copy)


def _decode(path: Path, copy: Path | None) -> Recording:
    if path.stat().st_size == 0:
        raise SoundError("The file is empty; export or record the sound again.")
    if path.stat().st_size > MAX_SOUND_BYTES:
        raise SoundError(f"The file is larger than {MAX_SOUND_BYTES // 2**20} MB; cut the sound into scenes first.")
    try:
        with soundfile.SoundFile(path) as source:
            return _read_all(source, copy)
    except soundfile.LibsndfileError:
        raise SoundError("This is not a sound file Tin Fork can read; give WAV, FLAC, OGG or MP3.") from None


def _read_all(source: soundfile.SoundFile, copy: Path | None) -> Recording:
    if source.format not in FORMATS:
        raise SoundError(f"{source.format} sound is not read; give WAV, FLAC, OGG or MP3.")
    if not 1_000 <= source.samplerate <= 768_000:
        raise SoundError(f"A sample rate of {source.samplerate} Hz cannot be right; export the sound again.")
    notes: list[str] = []
    to_read = soxr.ResampleStream(source.samplerate, READ_RATE, 1, dtype="float32")
    to_hear = soxr.ResampleStream(source.samplerate, LISTEN_RATE, 1, dtype="float32")
    listening = soundfile.SoundFile(copy, "w", LISTEN_RATE, 1, "PCM_16", format="FLAC") if copy else None
    pieces, frames = [], 0
    try:
        for block in _blocks(source, notes):
            frames += len(block)
            pieces.append(to_read.resample_chunk(block))
            if listening:
                listening.write(np.clip(to_hear.resample_chunk(block), -1, 1))
        pieces.append(to_read.resample_chunk(np.zeros(0, np.float32), last=True))
        if listening:
            listening.write(np.clip(to_hear.resample_chunk(np.zeros(0, np.float32), last=True), -1, 1))
    finally:
        if listening:
            listening.close()
    seconds = frames / source.samplerate
    if seconds < MIN_SOUND_SECONDS:
        raise SoundError("The file holds no sound to speak of; export or record it again.")
    return Recording(np.concatenate(pieces), seconds, source.samplerate, tuple(notes))


def _blocks(source: soundfile.SoundFile, notes: list[str]) -> Iterator[Samples]:
    """Mono blocks until the file ends or breaks off; what breaks off is said in notes."""
    limit = MAX_SOUND_SECONDS * source.samplerate
    done = 0
    broken = False
    if 0 < limit < source.frames < 2**62 and source.format != "MP3":
        _too_long(source.frames / source.samplerate)
    while True:
        try:
            block = source.read(_BLOCK, dtype="float32", always_2d=True)
        except soundfile.LibsndfileError:
            broken = True
            break
        if not len(block):
            break
        done += len(block)
        if done > limit:
            _too_long(None)
        yield np.nan_to_num(block.mean(axis=1), posinf=0.0, neginf=0.0)
    if broken or (done < source.frames * 0.999 - source.samplerate and source.frames < 2**62):
        notes.append(f"The file breaks off after {done / source.samplerate:.1f} s; what came before is kept.")


def _too_long(seconds: float | None) -> None:
    length = f"lasts {seconds / 3600:.1f} hours" if seconds else "is too long"
    raise SoundError(f"The sound {length}; Tin Fork takes up to {MAX_SOUND_SECONDS // 60} minutes. Cut it into scenes.")
