"""Written lines as words, each with how it is spoken: numbers, money, times and abbreviations in full."""

import re
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass

from num2words import num2words

from ..errors import ScriptError
from ..limits import MAX_SCRIPT_CHARACTERS

ABBREVIATIONS = {
    "mr": "mister", "mrs": "missus", "dr": "doctor", "st": "saint", "vs": "versus",
    "etc": "et cetera", "approx": "approximately", "capt": "captain", "lt": "lieutenant", "sgt": "sergeant",
}  # fmt: skip
_SYMBOLS = {"&": "and", "%": "percent", "+": "plus", "@": "at", "=": "equals"}
_CURRENCIES = {"$": ("dollar", "cent"), "£": ("pound", "penny"), "€": ("euro", "cent")}
_SCRIPTS = {
    "CYRILLIC": "ru", "GREEK": "el", "ARABIC": "ar", "HEBREW": "he", "DEVANAGARI": "hi", "CJK": "cmn",
    "HIRAGANA": "ja", "KATAKANA": "ja", "HANGUL": "ko", "GEORGIAN": "ka", "ARMENIAN": "hy", "BENGALI": "bn",
    "TAMIL": "ta",
}  # fmt: skip
_MAX_DIGITS = 15
_STAMMER = re.compile(r"(?:[^\W\d_]{1,3}-)+[^\W\d_']+")
_VOWEL = re.compile("[aeiou]")
_DIRECTION = re.compile(r"\[[^\[\]]*\]|\([^()]*\)")


@dataclass(frozen=True)
class Token:
    """A word as it is written and said. text: as written, without its outer punctuation; spoken: the words said;
    language: whose sounds they have."""

    text: str
    spoken: tuple[str, ...]
    language: str


def split_lines(script: str) -> list[str]:
    """Return the lines of a script that are not empty. ScriptError when it is longer than the limit."""
    if len(script) > MAX_SCRIPT_CHARACTERS:
        raise ScriptError(
            f"The script has {len(script):,} characters; one scene takes up to {MAX_SCRIPT_CHARACTERS:,}. Split it."
        )
    return [" ".join(line.split()) for line in script.splitlines() if line.strip()]


def spoken_part(line: str) -> str:
    """Return a line without its bracketed directions, such as (softly) or [to the goat]."""
    return _DIRECTION.sub(" ", line)


def tokens(line: str, language: str) -> list[Token]:
    """Return the speakable words of a line in order; directions, marks, dashes and emoji on their own are left out."""
    found = []
    for written in unicodedata.normalize("NFC", spoken_part(line)).split():
        for piece in re.split(r"[—–…/]+|--+|\.{2,}", written):
            token = _token(piece.replace("’", "'"), language)
            if token:
                found.append(token)
    return found


def _token(written: str, language: str) -> Token | None:
    text = _trim(written)
    if not text:
        return None
    foreign = _language_of(text, language)
    if foreign != language or not is_english(language):
        return Token(text, (text,), foreign)
    plain = unicodedata.normalize("NFKC", text)
    spoken = _in_english(plain, abbreviated=written.endswith(text + "."))
    return Token(text, spoken, language) if spoken else None


def is_english(language: str) -> bool:
    """Return whether the English dictionary serves this language code."""
    return language == "en" or language.startswith("en-")


def _trim(written: str) -> str:
    keep = set("%$£€&+@=")
    start, end = 0, len(written)
    while start < end and not (_speakable(written[start]) or written[start] in keep):
        if written[start] in "'-" and start + 1 < end and written[start + 1].isalnum():
            break
        start += 1
    while end > start and not (_speakable(written[end - 1]) or written[end - 1] in keep or written[end - 1] == "'"):
        end -= 1
    text = written[start:end]
    return text if any(_speakable(c) or c in keep for c in text) else ""


def _speakable(character: str) -> bool:
    return unicodedata.category(character)[0] in "LN" or unicodedata.category(character) in ("Mn", "Mc")


def _language_of(text: str, language: str) -> str:
    if not is_english(language):
        return language
    for character in text:
        if ord(character) > 0x2FF and unicodedata.category(character)[0] == "L":
            return _SCRIPTS.get(unicodedata.name(character, "").split(" ")[0].split("-")[0], language)
    return language


def _in_english(text: str, abbreviated: bool) -> tuple[str, ...]:
    for pattern, speak in _PATTERNS:
        match = pattern.fullmatch(text)
        if match:
            return tuple(re.findall(r"[\w']+", speak(match)))
    if abbreviated and text.lower() in ABBREVIATIONS:
        return tuple(ABBREVIATIONS[text.lower()].split())
    if re.fullmatch(r"(?:\w\.)+\w\.?", text):
        return tuple(text.replace(".", " ").split())
    if stammered := _stammered(text):
        return stammered
    spaced = "".join(f" {_SYMBOLS[c]} " if c in _SYMBOLS else c for c in text)
    pieces = re.findall(r"\d+|[^\W\d_]+(?:'[^\W\d_]+)*'?|'[^\W\d_]+", spaced)
    return tuple(word for piece in pieces for word in (_count(piece).split() if piece.isdecimal() else [piece]))


def _stammered(text: str) -> tuple[str, ...]:
    """A word that is begun several times, each as "b-boat"; nothing for any other: to re-read is not to stammer."""
    if not _STAMMER.fullmatch(text):
        return ()
    *begun, whole = text.split("-")
    begins = all(whole.lower().startswith(one.lower()) and len(one) < len(whole) for one in begun)
    stammers = len(begun) > 1 or not _VOWEL.search(begun[0].lower())
    return (*(f"{one}-{whole}" for one in begun), whole) if begins and stammers else ()


def _count(digits: str) -> str:
    """Digits in words; a year-like number as the year is said, a very long one digit by digit."""
    if len(digits) > _MAX_DIGITS or (len(digits) > 1 and digits[0] == "0"):
        return " ".join(num2words(int(d)) for d in digits)
    if len(digits) == 4 and 1100 <= int(digits) <= 2099:
        return str(num2words(int(digits), to="year")).replace("-", " ")
    return _cardinal(digits)


def _cardinal(digits: str) -> str:
    return str(num2words(int(digits))).replace("-", " ").replace(",", "")


def _decimal(match: re.Match[str]) -> str:
    whole, part = match[1].replace(",", ""), match[2]
    return f"{_cardinal(whole)} point {' '.join(num2words(int(d)) for d in part)}"


def _clock(match: re.Match[str]) -> str:
    hour, minute = int(match[1]), int(match[2])
    said = "o'clock" if minute == 0 else f"oh {num2words(minute)}" if minute < 10 else num2words(minute)
    return f"{num2words(hour)} {said} {' '.join(match[3] or '')}".replace("-", " ")


def _ordinal(match: re.Match[str]) -> str:
    return str(num2words(int(match[1]), to="ordinal")).replace("-", " ").replace(",", "")


def _money(match: re.Match[str]) -> str:
    unit, small = _CURRENCIES[match[1]]
    whole, part = match[2].replace(",", ""), match[3]
    said = f"{_cardinal(whole)} {unit}{'' if int(whole) == 1 else 's'}"
    if part and int(part):
        pence = {"penny": "pence"}.get(small, small + "s")
        said += f" {num2words(int(part))} {small if int(part) == 1 else pence}"
    return said.replace("-", " ").replace(",", "")


_PATTERNS: list[tuple[re.Pattern[str], Callable[[re.Match[str]], str]]] = [
    (re.compile(r"([$£€])(\d[\d,]{0,14})(?:\.(\d\d))?", re.ASCII), _money),
    (re.compile(r"([01]?\d|2[0-3])[:.]([0-5]\d)(am|pm)?", re.ASCII), _clock),
    (re.compile(r"(\d[\d,]{0,14})\.(\d{1,15})", re.ASCII), _decimal),
    (re.compile(r"(\d{1,6})(?:st|nd|rd|th)", re.ASCII | re.IGNORECASE), _ordinal),
    (re.compile(r"(\d{1,3}(?:,\d{3})+)", re.ASCII), lambda m: _cardinal(m[1].replace(",", ""))),
]
