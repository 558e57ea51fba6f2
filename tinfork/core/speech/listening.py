"""How sound is best heard, before it is read for good: a first reading of some of it says whose voices they are and how
well they are understood; what is not understood well is heard again, as that voice says it."""

import itertools
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..sound.features import STEP_SECONDS
from .align import Bias, Span
from .fit import Fitted, Unit, fit
from .hearing import Ear, Heard
from .model import AcousticModel
from .throat import ALIKE, LEAST_FRAMES, USUAL

Progress = Callable[[float], None]

_TRIED_SECONDS = 30.0
_WELL, _DOUBTED, _STRANGE = 0.95, 0.85, 0.7
_BETTER, _SURE_ENOUGH = 0.05, 0.75


@dataclass(frozen=True)
class Listened:
    """A script found in a sound. heard: the sound as it is to be read; fitted: where the units lie in it, stretch by
    stretch; warps: of each speaker how much higher their formants lie than usual, where enough was heard of them."""

    heard: Heard
    fitted: Iterator[Fitted]
    warps: Mapping[int, float]


@dataclass(frozen=True)
class ExpectedWords:
    """What is looked for in a sound. units: what is said; speakers: by the units' groups who says it; bias: as fit
    has it."""

    units: Sequence[Unit]
    speakers: Sequence[int]
    bias: Bias | None

    @property
    def several(self) -> bool:
        """Whether more than one speaks."""
        return len(set(self.speakers)) > 1


def listen(
    ear: Ear, script: ExpectedWords, acoustic: AcousticModel, known: Mapping[int, float], progress: Progress
) -> Listened:
    """Hear a sound as it is best understood. known: by speakers, how much higher their formants lie than usual."""
    alone = None if script.several else known.get(script.speakers[0])
    maybe = () if alone is not None else ear.warps()
    usual = maybe[0] if alone is None else alone
    first = _Trial.of(ear.listen(usual, progress=lambda share: progress(share / 2)), script, acoustic)
    if first.doubted:
        first = first.or_other(ear, maybe[1:] or ear.warps(), script, acoustic)
    warps = first.warps(ear, script, known)
    if script.several and max(warps.values(), default=USUAL) > ALIKE * min(warps.values(), default=USUAL):
        apart = _Trial.of(ear.listen(first.by_frame(script, warps)), script, acoustic)
        first = max(first, apart, key=lambda one: one.sure)
    if first.learned:
        return Listened(first.heard, itertools.chain(first.pieces, first.rest), warps)
    heard = first.heard.adapted(well_read(first.pieces), lambda share: progress((1 + share) / 2))
    return Listened(heard, fit(heard.scores, script.units, acoustic, script.bias), warps)


def well_read(pieces: Sequence[Fitted]) -> list[Span]:
    """Return what was read so well that more can be learned from it: words that do not fit teach nothing."""
    both = ((span, sure) for piece in pieces for span, sure in zip(piece.spans, piece.sure, strict=True))
    return [span for span, sure in both if sure >= _SURE_ENOUGH]


@dataclass(frozen=True)
class _Trial:
    """A first reading: of half a minute, or of all where several speak."""

    heard: Heard
    pieces: Sequence[Fitted]
    rest: Iterator[Fitted]
    sure: float

    @staticmethod
    def of(heard: Heard, script: ExpectedWords, acoustic: AcousticModel) -> "_Trial":
        rest = fit(heard.scores, script.units, acoustic, script.bias)
        enough = len(heard.scores) if script.several else _TRIED_SECONDS / STEP_SECONDS
        pieces: list[Fitted] = []
        for piece in rest:
            pieces.append(piece)
            if piece.end - pieces[0].begin >= enough:
                break
        sure = [own for piece in pieces for span, own in zip(piece.spans, piece.sure, strict=True) if span.word >= 0]
        return _Trial(heard, pieces, rest, float(np.mean(sure)) if sure else 0.0)

    def or_other(self, ear: Ear, warps: Sequence[float], script: ExpectedWords, acoustic: AcousticModel) -> "_Trial":
        """Return what is read far better of the same stretch as another voice's, or this."""
        end, last = self.pieces[-1].end, self.pieces[-1].last
        same = replace(script, units=script.units[:last])
        others = [_Trial.of(ear.listen(warp, end), same, acoustic) for warp in warps]
        best = max(others, key=lambda one: one.sure)
        if best.sure <= self.sure + _BETTER:
            return self
        if end == len(self.heard.scores):
            return best
        return _Trial.of(ear.listen(best.heard.warp), script, acoustic)

    @property
    def doubted(self) -> bool:
        """Whether the voice may be quite another. Words that do not fit say nothing of it."""
        fits = not any(piece.squeezed for piece in self.pieces)
        return bool(self.pieces) and self.heard.audible and self.sure < _DOUBTED and fits

    @property
    def learned(self) -> bool:
        """Whether there is nothing to be learned from it: all was read well, or what was read is not what is said."""
        return not _STRANGE <= self.sure < _WELL or not self.heard.audible or any(one.squeezed for one in self.pieces)

    def warps(self, ear: Ear, script: ExpectedWords, known: Mapping[int, float]) -> dict[int, float]:
        """Return how much higher the formants of each speaker lie than usual."""
        if not script.several:
            own = self.heard.warp
            assert isinstance(own, float)
            return {script.speakers[0]: own} if self.heard.audible else {}
        found, who = {}, self._who(script)
        for speaker in sorted(set(script.speakers)):
            there = who == speaker
            if speaker in known:
                found[speaker] = known[speaker]
            elif there.sum() >= LEAST_FRAMES:
                found[speaker] = ear.warps(there)[0]
        return found

    def by_frame(self, script: ExpectedWords, warps: Mapping[int, float]) -> NDArray[np.float64]:
        """Return (frames,) how much higher the formants lie than usual of who speaks there, or spoke last."""
        who = self._who(script)
        last = np.maximum.accumulate(np.where(who >= 0, np.arange(len(who)), 0))
        first = int(np.argmax(who >= 0))
        last[:first] = first
        return np.array([warps.get(int(one), USUAL) for one in who[last]])

    def _who(self, script: ExpectedWords) -> NDArray[np.int64]:
        """(frames,) who speaks; -1 for nobody."""
        who = np.full(len(self.heard.scores), -1)
        for piece in self.pieces:
            for span in piece.spans:
                if span.word >= 0:
                    who[int(span.start) : int(span.end)] = script.speakers[script.units[span.word].group]
        return who
