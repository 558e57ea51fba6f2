"""Bringing long sound in: time to the first waveform, size of the peaks, memory. Each file in a process of its own."""

import multiprocessing
import tempfile
import time
from pathlib import Path

import numpy as np
import soundfile

from tinfork.core.sound import peaks
from tinfork.core.sound.survey import survey

_RATE = 48_000


def importing() -> None:
    """A table: 10 and 60 minutes of stereo at 48 kHz, with pauses as in speech."""
    print(
        f"{'stereo 48 kHz WAV':<20}{'file MB':>9}{'import s':>10}{'peaks MB':>10}{'peaks s':>9}{'peak memory MB':>16}"
    )
    with tempfile.TemporaryDirectory() as folder:
        for minutes in (10, 60):
            path = Path(folder) / f"{minutes}.wav"
            write_speech_like(path, minutes)
            with multiprocessing.get_context("spawn").Pool(1) as alone:
                row = alone.apply(_measure, (path,))
            size = path.stat().st_size / 1e6
            print(
                f"{minutes:>3} minutes {'':<9}{size:9.0f}{row[0]:10.1f}{row[1]:10.2f}{row[2]:9.2f}{row[3]:16.0f}",
                flush=True,
            )
            path.unlink()
    print()


def write_speech_like(path: Path, minutes: int, channels: int = 2, seed: int = 1) -> None:
    """Noise that comes and goes like syllables and phrases."""
    random = np.random.default_rng(seed)
    with soundfile.SoundFile(path, "w", _RATE, channels) as out:
        for _ in range(minutes * 6):
            t = np.arange(10 * _RATE) / _RATE
            loud = np.maximum(0, np.sin(2 * np.pi * 3.7 * t)) * (np.sin(2 * np.pi * 0.2 * t) > -0.3)
            out.write((random.standard_normal((len(t), channels)) * 0.15 * loud[:, None] + 1e-4).astype(np.float32))


def _measure(path: Path) -> tuple[float, float, float, float]:
    with tempfile.TemporaryDirectory() as folder:
        begun = time.perf_counter()
        found = survey(path, Path(folder) / "listen.flac")
        packed = peaks.pack(found.levels)
        seconds = time.perf_counter() - begun
    builder = peaks.Builder()
    block = np.zeros(1 << 16, np.float32)
    begun = time.perf_counter()
    for _ in range(int(found.seconds * 16_000 / len(block))):
        builder.add(block)
    builder.levels()
    drawn = time.perf_counter() - begun
    return seconds, len(packed) / 1e6, drawn, _peak_memory()


def _peak_memory() -> float:
    """The most memory this process has held, in MB; the count begins anew with the program, as getrusage's does not."""
    status = Path("/proc/self/status").read_text()
    return int(status.split("VmHWM:")[1].split()[0]) / 1024
