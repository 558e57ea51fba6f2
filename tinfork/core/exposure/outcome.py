"""What a track gives a viewer, in figures: how calm it is, how many vowels open, how many lips close."""

import itertools
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..mouths.chart import Chart
from ..mouths.shapes import CLOSURES, SHAPES
from .curves import Curves, led
from .events import events
from .stillness import longest_still, said, seen_runs, stands
from .track import Exposure, Settings

_USUAL = Settings()
LONG_SECONDS = 0.08
"""A vowel this long is to be seen opening."""


@dataclass(frozen=True)
class Outcome:
    """Counts of one track, which add up over several.

    exposures; changes: of drawing; speech_seconds: time with sounds; long_vowels and reached: vowels of LONG_SECONDS or
    more, and those whose opening, rounding or spread is shown on a frame whose middle they sound in; vowels and shut:
    vowels of two frames or more, and those shown with shut lips throughout; closures and closed: m b p f v, and those
    seen; rests_in_speech: frames at rest while something sounds; short: exposures below the hold. speaking: frames of
    speech, less those of very long vowels; standing: those of them on which a drawing is held over FEW_SHAPES sounds
    for longer than STILL_SECONDS; long_holds: how often, and longest: for how many frames; beats and beaten: syllables
    between whose vowels the mouth can go toward what is said, and those where it does; doubles: neighbours alike.
    """

    exposures: int = 0
    changes: int = 0
    speech_seconds: float = 0.0
    long_vowels: int = 0
    reached: int = 0
    vowels: int = 0
    shut: int = 0
    closures: int = 0
    closed: int = 0
    rests_in_speech: int = 0
    short: int = 0
    speaking: int = 0
    standing: int = 0
    long_holds: int = 0
    longest: int = 0
    beats: int = 0
    beaten: int = 0
    doubles: int = 0

    def __add__(self, other: "Outcome") -> "Outcome":
        both = {name: value + getattr(other, name) for name, value in asdict(self).items()}
        return Outcome(**both | {"longest": max(self.longest, other.longest)})

    @property
    def changes_per_second(self) -> float:
        """Changes a second of speech."""
        return self.changes / self.speech_seconds if self.speech_seconds else 0.0

    @property
    def share_reached(self) -> float:
        """Of the long vowels, the share whose opening is seen; 1 where there is none."""
        return self.reached / self.long_vowels if self.long_vowels else 1.0


def measure(exposures: Sequence[Exposure], curves: Curves, chart: Chart, settings: Settings = _USUAL) -> Outcome:
    """Return the figures of a track planned from these curves, whose frames are counted from the curves' first."""
    rate = curves.rate
    rows = {d.name: row for row, d in enumerate(chart.drawings)}
    shown = np.repeat([rows.get(e.drawing, -1) for e in exposures], [e.frames for e in exposures])
    rest, shut = chart.nearest(SHAPES["rest"].place), chart.shut()
    ends = {target.sound: target.end for target in curves.targets}
    closures, long_vowels, vowels = [], [], []
    for target in curves.targets:
        end = ends[target.sound]
        whole = replace(target, end=end)
        if target.shape in CLOSURES and (closers := chart.closers(target.shape)):
            closures.append(bool(np.isin(_frames(shown, curves.touched(whole)), closers).any()))
        elif target.nucleus:
            seen = _frames(shown, curves.within(whole))
            if end - target.start >= LONG_SECONDS:
                long_vowels.append(bool(np.isin(seen, chart.openers(target.shape)).any()))
            if (end - target.start) * float(rate) >= 2:
                vowels.append(bool(np.isin(seen, shut).all()))
    frames = len(curves.values)
    lead, hold = [settings.lead] * frames, [settings.hold] * frames
    longest = longest_still(rate, 0.5, settings.hold)
    what = said(curves, led(curves.silent, np.array(lead)))
    held = [stands(one, what) for one in seen_runs(exposures)]
    beats = [event for event in events(curves, chart, hold, lead) if event.beat]
    return Outcome(
        exposures=len(exposures),
        changes=len(exposures) - 1,
        speech_seconds=sum(target.seconds for target in curves.targets),
        long_vowels=len(long_vowels),
        reached=sum(long_vowels),
        vowels=len(vowels),
        shut=sum(vowels),
        closures=len(closures),
        closed=sum(closures),
        rests_in_speech=int((~curves.silent & (shown == rest)).sum()),
        short=sum(e.frames < settings.hold for e in exposures),
        speaking=int(what.speaking.sum()),
        standing=sum(max(0, frames - longest) for frames in held),
        long_holds=sum(frames > longest for frames in held),
        longest=max(held, default=0),
        beats=len(beats),
        doubles=sum(a.drawing == b.drawing for a, b in itertools.pairwise(exposures)),
        beaten=sum(bool(np.isin(shown[e.first : e.last + 1], e.drawings).any()) for e in beats),
    )


def _frames(shown: NDArray[np.int64], frames: range) -> NDArray[np.int64]:
    return shown[frames.start : frames.stop]
