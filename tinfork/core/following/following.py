"""Another version of a sound: which stretch of it is which of the old one, and what was read as it lies in it.

First by the sounds themselves (likeness); where what is said was said anew, by the words: the same word stands for the
same word, its sounds for its sounds.
"""

import itertools
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import ScriptError, SoundError
from ..exposure.travel import places_of
from ..sound.recording import READ_RATE, Recording
from ..sound.voices import stretches as speech_in
from ..speech.read import LineToRead, read_lines
from ..speech.reading import Line, Reading, Word, moved, moved_word
from .likeness import Run, runs_of
from .ways import Leg

SAME, SPEED, ANEW, GONE, NEW = ("same", "speed", "anew", "gone", "new")
"""What a stretch is: the same, the same at another speed, said anew, in the old sound alone, in the new one alone."""

Reader = Callable[[Recording, Sequence[Line], Mapping[int, Line]], Reading]
"""Reads lines in a recording; takes them, and by their ids what is known of them there."""

Progress = Callable[[float], None]

_LEAST_SECONDS = 0.04
_COVERED = 0.6
"""A word of which so large a share is in a stretch that is the same, is the same."""

_BESIDE_SECONDS = 0.2
"""What was set so near a word goes with the word, however long the pause beside it is now."""

_LEAST_NEW = 0.25
_FITS = 0.7
"""Words said anew are believed from this mean confidence on."""


@dataclass(frozen=True)
class Stretch:
    """A stretch of the old sound, from first up to end, that lies from to up to to_end in the new one; all in seconds.
    Of what is gone both ends are where it was cut out of the new one; of what is new those where it was put in."""

    kind: str
    first: float
    end: float
    to: float
    to_end: float

    def leg(self, fps: float, source_id: int) -> Leg:
        """Return it in frames, on the sound of a number afterwards."""
        return Leg(self.first * fps, self.end * fps, source_id, self.to * fps, self.to_end * fps)


@dataclass(frozen=True)
class Followed:
    """What became of a sound. stretches: in the order of the old sound, those that are new last; lines: what was read,
    in the new sound's seconds; lost: words that a person had set, and that have no place, each with the id of its line;
    alike: whether both are one recording for the most part."""

    stretches: tuple[Stretch, ...]
    lines: tuple[Line, ...]
    lost: tuple[tuple[int, Word], ...] = ()
    alike: bool = True

    @property
    def placed(self) -> tuple[Stretch, ...]:
        """All that has a place in both."""
        return tuple(one for one in self.stretches if one.kind in (SAME, SPEED, ANEW))

    def legs(self, fps: float, source_id: int) -> tuple[Leg, ...]:
        """Return all that has a place, in frames."""
        return tuple(one.leg(fps, source_id) for one in self.placed)


def read_plain(language: str = "en") -> Reader:
    """Return a reader of lines in a language."""

    def read(recording: Recording, lines: Sequence[Line], known: Mapping[int, Line]) -> Reading:
        return read_lines(recording, [LineToRead(one.text, language, one.id) for one in lines], before=known)

    return read


def follow(
    old: Recording, new: Recording, lines: Sequence[Line], reader: Reader, progress: Progress = lambda share: None
) -> Followed:
    """Return what became of an old sound in a new one, and of the lines that were read of it, in its seconds.

    SoundError where nothing of the old sound is in the new one, neither by the sound nor by the words.
    """
    runs = runs_of(old.samples, new.samples)
    progress(0.4)
    stretches = [_of_run(run) for run in runs]
    kept = {id(word): _word_kept(word, stretches) for line in lines for word in line.words}
    fresh = [line for line in lines if any(kept[id(word)] is None for word in _written(line))]
    beside = [line for line in _beside_new(new, lines, kept, stretches) if line not in fresh]
    anew = _read_anew(new, lines, (fresh, beside), kept, stretches, reader)
    progress(0.9)
    pairs = [pair for line in lines for pair in _paired(line, kept, anew.get(line.id))]
    legs = _joined(stretches, _between(pairs, stretches))
    if not legs:
        raise SoundError(
            "Nothing of the old sound is heard in this one, neither the same recording nor the same words. Place it "
            "as a sound of its own, or choose another."
        )
    words_moved, lost = _moved(lines, kept, anew)
    covered = sum(one.end - one.first for one in stretches)
    spoken = speech_in(old.samples)
    return Followed(
        (*_with_gone(legs, old.seconds), *_new(legs, new.seconds)),
        words_moved,
        lost,
        covered > 0.5 * max(0.1, min(old.seconds, sum(b - a for a, b in spoken))),
    )


def _beside_new(
    new: Recording, lines: Sequence[Line], kept: Mapping[int, Word | None], stretches: Sequence[Stretch]
) -> list[Line]:
    """Lines after which, or before the first of which, something is said in the new sound that is in no stretch that is
    the same: they are read again, so that it is found beside them."""
    if not stretches:
        return []
    ends = [(max(now.end for now in own), line) for line in lines if (own := _moved_words(line, kept))]
    found = []
    for start, end in speech_in(new.samples):
        free = (end - start) - sum(max(0.0, min(end, one.to_end) - max(start, one.to)) for one in stretches)
        if free >= _LEAST_NEW and ends:
            before = [pair for pair in ends if pair[0] <= start + _BESIDE_SECONDS]
            found.append((max(before, key=lambda pair: pair[0]) if before else min(ends, key=lambda pair: pair[0]))[1])
    return found


def _moved_words(line: Line, kept: Mapping[int, Word | None]) -> list[Word]:
    """The words of a line that are the same, in the new sound."""
    return [now for word in line.words if word.said and (now := kept[id(word)])]


def _of_run(run: Run) -> Stretch:
    return Stretch(SAME if abs(run.rate - 1) < 5e-4 else SPEED, run.first, run.end, run.to, run.to_end)


def _written(line: Line) -> list[Word]:
    """The words of a line that somebody wrote or set, and that are said."""
    return [word for word in line.words if word.said and not word.is_unwritten]


def _word_kept(word: Word, stretches: Iterable[Stretch]) -> Word | None:
    """A word where it is heard in the new sound as the same recording; None where it is not."""
    start, end = word.start, max(word.end, word.start + 1e-3)
    best = max(stretches, key=lambda one: min(end, one.end) - max(start, one.first), default=None)
    if best is None or min(end, best.end) - max(start, best.first) < _COVERED * (end - start):
        return None
    rate = (best.to_end - best.to) / (best.end - best.first)
    edges = [best.to + (min(max(edge, best.first), best.end) - best.first) * rate for edge in word.edges]
    extra = tuple((best.to + (a - best.first) * rate, best.to + (b - best.first) * rate) for a, b in word.extra)
    return replace(word.with_edges(edges), extra=extra)


def _read_anew(
    new: Recording,
    lines: Sequence[Line],
    again: tuple[Sequence[Line], Sequence[Line]],
    kept: Mapping[int, Word | None],
    stretches: Sequence[Stretch],
    reader: Reader,
) -> dict[int, Line]:
    """Lines of which something was said anew, and those beside which something is new, as they are read in the new
    sound, by their ids; without those that are not heard there."""
    found: dict[int, Line] = {}
    fresh, beside = again
    ids = {line.id for line in (*fresh, *beside)}
    free = {line.id for line in beside}
    ordered = sorted(lines, key=lambda line: line.start)
    for wanted, group in itertools.groupby(ordered, key=lambda line: line.id in ids):
        if not wanted:
            continue
        own = list(group)
        begin, end = _window(own, ordered, kept, new.seconds)
        if end - begin < 0.15 or _speech_left(new, begin, end, stretches) < 0.2:
            continue
        # What is the same is put back afterwards; held to the edge, nothing would be looked for beside it.
        known = {line.id: _loose(line) if line.id in free else _held(line, kept, begin) for line in own}
        try:
            reading = reader(new.window(begin, end), own, known)
        except ScriptError:
            continue
        for line in reading.lines:
            words = [word for word in _written(line) if not word.pinned]
            fits = not words or float(np.mean([word.confidence for word in words])) >= _FITS
            if fits or line.id in free:
                found[line.id] = moved(line, begin)
    return found


def _loose(line: Line) -> Line:
    """A line that nobody has set anything of but its sounds."""
    return replace(line, words=tuple(replace(word, pinned=()) for word in line.words))


def _window(
    own: Sequence[Line], ordered: Sequence[Line], kept: Mapping[int, Word | None], seconds: float
) -> tuple[float, float]:
    """Between what words of a new recording some lines must lie: after the last that is the same before them, and
    before the first after them."""
    at = ordered.index(own[0])
    before = [word for line in reversed(ordered[:at]) for word in reversed(line.words)]
    after = [word for line in ordered[at + len(own) :] for word in line.words]
    left = next((now for word in before if (now := kept[id(word)])), None)
    right = next((now for word in after if (now := kept[id(word)])), None)
    begin, end = left.end if left else 0.0, right.start if right else seconds
    inner = [now for line in own for word in line.words if (now := kept[id(word)])]
    if inner and (min(one.start for one in inner) < begin or max(one.end for one in inner) > end):
        begin, end = 0.0, seconds
    return (begin, end) if end > begin else (0.0, seconds)


def _speech_left(new: Recording, begin: float, end: float, stretches: Sequence[Stretch]) -> float:
    """How many seconds of speech there are in a window of the new sound that are in no stretch that is the same."""
    spans = speech_in(new.samples[round(begin * READ_RATE) : round(end * READ_RATE)])
    total = 0.0
    for a, b in ((start + begin, stop + begin) for start, stop in spans):
        total += (b - a) - sum(max(0.0, min(b, one.to_end) - max(a, one.to)) for one in stretches)
    return total


def _held(line: Line, kept: Mapping[int, Word | None], begin: float) -> Line:
    """A line as it is known in the new sound, from a time of it on: what is the same stays to the edge, of the rest
    what a person decided of its sounds."""

    def known(word: Word) -> Word:
        now = kept[id(word)]
        if now is None:
            return replace(word, pinned=())
        own = replace(moved_word(now, -begin), decided=True)
        return replace(own, pinned=tuple(range(len(word.edges))) if word.said else ())

    return replace(line, words=tuple(known(word) for word in line.words))


Pair = tuple[Word, Word]


def _paired(line: Line, kept: Mapping[int, Word | None], anew: Line | None) -> list[Pair]:
    """Words that were said anew, each with what it was."""
    if anew is None:
        return []
    places = places_of(line.words, anew.words)
    return [
        (word, now)
        for number, word in enumerate(line.words)
        if word.said and kept[id(word)] is None and number in places
        if (now := anew.words[places[number]]).said and now.end > now.start and word.end > word.start
    ]


def _between(pairs: Sequence[Pair], stretches: Sequence[Stretch]) -> list[Stretch]:
    """What was said anew: the words, sound by sound where they have as many, and the pauses between and beside them."""
    points: list[tuple[float, float]] = []
    for word, now in pairs:
        if len(word.edges) == len(now.edges):
            points += zip(word.edges, now.edges, strict=True)
        else:
            points += [(word.start, now.start), (word.end, now.end)]
    if not points:
        return []
    points = sorted({*points, *(edge for one in stretches for edge in ((one.first, one.to), (one.end, one.to_end)))})
    found: list[Stretch] = []
    for (a, to_a), (b, to_b) in itertools.pairwise(points):
        inside = any(one.first <= a and b <= one.end for one in stretches)
        if b - a > 1e-3 and to_b - to_a > 1e-3 and not inside:
            found += _pause(a, to_a, b, to_b)
    return [*found, *_beside(points, stretches)]


def _pause(a: float, to_a: float, b: float, to_b: float) -> list[Stretch]:
    """A stretch between two places that are known: what is near one of them goes with it."""
    side = _BESIDE_SECONDS
    if min(b - a, to_b - to_a) <= 2 * side or abs((to_b - to_a) / (b - a) - 1) < 0.02:
        return [Stretch(ANEW, a, b, to_a, to_b)]
    return [
        Stretch(ANEW, a, a + side, to_a, to_a + side),
        Stretch(ANEW, a + side, b - side, to_a + side, to_b - side),
        Stretch(ANEW, b - side, b, to_b - side, to_b),
    ]


def _beside(points: Sequence[tuple[float, float]], stretches: Sequence[Stretch]) -> list[Stretch]:
    """A little before the first place that is known and after the last, where both sounds have it."""
    (a, to_a), (b, to_b) = points[0], points[-1]
    found = []
    lead = min(a, to_a, 2 * _BESIDE_SECONDS)
    if lead > 1e-3 and not any(one.first < a for one in stretches):
        found.append(Stretch(ANEW, a - lead, a, to_a - lead, to_a))
    if not any(one.end > b for one in stretches):
        found.append(Stretch(ANEW, b, b + 2 * _BESIDE_SECONDS, to_b, to_b + 2 * _BESIDE_SECONDS))
    return found


def _joined(stretches: Sequence[Stretch], anew: Sequence[Stretch]) -> list[Stretch]:
    """All that has a place, in order; stretches said anew give way to those that are the same."""
    found = [*stretches]
    for one in anew:
        first = max([one.first, *(s.end for s in stretches if s.first <= one.first < s.end)])
        end = min([one.end, *(s.first for s in stretches if s.first < one.end <= s.end and s.first > first)])
        if end - first > 1e-3:
            rate = (one.to_end - one.to) / (one.end - one.first)
            found.append(
                Stretch(ANEW, first, end, one.to + (first - one.first) * rate, one.to + (end - one.first) * rate)
            )
    return sorted(found, key=lambda one: one.first)


def _with_gone(legs: Sequence[Stretch], seconds: float) -> list[Stretch]:
    found: list[Stretch] = []
    at, to = 0.0, 0.0
    for one in legs:
        if one.first - at >= _LEAST_SECONDS:
            found.append(Stretch(GONE, at, one.first, to, to))
        found.append(one)
        at, to = max(at, one.end), one.to_end
    if seconds - at >= _LEAST_SECONDS:
        found.append(Stretch(GONE, at, seconds, to, to))
    return found


def _new(legs: Sequence[Stretch], seconds: float) -> list[Stretch]:
    found: list[Stretch] = []
    at, was = 0.0, 0.0
    for one in sorted(legs, key=lambda leg: leg.to):
        if one.to - at >= _LEAST_SECONDS:
            found.append(Stretch(NEW, was, was, at, one.to))
        at, was = max(at, one.to_end), one.end
    if seconds - at >= _LEAST_SECONDS:
        found.append(Stretch(NEW, was, was, at, seconds))
    return found


def _moved(
    lines: Sequence[Line], kept: Mapping[int, Word | None], anew: Mapping[int, Line]
) -> tuple[tuple[Line, ...], tuple[tuple[int, Word], ...]]:
    """The lines in the new sound's seconds; and the words that a person had set and that have no place there."""
    found: list[Line] = []
    lost: list[tuple[int, Word]] = []
    for line in lines:
        own = anew.get(line.id)
        if own is None:
            here = [(word, kept[id(word)]) for word in line.words]
            lost += [(line.id, word) for word, now in here if now is None and word.is_set and word.said]
            words = _with_unsaid(here)
        else:
            words, gone = _as_set(line, own, kept)
            lost += [(line.id, word) for word in gone]
        if words:
            found.append(replace(line, words=words, start=words[0].start, end=words[-1].end))
    return tuple(sorted(found, key=lambda line: line.start)), tuple(lost)


def _with_unsaid(here: Sequence[tuple[Word, Word | None]]) -> tuple[Word, ...]:
    """Words of a line where they are now; those that are written and gone last no time, beside the others. Nothing
    where all are gone."""
    if not any(now for _, now in here):
        return ()
    at = next(now.start for _, now in here if now)
    words: list[Word] = []
    for word, now in here:
        if now is not None:
            words.append(now)
            at = now.end
        elif not word.is_unwritten:
            words.append(replace(word.with_edges([at] * len(word.edges)), said=False, pinned=(), extra=()))
    # A cut may have put one before the other.
    in_order = all(one.end <= other.start + 1e-6 for one, other in itertools.pairwise(words))
    return tuple(words) if in_order else tuple(sorted(words, key=lambda word: word.start))


def _as_set(line: Line, own: Line, kept: Mapping[int, Word | None]) -> tuple[tuple[Word, ...], list[Word]]:
    """The words of a line that was read anew, with what a person had set of them; and those that are not there."""
    places = places_of(line.words, own.words)
    words, gone = list(own.words), []
    for number, word in enumerate(line.words):
        if number not in places:
            gone += [word] if word.is_set and word.said else []
            continue
        at = places[number]
        same = kept[id(word)]
        if same is not None:
            words[at] = same
        elif word.pinned and len(words[at].edges) == len(word.edges) and words[at].said:
            words[at] = replace(words[at], pinned=word.pinned, decided=word.decided)
        elif word.pinned:
            gone.append(word)
        else:
            words[at] = replace(words[at], decided=word.decided)
    return tuple(words), gone
