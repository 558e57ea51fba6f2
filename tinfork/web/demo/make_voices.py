"""Makes the demo's sound files with the free synthesisers: python -m tinfork.web.demo.make_voices

One FLAC for each character of each scene, silent while the others speak, so that all lie on one time line; or one for
all of them where they were recorded together.
"""

import subprocess
import tempfile
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

from .scenario import CAST, SCENES, CastMember, Said, SceneText

FOLDER = Path(__file__).parent / "voices"
_RATE = 22_050
_PEAK = 0.6
_SHOUTED = 4.0
_TAIL_SECONDS = 0.6


def voice_file(scene: SceneText, member: CastMember | None) -> Path:
    """Return where the sound of a character in a scene is kept; of everybody, where they were recorded together."""
    return FOLDER / (f"{scene.slug}-{member.name.lower()}.flac" if member else f"{scene.slug}.flac")


def make_all() -> None:
    """Speak every scene and write its files."""
    for scene in SCENES:
        _make(scene)


def _make(scene: SceneText) -> None:
    people = {member.name: member for member in CAST}
    placed: list[tuple[str, int, NDArray[np.float32]]] = []
    end = 0.0
    for line in scene.lines:
        spoken = _trim(_speak(people[line.who], line))
        start = max(0.0, end + line.after)
        placed.append((line.who, round(start * _RATE), spoken))
        end = start + len(spoken) / _RATE
    length = round((end + _TAIL_SECONDS) * _RATE)
    for name in ["everybody"] if scene.together else sorted({line.who for line in scene.lines}):
        track = np.zeros(length, np.float32)
        for who, start, spoken in placed:
            if scene.together or who == name:
                track[start : start + len(spoken)] += spoken
        soundfile.write(voice_file(scene, people.get(name)), track, _RATE, subtype="PCM_16")


def _voice(member: CastMember, language: str) -> tuple[str, ...]:
    """The member's voice, in another language where the line has one and the synthesiser speaks it."""
    return tuple(language if language and part == "en-us" else part for part in member.voice)


def _speak(member: CastMember, line: Said) -> NDArray[np.float32]:
    command, text = _voice(member, line.language), line.spoken or line.text
    slower = member.formants
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "line.wav"
        ask = ["-w", str(path), text]
        if command[0] == "flite":
            ask = ["--setf", f"duration_stretch={slower}", "-t", text, "-o", str(path)]
        subprocess.run([*command, *ask], check=True)
        samples, rate = soundfile.read(path, dtype="float32")
    spoken = soxr.resample(samples, rate * member.formants, _RATE)
    if line.held:
        loud = np.convolve(spoken**2, np.ones(_RATE // 40), "same")
        spoken = held(spoken, int(np.quantile(np.flatnonzero(loud > loud.max() / 4), 0.9)), line.held, _RATE)
    spoken = spoken / np.abs(spoken).max()
    return np.asarray(np.clip(_SHOUTED * spoken, -1, 1) if line.shouted else _PEAK * spoken, np.float32)


def held(samples: NDArray[np.float32], at: int, seconds: float, rate: int) -> NDArray[np.float32]:
    """Return a sound that is held at a sample of it for so many seconds more: a few of its periods there, again and
    again."""
    around = round(0.025 * rate)
    own = samples[max(0, at - around) : at + around]
    alike = np.correlate(own, own, "full")[len(own) - 1 :]
    least = rate // 400
    period = int(np.argmax(alike[least : rate // 55])) + least
    size = period * max(1, round(0.03 * rate / period))
    more = np.tile(samples[at : at + size], max(0, round(seconds * rate / size)))
    return np.concatenate([samples[:at], more, samples[at:]])


def _trim(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    loud = np.flatnonzero(np.abs(samples) > 0.01)
    return samples[loud[0] : loud[-1] + 1]


if __name__ == "__main__":
    make_all()
