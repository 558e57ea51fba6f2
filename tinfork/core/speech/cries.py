"""What no dictionary has, though everybody writes it: nooo, hahaha, brr, pff, b-b-boat.

Said as English speakers say it; what a person's lexicon has goes before.
"""

import re
from collections.abc import Callable, Iterator

Phone = tuple[str, int]
Pronunciation = tuple[Phone, ...]
LookUp = Callable[[str], tuple[Pronunciation, ...]]

_VOWELS = "ɑæʌəɔɛɝɪiʊueaoɚ"
_VOWEL_OF = {"a": "ɑ", "e": "ɛ", "i": "i", "o": "oʊ", "u": "ʌ"}

_CRIES: list[tuple[re.Pattern[str], tuple[tuple[Phone, ...], ...]]] = [
    (re.compile(pattern), ways)
    for pattern, ways in {
        "a+h*|aah+": ((("ɑ", 1),),),
        "o+h+|oo+": ((("oʊ", 1),), (("u", 1),)),
        "u+h+": ((("ʌ", 1),),),
        "e+h+": ((("ɛ", 1),),),
        "h?m+": ((("m", 0),), (("h", 0), ("m", 0))),
        "b+r+": ((("b", 0), ("ɹ", 0)), (("b", 0), ("ɝ", 1))),
        "g+r+": ((("g", 0), ("ɹ", 0)), (("g", 0), ("ɝ", 1))),
        "p+f+": ((("p", 0), ("f", 0)),),
        "p+f+t": ((("p", 0), ("f", 0), ("t", 0)),),
        "p*s+t+": ((("p", 0), ("s", 0), ("t", 0)), (("s", 0), ("t", 0))),
        "s+h+": ((("ʃ", 0),),),
        "s{2,}": ((("s", 0),),),
        "z{2,}": ((("z", 0),),),
        "f{2,}": ((("f", 0),),),
        "t+s+k+": ((("t", 0), ("s", 0), ("k", 0)),),
        "e+k+": ((("i", 1), ("k", 0)),),
    }.items()
]
_LAUGH = re.compile(r"(?:h+([aeiou])\1*h*|([aeiou])\2*h+){2,}[aeiou]*h*")
_SWELL = re.compile(r"h+[aeiou]+|[aeiou]+")
_RUN = re.compile(r"(.)\1{2,}")
_MOST_RUNS = 3


def ways_to_say(word: str, look_up: LookUp) -> tuple[Pronunciation, ...]:
    """Return ways to say a word in lower case that no dictionary has; none where it is no cry. look_up: what a
    dictionary has. A word with "-" in it is the beginning of what comes after, stammered: see words.tokens."""
    if "-" in word:
        begun, whole = word.split("-", 1)
        return tuple(dict.fromkeys(way for own in look_up(whole) for way in _begins(own, begun)))
    for pattern, ways in _CRIES:
        if pattern.fullmatch(word):
            return ways
    if _LAUGH.fullmatch(word):
        return (tuple(phone for swell in _SWELL.findall(word) for phone in _laughed(swell)),)
    return _held(word, look_up)


def _held(word: str, look_up: LookUp) -> tuple[Pronunciation, ...]:
    """A word of which a letter is written three times or more because it is held; of "goood" the sound decides whether
    it is good or god."""
    if not 0 < len(_RUN.findall(word)) <= _MOST_RUNS:
        return ()
    spelled = (_RUN.sub(kept, word) for kept in (r"\1", r"\1\1"))
    return tuple(dict.fromkeys(way for one in spelled for way in look_up(one)))


def _laughed(swell: str) -> Iterator[Phone]:
    if swell[0] == "h":
        yield "h", 0
    yield _VOWEL_OF[swell[-1]], 1


def _begins(whole: Pronunciation, begun: str) -> Iterator[Pronunciation]:
    """How somebody stammers who begins to say a word: up to its first vowel, or with that."""
    first = next((n for n, (ipa, _) in enumerate(whole) if ipa[0] in _VOWELS), len(whole))
    if any(letter in "aeiou" for letter in begun):
        yield whole[: first + 1]
    elif first:
        yield whole[:first]
        yield (*whole[:first], ("ə", 0))
