"""Words written but not said, and said but not written: how many are found, at the right word."""

import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from tinfork.core.speech import read, words
from tinfork.core.speech.reading import Word

from .alignment import WINDOW
from .truth import Truth

Condition = Callable[[Truth], Truth]


@dataclass
class Count:
    """right: reported where it is; wrong: reported where nothing is amiss; missed."""

    right: int = 0
    wrong: int = 0
    missed: int = 0

    def row(self) -> str:
        """Return precision and recall in percent, and how many there were."""
        reported, there = self.right + self.wrong, self.right + self.missed
        return f"{_percent(self.right, reported):>9}{_percent(self.right, there):>7} of {there:<4}"


def _percent(part: int, whole: int) -> str:
    return f"{100 * part / whole:.0f}%" if whole else "-"


def table(lines: Sequence[tuple[str, Sequence[Truth], Condition]], vocabulary: Sequence[str]) -> None:
    """Every line read three times, each with a word too many, one too few, or another in its place."""
    print("Script that differs from the sound by a word")
    print(f"{'':<18}{'unsaid: right':>14}{'found':>7}{'':<9}{'unwritten:':>9}{'found':>7}{'others in 1 fr':>20}")
    for name, truths, condition in lines:
        unsaid, unwritten, near = Count(), Count(), []
        chance = random.Random(1)
        for truth in truths:
            heard = condition(truth)
            for kind in ("unsaid", "unwritten", "another"):
                near += _try(heard, kind, chance, vocabulary, unsaid, unwritten)
        share = 100 * np.mean(np.array(near) <= WINDOW)
        print(f"{name:<18}     {unsaid.row()}  {unwritten.row()}{share:16.1f}", flush=True)
    print()


def _try(
    heard: Truth, kind: str, chance: random.Random, vocabulary: Sequence[str], unsaid: Count, unwritten: Count
) -> list[float]:
    """Read one line with other words; how far the words that stay moved from where the right script puts them."""
    right = [token.text for token in words.tokens(heard.text, "en")]
    at = chance.randrange(len(right))
    other = chance.choice([word for word in vocabulary if word.lower() not in map(str.lower, right)])
    script = {
        "unsaid": [*right[:at], other, *right[at:]],
        "unwritten": [*right[:at], *right[at + 1 :]],
        "another": [*right[:at], other, *right[at + 1 :]],
    }[kind]
    found = list(read.read(heard.recording, " ".join(script)).words())
    false = {at} if kind != "unwritten" else set()
    for number, word in enumerate(found):
        _tally(unsaid, not word.said, number in false)
    places = {number for number, word in enumerate(found) if word.extra}
    if kind == "unwritten":
        beside = {at - 1, at} & set(range(len(found)))
        _tally(unwritten, bool(places & beside), True)
        unwritten.wrong += len(places - beside)
    elif kind == "unsaid":
        unwritten.wrong += len(places)
    return _moved(found, list(read.read(heard.recording, heard.text).words()), kind, at)


def _tally(count: Count, reported: bool, there: bool) -> None:
    count.right += reported and there
    count.wrong += reported and not there
    count.missed += there and not reported


def _moved(found: Sequence[Word], right: Sequence[Word], kind: str, at: int) -> list[float]:
    after = {"unsaid": at + 1, "unwritten": at, "another": at + 1}[kind]
    later = {"unsaid": at, "unwritten": at + 1, "another": at + 1}[kind]
    pairs = [*zip(found[:at], right[:at], strict=True), *zip(found[after:], right[later:], strict=True)]
    return [abs(one.start - other.start) for one, other in pairs if one.said]
