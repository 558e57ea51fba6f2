"""Sounds are IPA. This module is the door to and from the ARPAbet of the English model and its dictionary.

A sound with no counterpart in the English model is stood in for by the nearest phone in articulatory feature
distance (Mortensen et al. 2016, PanPhon).
"""

import functools
import unicodedata
from collections.abc import Iterable

import panphon.distance

from ..errors import ScriptError

ARPABET_TO_IPA = {
    "AA": "ɑ", "AE": "æ", "AH": "ʌ", "AO": "ɔ", "AW": "aʊ", "AY": "aɪ", "B": "b", "CH": "tʃ", "D": "d",
    "DH": "ð", "EH": "ɛ", "ER": "ɝ", "EY": "eɪ", "F": "f", "G": "ɡ", "HH": "h", "IH": "ɪ", "IY": "i",
    "JH": "dʒ", "K": "k", "L": "l", "M": "m", "N": "n", "NG": "ŋ", "OW": "oʊ", "OY": "ɔɪ", "P": "p",
    "R": "ɹ", "S": "s", "SH": "ʃ", "T": "t", "TH": "θ", "UH": "ʊ", "UW": "u", "V": "v", "W": "w",
    "Y": "j", "Z": "z", "ZH": "ʒ",
}  # fmt: skip

_IPA_TO_ARPABET = {ipa: arpabet for arpabet, ipa in ARPABET_TO_IPA.items()} | {
    "ə": "AH", "ɐ": "AH", "ɚ": "ER", "ɜ": "ER", "ɝ": "ER", "ᵻ": "IH", "ɨ": "IH", "ɾ": "D", "r": "R", "ɫ": "L",
    "ɒ": "AA", "a": "AA", "o": "OW", "e": "EY", "ɔː": "AO", "ɡ": "G", "g": "G", "əl": "AH L", "n̩": "AH N",
    "x": "HH", "ç": "HH", "ʔ": "T", "əʊ": "OW", "ɪə": "IH R", "eə": "EH R", "ʊə": "UH R", "ɪɹ": "IH R",
    "ɛɹ": "EH R", "ɑːɹ": "AA R", "ɑɹ": "AA R", "ɔːɹ": "AO R", "ɔɹ": "AO R", "ʊɹ": "UH R", "oːɹ": "AO R",
    "oɹ": "AO R", "aɪɚ": "AY ER", "aɪə": "AY AH", "iə": "IY AH", "ts": "T S", "dz": "D Z",
}  # fmt: skip

_STRESS = {"ˈ": 1, "ˌ": 2}
_LENGTH = ("ː", "ˑ", "ʰ", "ʲ")
_TYPED = {ord(":"): "ː", ord("'"): "ˈ", 0x361: None, 0x35C: None}
_DROPPED = set("ːˑʰʲˠˤʷ̪̩̯̃͡‿ˈˌ")


def from_arpabet(symbol: str) -> tuple[str, int]:
    """Return a dictionary symbol such as "OW1" as (IPA, stress): 1 primary, 2 secondary, 0 none."""
    base, mark = symbol.rstrip("012"), symbol[-1]
    stress = int(mark) if mark.isdigit() else 0
    if stress == 0 and base in ("AH", "ER"):
        return {"AH": "ə", "ER": "ɚ"}[base], 0
    return ARPABET_TO_IPA[base], stress


def split_stress(marked: str) -> tuple[str, int]:
    """IPA with its stress mark taken off: "ˈuː" -> ("uː", 1)."""
    stress = next((value for mark, value in _STRESS.items() if mark in marked), 0)
    return "".join(c for c in marked if c not in _STRESS), stress


def parse_ipa(text: str) -> tuple[tuple[str, int], ...]:
    """IPA as a person types it, as sounds with their stress: "ˈskɛɹɪk" -> (("s", 1), ("k", 0), ...).

    Stress marks the next vowel's syllable; spaces, dots and slashes are passed over. ScriptError at what is no IPA.
    """
    found: list[tuple[str, int]] = []
    stress, at = 0, 0
    cleaned = unicodedata.normalize("NFC", text.strip().strip("/[]"))[:200].translate(_TYPED)
    while at < len(cleaned):
        if cleaned[at] in _STRESS:
            stress = _STRESS[cleaned[at]]
        elif cleaned[at] not in " .‿|-":
            sound = _sound_at(cleaned, at)
            found.append((sound, stress if is_vowel(sound) else 0))
            stress = 0 if is_vowel(sound) else stress
            at += len(sound) - 1
        at += 1
    if not found:
        raise ScriptError("There is no sound in this; type the word's sounds in IPA, such as skɛɹɪk.")
    return tuple(found)


def ipa_text(sounds: Iterable[tuple[str, int]]) -> str:
    """Return sounds with their stress as text that parse_ipa reads back."""
    return " ".join({0: "", 1: "ˈ", 2: "ˌ"}[stress] + ipa for ipa, stress in sounds)


def _sound_at(text: str, at: int) -> str:
    """The longest sound that begins at a place, with the marks that follow it."""
    known = (text[at : at + n] for n in range(4, 0, -1))
    sound = next((s for s in known if s in _IPA_TO_ARPABET and " " not in _IPA_TO_ARPABET[s]), "")
    if not sound:
        segments = load_features().fm.ipa_segs(text[at : at + 4])
        if not segments or not text.startswith(segments[0], at):
            raise ScriptError(f"“{text[at]}” is no IPA sign; use the keyboard beside the field, or respell the word.")
        sound = str(segments[0])
    end = at + len(sound)
    while end < len(text) and (unicodedata.category(text[end]) == "Mn" or text[end] in _LENGTH):
        end += 1
    return text[at:end]


def is_vowel(sound: str) -> bool:
    """Return whether a sound in IPA is a vowel or a diphthong."""
    return any(to_arpabet(sound)[0].startswith(v) for v in "AEIOU")


def plain(ipa: str) -> str:
    """Return the sound without length, stress and secondary articulation: "uː" -> "u"."""
    decomposed = unicodedata.normalize("NFD", ipa)
    kept = "".join(c for c in decomposed if c not in _DROPPED)
    return unicodedata.normalize("NFC", kept)


@functools.cache
def to_arpabet(ipa: str) -> tuple[str, ...]:
    """Return the English model's phones that stand for one IPA sound; one or more, never none."""
    for form in (ipa, plain(ipa)):
        if form in _IPA_TO_ARPABET:
            return tuple(_IPA_TO_ARPABET[form].split())
    segments = load_features().fm.ipa_segs(plain(ipa)) or ["ə"]
    return tuple(_nearest(segment) for segment in segments)


@functools.cache
def nearest_of(ipa: str, candidates: tuple[str, ...]) -> str:
    """Return the candidate sound whose articulatory features are closest to this one."""
    distance = load_features().weighted_feature_edit_distance
    return min(candidates, key=lambda other: distance(plain(ipa) or "ə", other))


def _nearest(segment: str) -> str:
    if segment in _IPA_TO_ARPABET and " " not in _IPA_TO_ARPABET[segment]:
        return _IPA_TO_ARPABET[segment]
    single = tuple(i for i, a in _IPA_TO_ARPABET.items() if " " not in a and len(load_features().fm.ipa_segs(i)) == 1)
    return _IPA_TO_ARPABET[nearest_of(segment, single)]


@functools.cache
def load_features() -> panphon.distance.Distance:
    """Return the articulatory features of every sound of the IPA; loaded once, in some seconds."""
    return panphon.distance.Distance()


KEYBOARD = (
    ("ˈ", "ˌ", "ː"),
    ("i", "ɪ", "e", "ɛ", "æ", "a", "ɑ", "ɒ", "ɔ", "o", "ʊ", "u", "ʌ", "ə", "ɜ", "y", "ø", "œ"),
    ("aɪ", "aʊ", "eɪ", "oʊ", "ɔɪ"),
    ("p", "b", "m", "f", "v", "w", "θ", "ð", "t", "d", "n", "s", "z", "l", "ɹ", "r", "ɾ"),
    ("ʃ", "ʒ", "tʃ", "dʒ", "j", "ç", "k", "ɡ", "ŋ", "x", "h"),
)
"""The signs of an IPA keyboard, in rows: marks, vowels, diphthongs, consonants from the lips to the throat."""
