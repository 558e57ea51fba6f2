"""Scratch voices: a synthesiser stands in for an actor until there is one. Programs: eSpeak NG and Flite.

Text reaches them on standard input, cleaned of all that could be mark-up.
"""

import subprocess
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from ..errors import ScriptError
from . import espeak
from .phones import to_arpabet
from .words import is_english, spoken_part

LEAST_RATE, MOST_RATE = 0.5, 2.0
LEAST_PITCH, MOST_PITCH = 0, 99
_WORDS_A_MINUTE = 165
_MOST_CHARACTERS = 2_000
_TIMEOUT_SECONDS = 60

_FLITE = {"slt": "Flite, high", "awb": "Flite, Scottish", "kal16": "Flite, plain", "rms": "Flite, low"}
_ESPEAK = "espeak"

_MNEMONICS = {
    "AA": "A:", "AE": "a", "AH": "V", "AO": "O:", "AW": "aU", "AY": "aI", "B": "b", "CH": "tS", "D": "d", "DH": "D",
    "EH": "E", "ER": "3:", "EY": "eI", "F": "f", "G": "g", "HH": "h", "IH": "I", "IY": "i:", "JH": "dZ", "K": "k",
    "L": "l", "M": "m", "N": "n", "NG": "N", "OW": "oU", "OY": "OI", "P": "p", "R": "r", "S": "s", "SH": "S",
    "T": "t", "TH": "T", "UH": "U", "UW": "u:", "V": "v", "W": "w", "Y": "j", "Z": "z", "ZH": "Z",
}  # fmt: skip

_STRESS = {0: "", 1: "'", 2: ","}


@dataclass(frozen=True)
class Voice:
    """A synthesised voice. name: as a person picks it; code: as speak takes it."""

    code: str
    name: str


def voices(language: str) -> list[Voice]:
    """Return the voices that speak a language: eSpeak NG in every one it knows, Flite in English too."""
    found = [Voice(_ESPEAK, "eSpeak NG")]
    if is_english(language):
        found += [Voice(code, name) for code, name in _FLITE.items()]
    return found


def speak(path: Path, text: str, language: str, voice: str = _ESPEAK, rate: float = 1.0, pitch: int = 50) -> None:
    """Write a line as WAV. rate: 1 is the voice's own, 2 twice as fast; pitch: 0 to 99, 50 the voice's own.

    Directions in brackets are not spoken. ScriptError for what cannot be spoken or set.
    """
    language = espeak.check_language(language)
    words = espeak.cleaned(spoken_part(text))[:_MOST_CHARACTERS]
    if not words:
        raise ScriptError("There are no words to speak; type them first.")
    if not LEAST_RATE <= rate <= MOST_RATE or not LEAST_PITCH <= pitch <= MOST_PITCH:
        raise ScriptError(
            f"A voice speaks at {LEAST_RATE:g} to {MOST_RATE:g} times its own rate, at pitch {LEAST_PITCH} to "
            f"{MOST_PITCH}."
        )
    if voice not in {known.code for known in voices(language)}:
        raise ScriptError("This voice does not speak the line's language; choose another.")
    if voice == _ESPEAK:
        _espeak(path, words, language, rate, pitch)
    else:
        # Flite's own voices lie around 100 to 200 Hz; pitch 50 leaves them alone.
        settings = ["--setf", f"duration_stretch={1 / rate:.3f}", "--setf", f"f0_shift={2 ** ((pitch - 50) / 50):.3f}"]
        _run(["flite", "-voice", voice, *settings, "-f", "/dev/stdin", "-o", str(path)], words)


def speak_sounds(path: Path, sounds: Sequence[tuple[str, int]], rate: float = 0.8) -> None:
    """Write a pronunciation as WAV: ((ipa, stress), ...), each sound as the nearest an English voice has."""
    spoken = "".join(_STRESS[stress] + _MNEMONICS[phone] for ipa, stress in sounds for phone in to_arpabet(ipa))
    _espeak(path, f"[[{spoken}]]", "en-us", rate, 50)


def _espeak(path: Path, text: str, language: str, rate: float, pitch: int) -> None:
    voice = "en-us" if language == "en" else language
    speed = str(round(_WORDS_A_MINUTE * rate))
    _run(["espeak-ng", "-v", voice, "-s", speed, "-p", str(pitch), "-w", str(path), "--stdin"], text)


def _run(command: list[str], text: str) -> None:
    try:
        done = subprocess.run(
            command, input=text + "\n", text=True, capture_output=True, timeout=_TIMEOUT_SECONDS, check=False
        )
    except FileNotFoundError:
        raise ScriptError(f"The program {command[0]} is missing; run script/start, which installs it.") from None
    except subprocess.TimeoutExpired:
        raise ScriptError("Speaking this took too long; give fewer words at a time.") from None
    if done.returncode:
        raise ScriptError("The voice could not speak this; choose another voice or change the words.")
