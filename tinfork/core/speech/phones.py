"""Sounds are IPA. This module is the door to and from the ARPAbet of the English model and its dictionary.

A sound with no counterpart in the English model is stood in for by the nearest phone in articulatory feature
distance (Mortensen et al. 2016, PanPhon).
"""

import functools
import unicodedata

import panphon.distance

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
_DROPPED = set("ːˑʰʲˠˤʷ̪̩̯̃͡‿ˈˌ")


def from_arpabet(symbol: str) -> tuple[str, int]:
    """A dictionary symbol such as "OW1" as (IPA, stress): 1 primary, 2 secondary, 0 none."""
    base, mark = symbol.rstrip("012"), symbol[-1]
    stress = int(mark) if mark.isdigit() else 0
    if stress == 0 and base in ("AH", "ER"):
        return {"AH": "ə", "ER": "ɚ"}[base], 0
    return ARPABET_TO_IPA[base], stress


def split_stress(marked: str) -> tuple[str, int]:
    """IPA with its stress mark taken off: "ˈuː" -> ("uː", 1)."""
    stress = next((value for mark, value in _STRESS.items() if mark in marked), 0)
    return "".join(c for c in marked if c not in _STRESS), stress


def plain(ipa: str) -> str:
    """The sound without length, stress and secondary articulation: "uː" -> "u"."""
    decomposed = unicodedata.normalize("NFD", ipa)
    kept = "".join(c for c in decomposed if c not in _DROPPED)
    return unicodedata.normalize("NFC", kept)


@functools.cache
def to_arpabet(ipa: str) -> tuple[str, ...]:
    """The English model's phones that stand for one IPA sound; one or more, never none."""
    for form in (ipa, plain(ipa)):
        if form in _IPA_TO_ARPABET:
            return tuple(_IPA_TO_ARPABET[form].split())
    segments = _features().fm.ipa_segs(plain(ipa)) or ["ə"]
    return tuple(_nearest(segment) for segment in segments)


@functools.cache
def nearest_of(ipa: str, candidates: tuple[str, ...]) -> str:
    """The candidate sound whose articulatory features are closest to this one."""
    distance = _features().weighted_feature_edit_distance
    return min(candidates, key=lambda other: distance(plain(ipa) or "ə", other))


def _nearest(segment: str) -> str:
    if segment in _IPA_TO_ARPABET and " " not in _IPA_TO_ARPABET[segment]:
        return _IPA_TO_ARPABET[segment]
    single = tuple(i for i, a in _IPA_TO_ARPABET.items() if " " not in a and len(_features().fm.ipa_segs(i)) == 1)
    return _IPA_TO_ARPABET[nearest_of(segment, single)]


@functools.cache
def _features() -> panphon.distance.Distance:
    return panphon.distance.Distance()
