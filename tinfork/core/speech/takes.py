"""The takes of one line in one recording: where it is said, how surely it is heard there, and how clean it is."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..sound.quality import above_noise
from ..sound.recording import Recording
from .espeak import check_language
from .unscripted import HeardLine
from .words import tokens

ALIKE = 0.6
"""Such a share of a line's words, in their order, is a take of it; of two that share words the one with more."""

_LONGER = 1.5
_FULL_DB, _BESIDE = 60.0, 0.4


@dataclass(frozen=True)
class LineTake:
    """One time that a line is said. start and end: in seconds; share: of its words that are heard; sure: how surely
    they are; clean: how far the speech stands above what else is heard there, in dB, 60 at the most."""

    start: float
    end: float
    share: float
    sure: float
    clean: float


@dataclass(frozen=True)
class _Said:
    key: str
    start: float
    end: float
    sure: float


def takes_of(text: str, language: str, heard: Sequence[HeardLine], recording: Recording) -> list[LineTake]:
    """Return where a line is said in what was heard of a recording, in its order."""
    line = [_key(token.text) for token in tokens(text, check_language(language))]
    said = list(_words(heard))
    runs = sorted(_runs(line, said), key=lambda run: (-len(run), said[run[-1]].end - said[run[0]].start))
    taken: set[int] = set()
    found = []
    for run in runs:
        whole = range(run[0], run[-1] + 1)
        if not taken.intersection(whole):
            taken.update(whole)
            found.append(_take([said[at] for at in run], len(line), recording))
    return sorted(found, key=lambda take: take.start)


def _words(heard: Sequence[HeardLine]) -> Iterator[_Said]:
    for line in heard:
        for word in line.line.written:
            if word.said:
                yield _Said(_key(word.text), word.start, word.end, word.confidence)


def _key(text: str) -> str:
    return "".join(letter for letter in text.casefold() if letter.isalnum())


def _runs(line: Sequence[str], said: Sequence[_Said]) -> Iterator[list[int]]:
    """From every word that is heard on, the most of the line that follows in its order, where that is enough."""
    reach = round(_LONGER * len(line)) + 1
    for first, word in enumerate(said):
        if word.key in line:
            run = [first + at for at in _in_order(line, [one.key for one in said[first : first + reach]])]
            if len(run) >= max(1, ALIKE * len(line)):
                yield run


def _in_order(line: Sequence[str], window: Sequence[str]) -> list[int]:
    """The places in a window of the longest part of a line that is in it in its order."""
    best = np.zeros((len(line) + 1, len(window) + 1), int)
    for i in range(len(line) - 1, -1, -1):
        for j in range(len(window) - 1, -1, -1):
            same = best[i + 1, j + 1] + 1 if line[i] == window[j] else 0
            best[i, j] = max(same, best[i + 1, j], best[i, j + 1])
    found, i, j = [], 0, 0
    while i < len(line) and j < len(window):
        if line[i] == window[j] and best[i, j] == best[i + 1, j + 1] + 1:
            found.append(j)
            i, j = i + 1, j + 1
        elif best[i + 1, j] >= best[i, j + 1]:
            i += 1
        else:
            j += 1
    return found


def _take(words: Sequence[_Said], many: int, recording: Recording) -> LineTake:
    start, end = words[0].start, words[-1].end
    around = recording.window(max(0.0, start - _BESIDE), min(recording.seconds, end + _BESIDE))
    clean = min(_FULL_DB, above_noise(around.samples))
    sure = float(np.mean([word.sure for word in words]))
    return LineTake(start, end, len(words) / many, sure, clean)
