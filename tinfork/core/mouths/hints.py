"""What a drawing's name says of it: a sound, a shape, a mood. A hint, never needed, and nothing against the picture."""

import re
from collections.abc import Sequence

from ..speech.phones import plain
from .shapes import NAMES, shapes_of

NEUTRAL = "neutral"

_SOUNDS = {
    "rest": "sil",
    "press": "m b p mb mp bp bm pb mbp bmp mpb mm",
    "tuck": "f v fv vf ff",
    "tip": "th dh",
    "lift": "l ll",
    "teeth": "s z t d n ss",
    "push": "sh ch zh j tch",
    "ajar": "uh er k g",
    "spread": "ee i y iy",
    "half": "eh e ae",
    "open": "ah aa a",
    "round": "oh aw o",
    "purse": "oo u w q uw ooh woo",
}
"""How sounds are written in names."""

_WORDS = {
    "rest": "closed shut silence silent idle resting",
    "press": "pressed",
    "tuck": "bite bites biter biting bitten",
    "lift": "tongue",
    "teeth": "clenched",
    "spread": "smile smiling grin grinning",
    "open": "wide yell yelling shout shouting scream screaming",
    "purse": "kiss kissing pucker puckered pursed whistle whistling",
    "round": "rounded",
}
"""What a mouth is called by its looks."""

_SHAPE_OF = {word: shape for shape, words in _SOUNDS.items() for word in words.split()}
_LOOKS_LIKE = {word: shape for shape, words in _WORDS.items() for word in words.split()}
_LOOKS_LIKE |= {name: name for name in NAMES}
_COUNTED_TO = 4
"""Letters from a on that are all there count drawings, and are no sounds."""

_MOOD_WORDS = "neutral happy sad angry scared afraid surprised tired shy proud sly disgusted calm bored excited worried"
_MOODS = frozenset(_MOOD_WORDS.split())
_IPA = frozenset("θðʃʒɹŋɑɔɛæəʌʊɪɜɒ")


def words_of(name: str) -> list[str]:
    """Return the words of a name in lower case: letters that belong together, without numbers."""
    parted = re.sub(r"([a-z])([A-Z])", r"\1 \2", name)
    return [word.lower() for word in re.findall(r"[^\W\d_]+", parted)]


def shape_in(name: str) -> str | None:
    """Return the shape that a name speaks of, in any order of its words: by the sounds that are written with several
    letters, else by what mouths are called, else by single letters; None where it speaks of none, or of several.

    >>> shape_in("mouth_MBP_01"), shape_in("oo"), shape_in("drawing 7"), shape_in("ʃ"), shape_in("lip biter a")
    ('press', 'purse', None, 'push', 'tuck')
    """
    words = words_of(name)
    known = [
        [shape for word in words if len(word) > 1 and (shape := _sound_of(word))],
        [_LOOKS_LIKE[word] for word in words if word in _LOOKS_LIKE],
        [shape for word in words if len(word) == 1 and (shape := _sound_of(word))],
    ]
    told = next((set(shapes) for shapes in known if shapes), set())
    return told.pop() if len(told) == 1 else None


def _sound_of(word: str) -> str | None:
    if word in _SHAPE_OF:
        return _SHAPE_OF[word]
    if set(word) & _IPA and len(word) <= 2:
        return shapes_of(plain(word))[0]
    return None


def shapes_in(names: Sequence[str]) -> list[str | None]:
    """Return the shape that each name of a chart speaks of; where letters count the drawings, they are no sounds."""
    letters = {word for name in names for word in words_of(name) if len(word) == 1}
    counts = set("abcdefghijklmnopqrstuvwxyz"[:_COUNTED_TO]) <= letters
    return [shape_in(_without_letters(name) if counts else name) for name in names]


def _without_letters(name: str) -> str:
    return " ".join(word for word in words_of(name) if len(word) > 1)


def moods_in(names: Sequence[str]) -> list[str]:
    """Return the mood of each name of a chart: a mood's word that several begin or end with; NEUTRAL for others, and
    for one that is called by that word alone."""
    ends = [_ends_of(name) for name in names]
    shared = {mood for mood in _MOODS if sum(mood in own for own in ends) > 1}
    return [next((word for word in own if word in shared), NEUTRAL) for own in ends]


def is_mood(word: str) -> bool:
    """Return whether a word is a usual one for a mood."""
    return word.strip().lower() in _MOODS


def _ends_of(name: str) -> list[str]:
    words = words_of(name)
    has_more = len(words) > 1 or any(letter.isdigit() for letter in name)
    return [word for word in dict.fromkeys((words[0], words[-1])) if word in _MOODS] if words and has_more else []
