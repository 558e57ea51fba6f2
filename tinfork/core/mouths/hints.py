"""What a drawing's name says of it: a sound, a shape, a mood. A hint, never needed, and nothing against the picture."""

import re

from ..speech.phones import plain
from .shapes import NAMES, shapes_of

NEUTRAL = "neutral"

_SPELLED = {
    "rest": "closed shut silence silent sil idle",
    "press": "m b p mb mp bp bm pb mbp bmp mpb mm",
    "tuck": "f v fv vf ff",
    "tip": "th dh",
    "lift": "l ll",
    "teeth": "s z t d n ss",
    "push": "sh ch zh j tch",
    "ajar": "uh er k g",
    "spread": "ee i y iy smile",
    "half": "eh e ae",
    "open": "ah aa a wide",
    "round": "oh aw o",
    "purse": "oo u w q uw ooh woo",
}
_SHAPE_OF = {word: shape for shape, words in _SPELLED.items() for word in words.split()}
_SHAPE_OF |= {name: name for name in NAMES}
_MOOD_WORDS = "neutral happy sad angry scared afraid surprised tired shy proud sly disgusted calm bored excited worried"
_MOODS = frozenset(_MOOD_WORDS.split())
_IPA = frozenset("θðʃʒɹŋɑɔɛæəʌʊɪɜɒ")


def words_of(name: str) -> list[str]:
    """Return the words of a name in lower case: letters that belong together, without numbers."""
    parted = re.sub(r"([a-z])([A-Z])", r"\1 \2", name)
    return [word.lower() for word in re.findall(r"[^\W\d_]+", parted)]


def shape_in(name: str) -> str | None:
    """Return the shape that a name speaks of; None where it speaks of none, or of several.

    >>> shape_in("mouth_MBP_01"), shape_in("oo"), shape_in("drawing 7"), shape_in("ʃ")
    ('press', 'purse', None, 'push')
    """
    found = {shape for word in words_of(name) if (shape := _shape_of(word))}
    return found.pop() if len(found) == 1 else None


def _shape_of(word: str) -> str | None:
    if word in _SHAPE_OF:
        return _SHAPE_OF[word]
    if set(word) & _IPA and len(word) <= 2:
        return shapes_of(plain(word))[0]
    return None


def mood_in(name: str) -> str | None:
    """Return the mood that a name speaks of, if it does."""
    return next((word for word in words_of(name) if word in _MOODS), None)
