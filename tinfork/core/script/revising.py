"""A revised script laid over the one there is: which line is which, and what became of it.

Lines that are written the same are the same, first in their order and then wherever they went; of the others those that
share most of their words, in their order, are the same line changed. What is left is new, or gone.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from functools import lru_cache

from .lines import Cue, Script, ScriptLine, checked, clean, said_kept

SAME, CHANGED, MOVED, NEW, GONE = "same", "changed", "moved", "new", "gone"
ALIKE = 0.5
"""Lines that share so much of their words, in order, are one line changed, where it stands in the same place."""

ALIKE_ELSEWHERE = 0.75
"""And so much, where it was moved."""

_NEAR = 40
"""A changed line is looked for so many lines before and after where it should be."""

_FEWEST = 3
"""So many words a line has at the least that is known again elsewhere, changed."""


@dataclass(frozen=True)
class Revised:
    """What became of a line. kind: SAME, CHANGED, MOVED, NEW or GONE; line: as it is then, or as it was where it is
    gone; before: as it was, None where it is new; moved: whether it stands elsewhere among the others."""

    kind: str
    line: ScriptLine
    before: ScriptLine | None
    moved: bool = False


def revise(script: Script, cues: Sequence[Cue], speakers: Mapping[str, int]) -> tuple[Script, list[Revised]]:
    """Return the script as it is revised, and what became of each line, in the new order; those that are gone stand
    where they stood. speakers: who goes by which name, in lower case; who speaks stays where nobody is named. Lines
    that are found again keep their numbers, and with them what was read and decided. ScriptError where it is too
    long."""
    old = list(script.lines)
    new = [(clean(cue.text), speakers.get(cue.speaker.strip().lower())) for cue in cues]
    new = [(text, who) for text, who in new if text]
    pairs = _pairs([line.text for line in old], [text for text, _ in new])
    in_order = _in_order(pairs)
    lines, told, number = [], [], script.next
    for place, (text, who) in enumerate(new):
        at = pairs.get(place)
        if at is None:
            line = ScriptLine(number, text, who)
            number += 1
            told.append(Revised(NEW, line, None))
        else:
            line = _written(old[at], text, who)
            moved = place not in in_order
            kind = CHANGED if line != old[at] else MOVED if moved else SAME
            told.append(Revised(kind, line, old[at], moved))
        lines.append(line)
    return checked(Script(tuple(lines), number)), _with_gone(told, old, pairs, in_order)


def _written(line: ScriptLine, text: str, who: int | None) -> ScriptLine:
    """A line with other words, or another speaker; the same where neither is another."""
    own = line if text == line.text else replace(line, text=text, said=said_kept(line, text), heard=False)
    return own if who is None or who == own.character else replace(own, character=who)


def _pairs(old: Sequence[str], new: Sequence[str]) -> dict[int, int]:
    """For lines of the new script that were there, by their places, where each was."""
    keys = [_key(text) for text in old], [_key(text) for text in new]
    pairs: dict[int, int] = {}
    for tag, i, end, j, stop in SequenceMatcher(None, *keys, autojunk=False).get_opcodes():
        if tag == "equal":
            pairs |= dict(zip(range(j, stop), range(i, end), strict=True))
        elif tag == "replace":
            pairs |= _changed(old, new, range(i, end), range(j, stop))
    _find_moved(old, new, keys, pairs)
    return pairs


def _key(text: str) -> str:
    return " ".join(_words(text))


@lru_cache(20_000)
def _words(text: str) -> tuple[str, ...]:
    return tuple(re.findall(r"[\w']+", text.lower().replace("’", "'"))) or (text,)


def _share(one: str, other: str) -> float:
    """How much of their words two lines share, in order, from 0 to 1."""
    return SequenceMatcher(None, _words(one), _words(other), autojunk=False).ratio()


def _changed(old: Sequence[str], new: Sequence[str], was: range, now: range) -> dict[int, int]:
    """Of lines that stand in the place of others, which are those changed: the likest first, none across another."""
    shift = was.start - now.start
    likely = [
        (share, j, i)
        for j in now
        for i in range(max(was.start, j + shift - _NEAR), min(was.stop, j + shift + _NEAR + 1))
        if (share := _share(old[i], new[j])) >= ALIKE
    ]
    found: dict[int, int] = {}
    for _, j, i in sorted(likely, key=lambda one: (-one[0], one[1], one[2])):
        if j not in found and all((i < i2) == (j < j2) and i != i2 for j2, i2 in found.items()):
            found[j] = i
    return found


def _find_moved(
    old: Sequence[str], new: Sequence[str], keys: tuple[list[str], list[str]], pairs: dict[int, int]
) -> None:
    """Find lines that stand elsewhere: written the same, else nearly so."""
    taken = set(pairs.values())
    free = [i for i in range(len(old)) if i not in taken]
    left = [j for j in range(len(new)) if j not in pairs]
    there: dict[str, list[int]] = {}
    for i in free:
        there.setdefault(keys[0][i], []).append(i)
    for j in left:
        if own := there.get(keys[1][j]):
            pairs[j] = own.pop(0)
    taken = set(pairs.values())
    words = {i: frozenset(_words(old[i])) for i in free if i not in taken}
    for j in [one for one in left if one not in pairs and len(_words(new[one])) >= _FEWEST]:
        own_words = set(_words(new[j]))
        near = [i for i, theirs in words.items() if 2 * len(own_words & theirs) >= len(own_words | theirs)]
        best = max(((_share(old[i], new[j]), -i) for i in near), default=(0.0, 0))
        if best[0] >= ALIKE_ELSEWHERE:
            pairs[j] = -best[1]
            del words[pairs[j]]


def _in_order(pairs: Mapping[int, int]) -> set[int]:
    """The places of the most lines that stand in the order they stood in: the others were moved."""
    places = sorted(pairs)
    tails: list[int] = []
    before: dict[int, int | None] = {}
    for place in places:
        low, high = 0, len(tails)
        while low < high:
            middle = (low + high) // 2
            low, high = (middle + 1, high) if pairs[tails[middle]] < pairs[place] else (low, middle)
        before[place] = tails[low - 1] if low else None
        tails[low : low + 1] = [place]
    found, at = set[int](), tails[-1] if tails else None
    while at is not None:
        found.add(at)
        at = before[at]
    return found


def _with_gone(
    told: list[Revised], old: Sequence[ScriptLine], pairs: Mapping[int, int], in_order: set[int]
) -> list[Revised]:
    """What became of the lines, with those that are gone after the one that stood before them and stands still."""
    still = {pairs[place]: place for place in in_order}
    kept = set(pairs.values())
    after: dict[int, list[Revised]] = {}
    place = -1
    for at, line in enumerate(old):
        place = still.get(at, place)
        if at not in kept:
            after.setdefault(place, []).append(Revised(GONE, line, line))
    found = list(after.get(-1, []))
    for place, one in enumerate(told):
        found += [one, *after.get(place, [])]
    return found


def worded(before: str, after: str) -> list[tuple[str, str]]:
    """Return how one text became another, word by word: stretches of words that are SAME, GONE or NEW, in order."""
    old, new = before.split(), after.split()
    found: list[tuple[str, str]] = []
    for tag, i, end, j, stop in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if tag == "equal":
            found.append((SAME, " ".join(old[i:end])))
        else:
            found += [(GONE, " ".join(old[i:end]))] if end > i else []
            found += [(NEW, " ".join(new[j:stop]))] if stop > j else []
    return found
