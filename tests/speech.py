"""Speech for the tests, spoken by a free synthesiser or made of numbers."""

import subprocess
from pathlib import Path

import numpy as np

from tinfork.core.sound.recording import READ_RATE, Recording
from tinfork.core.speech.reading import Sound

LINE = "My left boot went overboard near the lighthouse."


def speak(path: Path, text: str = LINE, voice: str = "slt") -> Path:
    """A WAV of a spoken line."""
    subprocess.run(["flite", "-voice", voice, "-t", text, "-o", str(path)], check=True)
    return path


def recording_of(samples: np.ndarray) -> Recording:
    """A recording of 16 kHz samples."""
    return Recording(samples.astype(np.float32), len(samples) / READ_RATE, READ_RATE)


def noise(seconds: float, level: float = 0.1, seed: int = 1) -> np.ndarray:
    """White noise at 16 kHz."""
    return np.random.default_rng(seed).standard_normal(int(seconds * READ_RATE)) * level


def sounds_of(ipa: list[str], lengths: list[float], start: float = 0.5) -> list[Sound]:
    """Sounds one after the other, surely read."""
    bounds = np.cumsum([start, *lengths])
    return [
        Sound(one, float(a), float(b), 1.0, stress=1) for one, a, b in zip(ipa, bounds[:-1], bounds[1:], strict=True)
    ]
