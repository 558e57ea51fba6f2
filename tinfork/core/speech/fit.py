"""From scores and words to the best path: pins divide the search, long sound is cut at sure pauses first, and words
the sound speaks against are questioned.

What was written but not said, and said but not written, is found by a second search in which words may be left out and
unwritten speech may be heard (an on-line filler model, Boite, Bourlard et al. 1993: any speech scores a little worse
than the best phone of the moment). How much worse follows the recording: in noise even right words fit badly.
"""

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..sound.features import STEP_SECONDS, Singles
from . import align
from .align import Bias, Freedom, Phones, Span
from .confidence import path_confidence
from .model import STATES, AcousticModel, by_phone

Progress = Callable[[float], None]

_LONG, _LEAST_PIECE, _MOST_PIECE = (round(seconds / STEP_SECONDS) for seconds in (20, 4, 14))
_COARSE = 4
_LEAST_PAUSE = 4
_COARSE_SHARE = 0.25

_UNSAID_OFFSET, _UNSAID_SLOPE = 2.0, 2.0
_SPEECH_OFFSET, _SPEECH_SLOPE = 1.5, 1.5
_SILENT_SPEECH = 2.0
_NOISY, _NOISY_SLOPE = 1.8, 3.0
_COST, _SHORT_WORD_COST = -20.0, -15.0
_SHORT_WORD = 3
_LEAST_SPEECH, _PART = 8, 30
_SUSPICION = 1.6
_MOST_UNSAID = 0.6


@dataclass(frozen=True)
class Unit:
    """A word, or a piece of one, to be found. start, end: the 10 ms frames it must begin and end at, if a person said
    so; group: see align.Bias; certain: a person said that it is spoken."""

    variants: tuple[Phones, ...]
    start: int | None = None
    end: int | None = None
    group: int = 0
    certain: bool = False


@dataclass(frozen=True)
class Fitted:
    """A finished stretch of the search: units first up to last over 10 ms frames begin to end. sure: how
    sure each span is, 0 to 1; unsaid: units the sound
    speaks against; speech: stretches of unwritten speech, each with the unit it comes before; squeezed: there were
    more words than the stretch can hold, and they are spread evenly; doubted: too many words did not fit for any one of
    them to be named."""

    first: int
    last: int
    begin: int
    end: int
    spans: tuple[Span, ...]
    sure: tuple[float, ...]
    unsaid: frozenset[int] = frozenset()
    speech: tuple[tuple[int, int, int], ...] = ()
    squeezed: bool = False
    doubted: bool = False


@dataclass(frozen=True)
class _Stretch:
    first: int
    last: int
    begin: int
    end: int
    lead: bool
    trail: bool


def fit(
    scores: Singles,
    units: Sequence[Unit],
    acoustic: AcousticModel,
    bias: Bias | None = None,
    progress: Progress = lambda share: None,
) -> Iterator[Fitted]:
    """Stretch by stretch, in order, where the units lie in the sound. Total: every unit is placed, or unsaid.

    scores: (frames, model states). Frames of pins must not go backwards and must lie within the sound.
    """
    search = _Search(scores, tuple(units), acoustic, bias)
    pinned = [s for s in _between_pins(units, len(scores)) if s.last > s.first]
    for stretch in pinned:
        for piece in search.cut(stretch, progress):
            yield search.fitted(piece)
            progress(_COARSE_SHARE + (1 - _COARSE_SHARE) * piece.end / len(scores))


def _between_pins(units: Sequence[Unit], frames: int) -> Iterator[_Stretch]:
    """The stretches that pins divide the sound into. Where a pin stands, no silence comes between it and its word."""
    first, begin, lead = 0, 0, True
    for number, unit in enumerate(units):
        if unit.start is not None:
            start = min(unit.start, frames)
            yield _Stretch(first, number, begin, start, lead, True)
            first, begin, lead = number, start, False
        if unit.end is not None:
            end = min(unit.end, frames)
            yield _Stretch(first, number + 1, begin, end, lead, False)
            first, begin, lead = number + 1, end, True
    yield _Stretch(first, len(units), begin, frames, lead, True)


@dataclass(frozen=True)
class _Search:
    scores: Singles
    units: tuple[Unit, ...]
    acoustic: AcousticModel
    bias: Bias | None

    def cut(self, stretch: _Stretch, progress: Progress) -> list[_Stretch]:
        """Return a long stretch in pieces, parted at pauses that a coarse search of the whole is sure of."""
        words = [unit.variants for unit in self.units[stretch.first : stretch.last]]
        frames = stretch.end - stretch.begin
        if frames <= _LONG or align.fewest_frames(words) > frames // 2:
            return [stretch]
        spans = self._coarse(stretch, words, lambda share: progress(_COARSE_SHARE * share))
        pieces, begun = [], stretch
        for unit, frame in _pauses(spans, frames):
            at = stretch.first + unit
            pieces.append(replace(begun, last=at, end=stretch.begin + frame, trail=True))
            begun = _Stretch(at, stretch.last, stretch.begin + frame, stretch.end, True, stretch.trail)
        return [*pieces, begun]

    def _coarse(self, stretch: _Stretch, words: Sequence[Sequence[Phones]], progress: Progress) -> list[Span]:
        """The stretch in steps of 40 ms, each phone in one state, its first pronunciations only."""
        rows = self.scores[stretch.begin : stretch.end]
        rows = rows[: len(rows) // _COARSE * _COARSE]
        heard = by_phone(rows)
        steps = heard.reshape(-1, _COARSE, heard.shape[1]).mean(axis=1) * _COARSE
        graph = align.build_graph([variants[:1] for variants in words], self.acoustic, states=1)
        bias = self._bias(stretch)
        slow = None if bias is None else lambda t: np.asarray(bias(t * _COARSE) * _COARSE, np.float32)
        found = align.best_path(steps, graph, slow, self._groups(stretch), progress)
        return [replace(s, start=s.start * _COARSE, end=s.end * _COARSE) for s in found]

    def fitted(self, stretch: _Stretch) -> Fitted:
        """Return one stretch searched exactly."""
        words = [unit.variants for unit in self.units[stretch.first : stretch.last]]
        strict = Freedom(stretch.lead, stretch.trail)
        if align.fewest_frames(words) > stretch.end - stretch.begin:
            return self._done(stretch, _spread_evenly(words, stretch.end - stretch.begin), squeezed=True)
        spans = self._path(stretch, words, strict)
        usual, worst = self._how_words_fit(stretch, spans)
        if worst > _SUSPICION * (usual - 1):
            return self._done(stretch, spans)
        return self._questioned(stretch, words, strict, spans, usual)

    def _questioned(
        self,
        stretch: _Stretch,
        words: Sequence[Sequence[Phones]],
        strict: Freedom,
        spans: list[Span],
        usual: float,
    ) -> Fitted:
        """The stretch searched again, free to leave words out and to hear others; then without what was left out. Where
        that would be most of the words, none is."""
        units = self.units[stretch.first : stretch.last]
        costs = [None if unit.certain else _cost(unit) for unit in units]
        free = replace(strict, unsaid=costs, speech=_COST)
        scores = self._with_fillers(stretch, usual)
        nothing = align.unsaid_phone(self.acoustic)
        found = self._path(stretch, words, free, scores)
        unsaid = {span.word for span in found if span.phone == nothing}
        doubted = len(unsaid) > _MOST_UNSAID * len(words)
        if doubted:
            unsaid = set()
        if doubted or unsaid or _speech(found, self.acoustic):
            kept = [number for number in range(len(words)) if number not in unsaid]
            found = self._path(
                stretch, [words[n] for n in kept], replace(strict, speech=_COST), scores, [units[n].group for n in kept]
            )
            spans = [replace(s, word=kept[s.word]) if s.word >= 0 else s for s in found]
        return self._done(stretch, spans, frozenset(stretch.first + n for n in unsaid), doubted=doubted)

    def _path(
        self,
        stretch: _Stretch,
        words: Sequence[Sequence[Phones]],
        freedom: Freedom,
        scores: Singles | None = None,
        groups: Sequence[int] | None = None,
    ) -> list[Span]:
        scores = self.scores[stretch.begin : stretch.end] if scores is None else scores
        graph = align.build_graph(words, self.acoustic, freedom)
        return align.best_path(scores, graph, self._bias(stretch), self._groups(stretch) if groups is None else groups)

    def _with_fillers(self, stretch: _Stretch, usual: float) -> Singles:
        """The stretch's scores with those of any speech and of a word left out."""
        scores = self.scores[stretch.begin : stretch.end]
        by_phone = self._by_phone(stretch)
        best = by_phone[:, self.acoustic.speech_rows].max(axis=1)
        noisy = _NOISY_SLOPE * max(0.0, -usual - _NOISY)
        silence = by_phone[:, self.acoustic.index("SIL")]
        speech = best - (_SPEECH_OFFSET - _SPEECH_SLOPE * usual + noisy)
        speech = np.maximum(speech, silence - _SILENT_SPEECH)
        unsaid = best - (_UNSAID_OFFSET - _UNSAID_SLOPE * usual + noisy)
        unsaid = np.maximum(unsaid, silence)
        added = [np.repeat(column[:, None], STATES, axis=1) for column in (speech, unsaid)]
        return np.concatenate([scores, *added], axis=1).astype(np.float32)

    def _how_words_fit(self, stretch: _Stretch, spans: Sequence[Span]) -> tuple[float, float]:
        """What is lost a frame against the best speech of the moment: by the median word, and in the worst place."""
        by_phone = self._by_phone(stretch)
        lost = by_phone - by_phone[:, self.acoustic.speech_rows].max(axis=1, keepdims=True)
        rows = [lost[int(s.start) : int(s.end), s.phone] for s in spans]
        words: dict[int, list[Singles]] = {}
        for span, own in zip(spans, rows, strict=True):
            if span.word >= 0:
                words.setdefault(span.word, []).append(own)
        means = [float(np.concatenate(own).mean()) for own in words.values()]
        parts = (own[at : at + _PART] for own in rows for at in range(0, len(own), _PART))
        long = [float(part.mean()) for part in parts if len(part) >= _LEAST_SPEECH]
        return float(np.median(means)), min([*means, *long])

    def _by_phone(self, stretch: _Stretch) -> Singles:
        return by_phone(self.scores[stretch.begin : stretch.end])

    def _bias(self, stretch: _Stretch) -> Bias | None:
        bias = self.bias
        return None if bias is None else lambda t: bias(stretch.begin + t)

    def _groups(self, stretch: _Stretch) -> list[int]:
        return [unit.group for unit in self.units[stretch.first : stretch.last]]

    def _done(
        self, stretch: _Stretch, spans: Sequence[Span], unsaid: frozenset[int] = frozenset(), **how: bool
    ) -> Fitted:
        """Spans of a stretch, counted in the whole sound and over all units."""
        moved = tuple(
            replace(
                s,
                start=s.start + stretch.begin,
                end=s.end + stretch.begin,
                word=s.word + stretch.first if s.word >= 0 else -1,
            )
            for s in spans
        )
        speech = tuple(
            (int(s.start) + stretch.begin, int(s.end) + stretch.begin, before + stretch.first)
            for s, before in _speech(spans, self.acoustic)
        )
        sure = [0.0] * len(spans)
        if not how.get("squeezed"):
            sure = path_confidence(self.scores[stretch.begin : stretch.end], spans)
        return Fitted(
            stretch.first, stretch.last, stretch.begin, stretch.end, moved, tuple(sure), unsaid, speech, **how
        )


def _cost(unit: Unit) -> float:
    short = min(map(len, unit.variants)) < _SHORT_WORD
    return _COST + (_SHORT_WORD_COST if short else 0.0)


def _speech(spans: Sequence[Span], acoustic: AcousticModel) -> list[tuple[Span, int]]:
    """Stretches of unwritten speech that are no mere click, each with the number of the word after it."""
    found, word = [], 0
    for span in spans:
        if span.word >= 0:
            word = span.word + 1
        elif span.phone == align.speech_phone(acoustic) and span.end - span.start >= _LEAST_SPEECH:
            found.append((span, word))
    return found


def _spread_evenly(words: Sequence[Sequence[Phones]], frames: int) -> list[Span]:
    order = [(w, k) for w, choice in enumerate(words) for k in range(len(choice[0]))]
    bounds = np.linspace(0, frames, len(order) + 1).tolist()
    return [
        Span(a, b, words[w][0][k], w, 0, k) for (w, k), (a, b) in zip(order, itertools.pairwise(bounds), strict=True)
    ]


def _pauses(spans: Sequence[Span], frames: int) -> list[tuple[int, int]]:
    """Where to cut: (the word after, frame), at the longest pause in reach of each piece's least and most length."""
    gaps: list[tuple[int, int, int]] = []
    word = -1
    for span in spans:
        if span.word > word >= 0 and (not gaps or gaps[-1][0] < span.word):
            gaps.append((span.word, int(span.start), 0))
        elif span.word < 0 and word >= 0 and span.end < frames - _COARSE:
            gaps.append((word + 1, int(span.start + span.end) // 2, int(span.end - span.start)))
        word = max(word, span.word)
    cuts: list[tuple[int, int]] = []
    begin = 0
    while frames - begin > _LONG:
        reach = [g for g in gaps if begin + _LEAST_PIECE <= g[1] <= begin + _MOST_PIECE]
        reach = reach or [g for g in gaps if g[1] > begin + _MOST_PIECE][:1]
        if not reach:
            break
        unit, begin, _ = max(reach, key=lambda gap: min(gap[2], 100))
        cuts.append((unit, begin))
    return cuts
