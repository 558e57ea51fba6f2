"""How long ten minutes take to plan."""

import time
from collections.abc import Sequence
from fractions import Fraction

from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.track import Settings
from tinfork.core.mouths.chart import built_in
from tinfork.core.speech import read
from tinfork.core.speech.reading import Sound

from .truth import Truth

FPS = Fraction(24)
TEN_MINUTES = 600.0


def table(lines: Sequence[Truth]) -> None:
    """Time of a 10-minute plan."""
    spoken = repeated(read.read(lines[0].recording, lines[0].text).sounds(), lines[0].recording.seconds)
    begun = time.perf_counter()
    shape = curves.curves(spoken, TEN_MINUTES, FPS)
    middle = time.perf_counter()
    plan.plan(shape, built_in(), Settings())
    done = time.perf_counter()
    print(f"10 minutes at 24 fps: curves {middle - begun:.2f} s, plan {done - middle:.2f} s")
    print()


def repeated(sounds: Sequence[Sound], seconds: float) -> list[Sound]:
    """Return the sounds over and over for ten minutes."""
    given = list(sounds)
    return [
        Sound(s.ipa, s.start + k * seconds, s.end + k * seconds, s.confidence, s.stress, s.level)
        for k in range(int(TEN_MINUTES / seconds))
        for s in given
    ]
