"""Trying a pronunciation before it is kept: what it could be, how it sounds, and the mouths it gives."""

import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any

from tinfork.core.errors import ScriptError
from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.track import Settings
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.draw import mouth_svg
from tinfork.core.speech import espeak, pronounce, scratch
from tinfork.core.speech.phones import ipa_text, parse_ipa
from tinfork.core.speech.reading import Sound
from tinfork.core.speech.words import Token

_VOWEL_SECONDS, _CONSONANT_SECONDS, _AROUND_SECONDS = 0.16, 0.09, 0.25
_RATE = Fraction(24)
_VOWELS = set("aeiouyæɑɒɔəɛɜɝɚɪʊʌøœɐɨᵻ")
_MOST_LETTERS = 60


def candidates(word: str, language: str, respelled: str = "") -> list[str]:
    """Return ways a word may be said, in IPA: dictionary variants, then guesses; or what a respelling says."""
    code = espeak.check_language(language)
    spelling = (respelled or word).strip()[:_MOST_LETTERS]
    if not spelling:
        raise ScriptError("Type the word as it sounds, in plain letters.")
    found: dict[str, None] = {}
    if not respelled:
        spoken = pronounce.pronounce([Token(spelling, (spelling,), code)])[0]
        found.update(dict.fromkeys(ipa_text(variant) for variant in (spoken.variants if spoken else ())))
    plain = spelling.replace("-", " ") if respelled else spelling
    for voice in (code, "en") if not respelled else (code,):
        guess = espeak.pronounce((plain,), voice)[0]
        if guess:
            found[ipa_text(guess)] = None
    return list(found)


def mouths(ipa: str) -> dict[str, Any]:
    """Return the mouths a pronunciation gives at 24 fps: pictures by name, and which is shown on each frame."""
    at = _AROUND_SECONDS
    sounds = []
    for sound, stress in parse_ipa(ipa):
        seconds = _VOWEL_SECONDS if sound[0] in _VOWELS else _CONSONANT_SECONDS
        sounds.append(Sound(sound, at, at + seconds, 1.0, stress))
        at += seconds
    chart = built_in()
    track = plan.plan(curves.curves(sounds, at + _AROUND_SECONDS, _RATE), chart, Settings())
    used = {exposure.drawing for exposure in track}
    return {
        "fps": 24,
        "sounds": [sound.ipa for sound in sounds],
        "pictures": {d.name: mouth_svg(d.place) for d in chart.drawings if d.name in used},
        "frames": [exposure.drawing for exposure in track for _ in range(exposure.frames)],
    }


def spoken(ipa: str) -> bytes:
    """Return a pronunciation spoken by the scratch voice, as WAV."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "word.wav"
        scratch.speak_sounds(path, parse_ipa(ipa))
        return path.read_bytes()
