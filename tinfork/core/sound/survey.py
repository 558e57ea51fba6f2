"""Bringing a sound in: one pass over the file makes its listening copy, its peaks and its quality report.

Memory is bounded by the 16 kHz signal in 16 bits, 115 MB for an hour, whatever the file's rate, depth and channels.
"""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

from . import peaks
from .arrangement import MIX
from .decode import Samples, open_sound
from .quality import ClippingMeter, QualityFinding, report
from .recording import READ_RATE, check_length

LISTEN_RATE = 48_000
_NOTHING = np.zeros(0, np.float32)


@dataclass(frozen=True)
class Survey:
    """What one pass over a file finds. seconds, rate in Hz and channels are the file's own; notes are sentences."""

    seconds: float
    rate: int
    channels: int
    has_picture: bool
    notes: tuple[str, ...]
    levels: list[peaks.Level]
    findings: tuple[QualityFinding, ...]


def survey(path: Path, copy: Path, channel: int = MIX) -> Survey:
    """Read a file once. copy: where its listening copy goes, mono FLAC at 48 kHz, in time with the reading.

    channel: one of the file's channels from 0, or MIX. SoundError says what is wrong with it and what to do.
    """
    with open_sound(path) as source:
        if not MIX <= channel < source.channels:
            channel = MIX
        clipping, builder, heard = ClippingMeter(source.rate), peaks.Builder(), bytearray()
        to_read = soxr.ResampleStream(source.rate, READ_RATE, 1, dtype="float32")
        to_hear = soxr.ResampleStream(source.rate, LISTEN_RATE, 1, dtype="float32")
        frames = 0
        with soundfile.SoundFile(copy, "w", LISTEN_RATE, 1, "PCM_16", format="FLAC") as listening:
            for block in source.blocks:
                mono = block.mean(axis=1) if channel == MIX else np.ascontiguousarray(block[:, channel])
                frames += len(mono)
                clipping.add(mono)
                _take(builder, heard, to_read.resample_chunk(mono))
                listening.write(np.clip(to_hear.resample_chunk(mono), -1, 1))
            _take(builder, heard, to_read.resample_chunk(_NOTHING, last=True))
            listening.write(np.clip(to_hear.resample_chunk(_NOTHING, last=True), -1, 1))
        seconds = frames / source.rate
        check_length(seconds)
        samples: NDArray[np.int16] = np.frombuffer(heard, np.int16)
        return Survey(
            seconds,
            source.rate,
            source.channels,
            source.has_picture,
            tuple(source.notes),
            builder.levels(),
            tuple(report(samples, clipping)),
        )


def _take(builder: peaks.Builder, heard: bytearray, samples: Samples) -> None:
    builder.add(samples)
    heard += (np.clip(samples, -1, 1) * 32767).astype(np.int16).tobytes()
