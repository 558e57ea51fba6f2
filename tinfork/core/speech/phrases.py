"""What was heard as phrases: it is parted at the ends of sentences, at pauses, and where another begins to speak."""

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import replace

from ..sound import voices
from ..sound.recording import Recording
from .read import Speaking
from .reading import Line, Word
from .words import ABBREVIATIONS, tokens

_PAUSE = 0.5
"""Seconds without a word after which another line begins."""

_APART, _LEAST_STRETCH = 0.6, 1.5
"""Pauses so long part what may be in other languages, if so much is said between them."""

_END = re.compile(r"(?<=[.!?…。！？])[\"'”’)]*\s+")


def sentences(texts: Sequence[str]) -> list[str]:
    """Return texts that follow one another as sentences. A text that ends without a full stop goes on in the next where
    full stops are known at all."""
    if not any(text.endswith((".", "!", "?", "…")) for text in texts):
        return list(texts)
    whole = " ".join(" ".join(texts).split())
    found: list[str] = []
    for piece in _parts(whole):
        if found and _goes_on(found[-1]):
            found[-1] += f" {piece}"
        else:
            found.append(piece)
    return found


def _parts(text: str) -> Iterator[str]:
    begin = 0
    for match in _END.finditer(text):
        yield text[begin : match.end()].strip()
        begin = match.end()
    if text[begin:].strip():
        yield text[begin:].strip()


def _goes_on(sentence: str) -> bool:
    """Whether the full stop at the end of a text is an abbreviation's."""
    last = sentence.rsplit(maxsplit=1)[-1].rstrip(".").lower()
    return sentence.endswith(".") and (last in ABBREVIATIONS or (len(last) == 1 and last != "i"))


def parted(line: Line, language: str, speaking: Speaking) -> list[tuple[str, Line]]:
    """Return a line that was read as lines between its pauses and of one speaker each, with their words as they are
    written."""
    written = line.text.split()
    counts = [len(tokens(one, language)) for one in written]
    own = line.written
    if sum(counts) != len(own):
        return [(line.text, line)]
    groups: list[tuple[list[str], list[Word]]] = [([], [])]
    at = 0
    for text, count in zip(written, counts, strict=True):
        words = own[at : at + count]
        at += count
        if words and groups[-1][1] and _apart(groups[-1][1][-1], words[0], speaking):
            groups.append(([], []))
        groups[-1][0].append(text)
        groups[-1][1].extend(words)
    return [(" ".join(texts), _line(" ".join(texts), words, line)) for texts, words in groups if words]


def _line(text: str, words: Sequence[Word], line: Line) -> Line:
    end = max(word.end for word in words)
    start = min(word.start for word in words)
    beside = [one for one in line.words if one.is_unwritten and start <= one.start and one.end <= end]
    own = sorted((*words, *beside), key=lambda word: (word.start, word.end))
    return replace(line, text=text, words=tuple(own), start=start, end=end)


def _apart(before: Word, after: Word, speaking: Speaking) -> bool:
    if after.start - before.end >= _PAUSE:
        return True
    one, other = (most_heard(word.start, word.end, speaking) for word in (before, after))
    return one is not None and other is not None and one != other


def most_heard(start: float, end: float, spans: Speaking, least: float = 0.0) -> int | None:
    """Return who is heard for most of a stretch of time, in seconds, if anybody is for more than the least share of
    it."""
    shares = {who: sum(max(0.0, min(b, end) - max(a, start)) for a, b in own) for who, own in spans.items()}
    best = max(shares, key=lambda who: shares[who], default=None)
    return best if best is not None and shares[best] > least * (end - start) else None


def stretches(recording: Recording, begin: float, end: float) -> list[tuple[float, float]]:
    """Return the parts of a stretch, in seconds, between long pauses; together they cover it."""
    found: list[tuple[float, float]] = []
    for start, stop in voices.stretches(recording.window(begin, end).samples):
        if found and (start - found[-1][1] < _APART or found[-1][1] - found[-1][0] < _LEAST_STRETCH):
            found[-1] = (found[-1][0], stop)
        else:
            found.append((start, stop))
    if not found:
        return [(begin, end)]
    edges = [begin, *(begin + (a[1] + b[0]) / 2 for a, b in itertools.pairwise(found)), end]
    return list(itertools.pairwise(edges))
