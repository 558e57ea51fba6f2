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

from .scenario import CAST, SCENES, CastMember, SceneText

FOLDER = Path(__file__).parent / "voices"
_RATE = 22_050
_PEAK = 0.6
_TAIL_SECONDS = 0.6


def voice_file(scene: SceneText, member: CastMember | None) -> Path:
    """Where the sound of a character in a scene is kept; of everybody, where they were recorded together."""
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
        spoken = _trim(_speak(_voice(people[line.who], line.language), line.text))
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


def _speak(command: tuple[str, ...], text: str) -> NDArray[np.float32]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "line.wav"
        ask = ["-t", text, "-o", str(path)] if command[0] == "flite" else ["-w", str(path), text]
        subprocess.run([*command, *ask], check=True)
        samples, rate = soundfile.read(path, dtype="float32")
    spoken = soxr.resample(samples, rate, _RATE)
    return np.asarray(spoken * (_PEAK / np.abs(spoken).max()), np.float32)


def _trim(samples: NDArray[np.float32]) -> NDArray[np.float32]:
    loud = np.flatnonzero(np.abs(samples) > 0.01)
    return samples[loud[0] : loud[-1] + 1]


if __name__ == "__main__":
    make_all()
