"""Speech for the tests, spoken by a free synthesiser or made of numbers."""

import subprocess
from fractions import Fraction
from pathlib import Path

import av
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


def encode(path: Path, samples: np.ndarray, codec: str, container: str, rate: int = 48_000) -> Path:
    """Mono sound in a container libsndfile does not know."""
    with av.open(str(path), "w", format=container) as out:
        stream = out.add_stream(codec, rate=rate)
        stream.layout = "mono"
        _mux_sound(out, stream, samples, rate)
    return path


def _mux_sound(out, stream, samples: np.ndarray, rate: int) -> None:
    frame = av.AudioFrame.from_ndarray(samples.astype(np.float32)[None, :], format="flt", layout="mono")
    frame.sample_rate, frame.pts, frame.time_base = rate, 0, Fraction(1, rate)
    fifo = av.AudioFifo()
    fifo.write(frame)
    while (piece := fifo.read(960, partial=True)) is not None:
        out.mux(stream.encode(piece))
    out.mux(stream.encode(None))


def make_film(path: Path, seconds: float = 1.0, container: str = "mp4", rate: int = 24) -> Path:
    """A video whose picture grows lighter frame by frame, with a tone."""
    with av.open(str(path), "w", format=container) as out:
        picture = out.add_stream("mpeg4" if container == "mp4" else "libvpx", rate=rate)
        picture.width, picture.height, picture.pix_fmt = 64, 48, "yuv420p"
        sound = out.add_stream("aac" if container == "mp4" else "libopus", rate=48_000)
        sound.layout = "mono"
        for number in range(int(seconds * rate)):
            shade = np.full((48, 64, 3), min(255, 8 * number), np.uint8)
            out.mux(picture.encode(av.VideoFrame.from_ndarray(shade, format="rgb24")))
        out.mux(picture.encode(None))
        _mux_sound(out, sound, 0.3 * np.sin(np.arange(int(seconds * 48_000)) / 17), 48_000)
    return path


def say(text: str, start: float = 0.5, level: float = 0.9) -> tuple[list[Sound], float]:
    """Sounds as "b:70 'ɑ:120 _:250 t:90" has them, each with its milliseconds, ' before a stressed vowel and _ for
    silence; and how long a recording of them is that ends 0.7 s later."""
    sounds, at = [], start
    for word in text.split():
        ipa, milliseconds = word.rsplit(":", 1)
        end = round(at + int(milliseconds) / 1000, 6)
        if ipa != "_":
            sounds.append(Sound(ipa.removeprefix("'"), at, end, 1.0, int(ipa.startswith("'")), level))
        at = end
    return sounds, round(at + 0.7, 6)
