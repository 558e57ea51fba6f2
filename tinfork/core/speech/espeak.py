"""Pronunciations from eSpeak NG, the program in Debian's package espeak-ng.

Text reaches it on standard input only, with letters and digits left in it and nothing its mark-up could act on.
"""

import functools
import re
import subprocess

from ..errors import ScriptError
from .phones import split_stress

_TIMEOUT_SECONDS = 60
_UNSAFE = re.compile(r"[^\w\s'’.,:%€$£¥+-]", re.UNICODE)
_FOREIGN = re.compile(r"\([\w-]+\)")

Phone = tuple[str, int]


@functools.cache
def languages() -> dict[str, str]:
    """Return language codes eSpeak NG speaks, with their names: {"sv": "Swedish", ...}."""
    found = {}
    for row in _run(["--voices"], "").splitlines()[1:]:
        fields = row.split()
        if len(fields) >= 4:
            found[fields[1].lower()] = fields[3].replace("_", " ")
    return found | {"en": "English", "fr": "French"}


def languages_by_name() -> list[tuple[str, str]]:
    """Return (code, name) of every language, in the order of their names."""
    return sorted(languages().items(), key=lambda item: item[1])


def check_language(code: str) -> str:
    """Return the code itself when it can be spoken. ScriptError otherwise."""
    if code.lower() in languages():
        return code.lower()
    raise ScriptError(
        f"“{code[:20]}” is not a language Tin Fork can pronounce; give a code such as en, es, fr, de or sv."
    )


def pronounce(texts: tuple[str, ...], language: str) -> list[tuple[Phone, ...]]:
    """Return one guess each, as ((ipa, stress), ...); empty where the text has nothing to say.

    All texts go through one run of the program.
    """
    if not texts:
        return []
    asked = [cleaned(text).strip(".,:") for text in texts]
    spoken = [text for text in asked if text]
    guesses = dict(zip(spoken, _speak(spoken, language), strict=True))
    return [guesses.get(text, ()) for text in asked]


def cleaned(text: str) -> str:
    """Return text with letters and digits and nothing the program's mark-up could act on."""
    return " ".join(_UNSAFE.sub(" ", text).split())


def _speak(texts: list[str], language: str) -> list[tuple[Phone, ...]]:
    voice = "en-us" if language == "en" else language
    # A blank line ends a clause, so that no text runs into the next.
    output = _run(["-q", "--ipa", "--sep=_", "-v", voice], "\n\n".join(texts) + "\n")
    rows = [row for row in output.splitlines() if row.strip()]
    if len(rows) != len(texts):
        rows = [" ".join(_run(["-q", "--ipa", "--sep=_", "-v", voice], text).split("\n")) for text in texts]
    return [_phones(row) for row in rows]


def _phones(row: str) -> tuple[Phone, ...]:
    pieces = re.split(r"[_\s]+", _FOREIGN.sub("", row))
    marked = (split_stress(piece.strip("-\u200d")) for piece in pieces)
    return tuple((ipa, stress) for ipa, stress in marked if ipa)


def _run(arguments: list[str], text: str) -> str:
    try:
        done = subprocess.run(
            ["espeak-ng", *arguments], input=text, check=False, capture_output=True, text=True, timeout=_TIMEOUT_SECONDS
        )
    except FileNotFoundError:
        raise ScriptError("The program espeak-ng is missing; run script/start, which installs it.") from None
    except subprocess.TimeoutExpired:
        raise ScriptError("Pronouncing these words took too long; give fewer words at a time.") from None
    return done.stdout
