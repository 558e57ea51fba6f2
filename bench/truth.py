"""Speech whose sounds are timed by the synthesiser that spoke them."""

import ctypes
import ctypes.util
import functools
import subprocess
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import soxr

from tinfork.core.sound.recording import READ_RATE, Recording
from tinfork.core.speech.phones import from_arpabet, split_stress

FLITE_VOICES = ("awb", "kal16", "rms", "slt")
_FLITE_ODD = {"ax": "ah0"}


@dataclass(frozen=True)
class Phone:
    """ipa is "" for a pause; seconds."""

    ipa: str
    start: float
    end: float


@dataclass(frozen=True)
class Truth:
    """What was spoken: text, sound and the time of every phone."""

    text: str
    recording: Recording
    phones: tuple[Phone, ...]


def flite(text: str, voice: str, stretch: float = 1.0, pitch: float | None = None) -> Truth:
    """Return a line spoken by one of flite's English voices, with its phone durations. stretch: over 1 is slower;
    pitch: in Hz, about which it moves."""
    settings = ["--setf", f"duration_stretch={stretch}"]
    settings += ["--setf", f"int_f0_target_mean={pitch}"] if pitch else []
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "line.wav"
        done = subprocess.run(
            ["flite", "-voice", voice, *settings, "-psdur", "-t", text, "-o", str(path)],
            capture_output=True,
            text=True,
            check=True,
        )
        samples, rate = soundfile.read(path, dtype="float32")
    phones, start = [], 0.0
    for item in done.stdout.split():
        name, end = item.split(":")
        ipa = "" if name == "pau" else from_arpabet(_FLITE_ODD.get(name, name).upper())[0]
        phones.append(Phone(ipa, start, float(end)))
        start = float(end)
    return Truth(text, _recording(samples, rate), tuple(phones))


class _Event(ctypes.Structure):
    _fields_ = [
        ("type", ctypes.c_int),
        ("unique", ctypes.c_uint),
        ("text_position", ctypes.c_int),
        ("length", ctypes.c_int),
        ("audio_position", ctypes.c_int),
        ("sample", ctypes.c_int),
        ("user_data", ctypes.c_void_p),
        ("id", ctypes.c_char * 8),
    ]


_PHONEME = 7
_CALLBACK = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.POINTER(_Event))


@functools.cache
def _library() -> tuple[ctypes.CDLL, int]:
    library = ctypes.CDLL("libespeak-ng.so.1")
    rate = library.espeak_Initialize(2, 0, None, 1 | 2)
    return library, rate


_VOICELESS_PLOSIVES = "ptkʈcq"
_CLOSED_DB, _LONGEST_CLOSURE = -50.0, 0.15


def espeak(text: str, language: str, words_per_minute: int = 160) -> Truth:
    """Return a line spoken by eSpeak NG, with its phoneme events.

    A voiceless plosive's event comes at its release: its start is moved back to where its closure's silence begins.
    """
    library, rate = _library()
    pieces: list[np.ndarray] = []
    marks: list[tuple[float, str]] = []

    def take(wave, count, event) -> int:  # type: ignore[no-untyped-def]
        if count > 0:
            pieces.append(np.ctypeslib.as_array(wave, (count,)).copy())
        i = 0
        while event[i].type != 0:
            if event[i].type == _PHONEME:
                marks.append((event[i].audio_position / 1000, event[i].id.decode("utf-8", "ignore")))
            i += 1
        return 0

    callback = _CALLBACK(take)
    library.espeak_SetSynthCallback(callback)
    library.espeak_SetVoiceByName(language.encode())
    library.espeak_SetParameter(1, words_per_minute, 0)
    data = text.encode()
    library.espeak_Synth(data, len(data) + 1, 0, 1, 0, 1, None, None)
    library.espeak_Synchronize()
    samples = np.concatenate(pieces).astype(np.float32) / 32768
    named = [(start, _ipa(name)) for start, name in marks]
    times = [
        _closure(samples, rate, start) if ipa[:1] in _VOICELESS_PLOSIVES and ipa else start for start, ipa in named
    ]
    times.append(len(samples) / rate)
    phones = tuple(
        Phone(ipa, start, end) for (_, ipa), start, end in zip(named, times[:-1], times[1:], strict=True) if end > start
    )
    return Truth(text, _recording(samples, rate), phones)


def _closure(samples: np.ndarray, rate: int, release: float) -> float:
    """Where the silence that ends at a release begins."""
    step = rate // 200
    at = int(release * rate)
    least = max(step, at - int(_LONGEST_CLOSURE * rate))
    while at > least and np.sqrt((samples[at - step : at] ** 2).mean()) < 10 ** (_CLOSED_DB / 20):
        at -= step
    return at / rate


def _ipa(name: str) -> str:
    return split_stress(name)[0].strip("_:; ") if name.strip("_:; ") else ""


def _recording(samples: np.ndarray, rate: int) -> Recording:
    return Recording(soxr.resample(samples, rate, READ_RATE).astype(np.float32), len(samples) / rate, rate)
