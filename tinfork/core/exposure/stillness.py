"""Where a mouth is seen to stand still: over which frames somebody speaks, and how much is said on them.

A drawing may be held as long as one sound lasts; held over one syllable after another, it looks frozen. The longer it
is held and the more it passes over, the more it is seen.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ..mouths.shapes import NAMES
from .curves import Curves, Target
from .track import Exposure, on_the_dial

STILL_SECONDS = 1 / 3
"""A drawing held longer than this over FEW_SHAPES sounds of different shapes is seen to stand still."""

FEW_SHAPES = 3

CALM_SHARE, CRISP_SHARE = 1.5, 0.75
"""At Detail 0 it may be held for so much of STILL_SECONDS, at Detail 1 for so much; between them by even ratios."""

_PASSED = 0.4
"""What each syllable costs that passes while a drawing stands, in the plan's money: the likeness of a frame."""

_FROZEN = 8.0
"""And each frame longer than it may stand: more than any change."""

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class SpeechByFrame:
    """What is said while each frame is shown, each (frames,). speaking: whether anything is, of a vowel that lasts
    longer than STILL_SECONDS not counted, as it may be held; shapes: the shapes of the sounds whose middle is shown
    there, a bit each; syllables: how many syllables reach their middle there."""

    speaking: Bools
    shapes: Ints
    syllables: Ints

    def through(self, gaps: Bools) -> "SpeechByFrame":
        """Return the same where some frames of silence, (frames,), count as well."""
        return replace(self, speaking=self.speaking | gaps)


def said(curves: Curves, source: Ints) -> SpeechByFrame:
    """Return what is said while each frame is shown. source: (frames,) the frame of the curves that is shown on each,
    which never falls."""
    frames = len(curves.values)
    counted, shapes, syllables = ~curves.silent, np.zeros(frames, np.int64), np.zeros(frames, np.int64)
    sounds = spoken(curves)
    middles = np.array([(first.start + end) / 2 for first, end, _ in sounds])
    sounding = np.floor(middles * float(curves.rate)).astype(np.int64) - curves.first
    shown = np.maximum(np.searchsorted(source, sounding, side="right") - 1, 0)
    for (first, end, within), middle, at in zip(sounds, sounding.tolist(), shown.tolist(), strict=True):
        if first.nucleus and end - first.start > STILL_SECONDS:
            counted[within.start : within.stop] = False
        if 0 <= middle < frames:
            shapes[at] |= 1 << NAMES.index(first.shape)
            syllables[at] += first.nucleus
    return SpeechByFrame(counted[source], shapes, syllables)


def spoken(curves: Curves) -> list[tuple[Target, float, range]]:
    """Return the first aim of each sound, with when the sound ends and the frames in whose middle it sounds: a
    diphthong is one."""
    found: list[tuple[Target, float, range]] = []
    for target, within in zip(curves.targets, curves.all_within, strict=True):
        if found and found[-1][0].sound == target.sound:
            found[-1] = (found[-1][0], target.end, range(found[-1][2].start, within.stop))
        else:
            found.append((target, target.end, within))
    return found


def longest_still(rate: Fraction, detail: float, hold: int) -> int:
    """Return how many frames of speech a drawing may be held over FEW_SHAPES sounds."""
    return max(hold, round(STILL_SECONDS * on_the_dial(detail, CALM_SHARE, 1.0, CRISP_SHARE) * float(rate)))


def still_costs(what: SpeechByFrame, longest: Ints, hold: Ints) -> Array:
    """Return (frames, ages): what it costs on each frame that a drawing stands there which has been shown for so
    many frames before. More for each syllable passed; and much beyond the longest. longest, hold: (frames,) in
    frames.

    Each frame looks back as far as its own settings ask, and no farther where others elsewhere ask for more."""
    own = np.maximum(hold, longest + 2)
    ages = int(own.max(initial=1))
    frames = np.arange(len(longest))
    cost = np.zeros((len(frames), ages))
    count, syllables = (np.concatenate([[0], np.cumsum(one)]) for one in (what.speaking, what.syllables))
    shapes = np.zeros(len(frames), np.int64)
    for age in range(ages):
        first = np.maximum(0, frames - age)
        shapes |= np.where(frames >= age, what.shapes[first], 0)
        # A drawing that comes up just after a syllable's middle has not let it pass unseen: it came too late for it.
        passed = syllables[frames + 1] - syllables[np.maximum(0, first - 1)] - 1
        cost[:, age] += _PASSED * np.where(what.syllables > 0, np.maximum(0, passed), 0)
        over = what.speaking & (np.bitwise_count(shapes) >= FEW_SHAPES) & (count[frames + 1] - count[first] > longest)
        # What was shown for longer than is looked back on was shown before, for sounds that are out of sight.
        over |= (age + 1 == own) & what.speaking & (np.bitwise_count(shapes) >= FEW_SHAPES - 1)
        cost[over, age] += _FROZEN
    return np.take_along_axis(cost, np.minimum(np.arange(ages), own[:, None] - 1), axis=1)


def seen_runs(exposures: Iterable[Exposure]) -> list[Exposure]:
    """Return what a viewer tells apart: neighbours of one drawing as one."""
    found: list[Exposure] = []
    for e in exposures:
        if found and found[-1].drawing == e.drawing:
            found[-1] = replace(found[-1], frames=e.end - found[-1].frame)
        else:
            found.append(e)
    return found


def stands(run: Exposure, what: SpeechByFrame) -> int:
    """Return how many frames of speech a drawing is held over FEW_SHAPES sounds or more; 0 where there are fewer. The
    frames of the run are counted as those of what is said."""
    here = slice(max(0, run.frame), max(0, run.end))
    shapes = int(np.bitwise_or.reduce(what.shapes[here], initial=0))
    return int(what.speaking[here].sum()) if shapes.bit_count() >= FEW_SHAPES else 0
