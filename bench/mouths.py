"""What a viewer sees of a line: vowels that open, lips that close, and how calm it stays."""

import functools
import operator
from collections.abc import Sequence
from fractions import Fraction

from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.curves import Curves
from tinfork.core.exposure.outcome import Outcome, measure
from tinfork.core.exposure.track import Settings
from tinfork.core.formats import chart_folder
from tinfork.core.mouths.chart import Chart, built_in
from tinfork.core.speech import read
from tinfork.web.demo.drawings import CARVED, carved, panels

from . import sentences, truth

FPS = Fraction(24)
SPEEDS = {"fast": 0.7, "even": 1.0, "slow": 1.4}
DIALS = [Settings(hold=hold, detail=detail) for hold in (2, 1, 3) for detail in (0.0, 0.5, 1.0)]


def table() -> None:
    """Four voices at three speeds, read with their text; the prices of the plan were chosen on the tune lines only."""
    halves = {"tune": sentences.ENGLISH[0::2], "test": sentences.ENGLISH[1::2]}
    print("Mouths at 24 fps, lead 1: four voices at three speeds, over the readings of their lines")
    print(
        f"{'lines':<12}{'hold':>5}{'Detail':>7}{'vowels reached':>16}{'shut':>12}{'closures seen':>16}"
        f"{'rest in speech':>16}{'too short':>10}{'changes/s':>11}"
    )
    for half, texts in halves.items():
        spoken = {speed: curves_of(texts, stretch) for speed, stretch in SPEEDS.items()}
        for settings in DIALS:
            row(half, [line for lines in spoken.values() for line in lines], settings)
        for speed, lines in spoken.items():
            row(f"{half}, {speed}", lines, Settings())
    every = [line for lines in spoken.values() for line in lines]
    for name, chart in demo_charts().items():
        row(name, every, Settings(), chart)
    print()


def demo_charts() -> dict[str, Chart]:
    """What the demo's pictures are measured as."""
    drawings = {"carved": {name: carved(shape) for name, shape in CARVED.items()}, "five panels": panels()}
    files = {name: {f"{one}.svg": svg.encode() for one, svg in own.items()} for name, own in drawings.items()}
    return {name: chart_folder.read(own).in_mood() for name, own in files.items()}


def curves_of(texts: Sequence[str], stretch: float) -> list[Curves]:
    """The articulation of the texts as each voice speaks them. stretch: over 1 is slower."""
    lines = (truth.flite(text, voice, stretch) for voice in truth.FLITE_VOICES for text in texts)
    readings = (read.read(line.recording, line.text) for line in lines)
    return [curves.curves(reading.sounds(), reading.seconds, FPS) for reading in readings]


def row(name: str, lines: Sequence[Curves], settings: Settings, chart: Chart | None = None) -> None:
    """One line of the table: counts over all lines, planned with our thirteen drawings or a chart's."""
    chart = chart or built_in()
    found = functools.reduce(
        operator.add,
        (measure(plan.plan(line, chart, settings), line, chart, settings.hold) for line in lines),
        Outcome(),
    )
    print(
        f"{name:<12}{settings.hold:>5}{settings.detail:>7}{found.share_reached * 100:>11.1f}% {found.long_vowels:<4}"
        f"{found.shut:>6} of {found.vowels:<4}{found.closed:>6} of {found.closures:<4}"
        f"{found.rests_in_speech:>13}{found.short:>12}{found.changes_per_second:>11.2f}",
        flush=True,
    )
