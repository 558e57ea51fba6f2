"""Articulator space and the thirteen named points in it that sounds aim at."""

import functools
from dataclasses import dataclass

from ..speech.phones import nearest_of, plain

ARTICULATORS = (
    "jaw", "width", "rounding", "press", "tuck", "upper_teeth", "lower_teeth", "tongue",
)  # fmt: skip
"""Eight articulators, 0 to 1: jaw opening, lip width, rounding and protrusion, lip press, lower-lip tuck, upper
teeth shown, lower teeth shown, tongue shown. A width of .5 is the relaxed mouth."""

Articulation = tuple[float, ...]


@dataclass(frozen=True)
class Shape:
    """A mouth that others are measured against. place: one value per articulator; visible: how much a viewer misses
    it when it is not shown, 0 to 1."""

    name: str
    place: Articulation
    visible: float
    meaning: str


#                        jaw  wide rnd  prs  tck  upT  loT  tng
_SHAPES = (
    Shape("rest",   (0.02, 0.50, 0.10, 0.25, 0.00, 0.00, 0.00, 0.00), 0.60, "relaxed, closed"),
    Shape("press",  (0.00, 0.48, 0.10, 1.00, 0.00, 0.00, 0.00, 0.00), 1.00, "lips together"),
    Shape("tuck",   (0.10, 0.52, 0.05, 0.30, 1.00, 0.85, 0.00, 0.00), 0.95, "lower lip under upper teeth"),
    Shape("tip",    (0.28, 0.55, 0.05, 0.00, 0.00, 0.75, 0.25, 1.00), 0.60, "tongue between teeth"),
    Shape("lift",   (0.38, 0.52, 0.05, 0.00, 0.00, 0.55, 0.05, 0.75), 0.45, "ajar, tongue tip up"),
    Shape("teeth",  (0.14, 0.62, 0.00, 0.00, 0.00, 0.95, 0.70, 0.00), 0.35, "teeth near together, lips apart"),
    Shape("push",   (0.20, 0.28, 0.60, 0.00, 0.00, 0.85, 0.75, 0.00), 0.60, "teeth together, lips forward"),
    Shape("ajar",   (0.25, 0.50, 0.10, 0.00, 0.00, 0.35, 0.05, 0.10), 0.20, "slightly open, slack"),
    Shape("spread", (0.24, 0.95, 0.00, 0.00, 0.00, 0.80, 0.15, 0.15), 0.70, "narrow opening, corners wide"),
    Shape("half",   (0.52, 0.68, 0.00, 0.00, 0.00, 0.60, 0.10, 0.25), 0.50, "half open"),
    Shape("open",   (1.00, 0.60, 0.05, 0.00, 0.00, 0.50, 0.30, 0.35), 0.80, "wide open"),
    Shape("round",  (0.70, 0.25, 0.75, 0.00, 0.00, 0.20, 0.00, 0.20), 0.80, "open and rounded"),
    Shape("purse",  (0.22, 0.05, 1.00, 0.00, 0.00, 0.00, 0.00, 0.00), 0.90, "small, rounded, forward"),
)  # fmt: skip

SHAPES = {shape.name: shape for shape in _SHAPES}
NAMES = tuple(SHAPES)
LETTERS = {
    **{"rest": "silence", "press": "m b p", "tuck": "f v", "tip": "th", "lift": "l", "teeth": "s t d n"},
    **{"push": "sh ch j", "ajar": "uh k h", "spread": "ee", "half": "e a", "open": "ah", "round": "o aw"},
    "purse": "oo w r",
}
"""How the sounds of each shape are written in plain English."""

CLOSURES = ("press", "tuck")

_SOUNDS = {
    "press": "m b p ɱ",
    "tuck": "f v",
    "tip": "θ ð",
    "lift": "l ɫ ɾ r ʎ ɭ",
    "teeth": "s z t d n ts dz ɲ",
    "push": "ʃ ʒ tʃ dʒ ɕ ʑ tɕ dʑ ʂ ʐ",
    "ajar": "ə ɪ k ɡ g ŋ h x ɚ ɐ ɨ ᵻ ʔ ɣ χ ʁ ħ ʕ q ç",
    "spread": "i j ɪː ʝ",
    "half": "ɛ e æ ʌ ɜ ɝ",
    "open": "ɑ a",
    "round": "ɔ o ɒ ø œ",
    "purse": "u ʊ w y ɹ ʏ ɥ ʉ ɯ",
}
_SHAPE_OF = {sound: shape for shape, sounds in _SOUNDS.items() for sound in sounds.split()}
_LATER_HALF = {"i": "spread", "ɪ": "spread", "j": "spread", "u": "purse", "ʊ": "purse", "w": "purse", "y": "purse"}


@functools.cache
def shapes_of(ipa: str) -> tuple[str, ...]:
    """Return the shapes a sound passes through: one, or two for a diphthong. Any IPA has an answer.

    A sound not listed takes the shape of the nearest listed sound in articulatory features.
    """
    sound = plain(ipa)
    if sound in _SHAPE_OF:
        return (_SHAPE_OF[sound],)
    if len(sound) == 2 and all(c in _VOWELS for c in sound):
        first, last = sound[0], sound[1]
        later = _LATER_HALF.get(last) or _SHAPE_OF[last]
        return (_SHAPE_OF[first], later) if _SHAPE_OF[first] != later else (later,)
    return (_SHAPE_OF[nearest_of(sound, tuple(_SHAPE_OF))],)


_SEEN_LESS = {"ɹ": 0.6, "ð": 0.7}
_SEEN_MORE = {"s": 1.5, "z": 1.3}


def visibility(ipa: str, shape: str) -> float:
    """Return how much a viewer misses a sound's aim at a shape when it is not shown, 0 to 1: a hiss between the teeth
    is seen more than a tap behind them, an r purses the lips less than a w."""
    sound = plain(ipa)
    return SHAPES[shape].visible * _SEEN_MORE.get(sound, _SEEN_LESS.get(sound, 1.0))


_VOWELS = frozenset("iyɨʉɯuɪʏʊeøɘɵɤoəɛœɜɞʌɔæɐaɶɑɒ") & frozenset(_SHAPE_OF)
