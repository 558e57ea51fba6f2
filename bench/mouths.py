"""What a viewer sees of a line: vowels that open, lips that close, syllables that beat, how calm it stays, and how much
of it an edit moves."""

import functools
import itertools
import operator
import random
from collections.abc import Iterable, Iterator, Sequence
from fractions import Fraction

from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.curves import Curves
from tinfork.core.exposure.outcome import Outcome, measure
from tinfork.core.exposure.track import Pin, Settings
from tinfork.core.formats import chart_folder
from tinfork.core.mouths.chart import Chart, Drawing, built_in
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.speech import read
from tinfork.web.demo.drawings import CARVED, carved, panels

from . import made, sentences, truth

FPS = Fraction(24)
SPEEDS = {"fast": 0.7, "even": 1.0, "slow": 1.4}
DIALS = [Settings(hold=hold, detail=detail) for hold in (2, 1, 3) for detail in (0.0, 0.5, 1.0)]


def table() -> None:
    """Two synthesisers, read with their text; the prices of the plan were chosen on the tune lines only."""
    halves = {"tune": sentences.ENGLISH[0::2], "test": sentences.ENGLISH[1::2]}
    print(
        "Mouths at 24 fps, lead 1, over the readings of their lines: four voices at three speeds; eSpeak; and sentences"
    )
    print("made at random. Still: held over three shapes or more for longer than a third of a second.")
    print(
        f"{'lines':<12}{'hold':>5}{'Detail':>7}{'vowels reached':>16}{'shut':>12}{'closures seen':>16}"
        f"{'rest in speech':>16}{'too short':>10}{'changes/s':>11}{'longest':>9}{'still':>8}{'beats':>14}{'doubles':>9}"
    )
    for half, texts in halves.items():
        spoken = {speed: curves_of(texts, stretch) for speed, stretch in SPEEDS.items()}
        for settings in DIALS:
            row(half, [line for lines in spoken.values() for line in lines], settings)
        for speed, lines in spoken.items():
            row(f"{half}, {speed}", lines, Settings())
        row(f"{half}, eSpeak", read_lines(truth.espeak(text, "en-us") for text in texts), Settings())
        seed = list(halves).index(half) + 1
        row(f"{half}, made", read_lines(_made(seed)), Settings())
    every = [line for lines in spoken.values() for line in lines]
    for name, chart in {**demo_charts(), "five": FIVE, "sixty": sixty()}.items():
        row(name, every, Settings(), chart)
    print()
    edits(every)


MADE = 300
FIVE = Chart(tuple(Drawing(name, SHAPES[name].place) for name in ("rest", "teeth", "half", "open", "purse")))
"""Five drawings, of which the one at rest is also the only one that closes."""


def sixty() -> Chart:
    """Return sixty drawings: our thirteen, and others at random near them."""
    chance, shapes = random.Random(1), list(SHAPES.values())
    near = [
        Drawing(f"{n} {s.name}", tuple(min(1.0, max(0.0, v + chance.uniform(-0.15, 0.15))) for v in s.place))
        for n, s in enumerate(chance.choices(shapes, k=60 - len(shapes)))
    ]
    return Chart((*built_in().drawings, *near))


def _made(seed: int) -> Iterator[truth.Truth]:
    voices = itertools.cycle(itertools.product((*truth.FLITE_VOICES, "eSpeak"), SPEEDS.values()))
    for text, (voice, stretch) in zip(made.sentences(seed, MADE), voices, strict=False):
        if voice == "eSpeak":
            yield truth.espeak(text, "en-us", int(160 / stretch))
        else:
            yield truth.flite(text, voice, stretch)


def edits(lines: Sequence[Curves], count: int = 200) -> None:
    """How many drawings outside of a change change with it: a drawing pinned at random, planned with what was there and
    as if nothing had been."""
    chance, chart, dial = random.Random(7), built_in(), Settings()
    names = [drawing.name for drawing in chart.drawings]
    outside, kept, fresh = 0, 0, 0
    for line in chance.choices(lines, k=count):
        track = plan.exposures(line, chart, dial)
        pin = Pin(chance.randrange(len(line.values) - 4), chance.choice((2, 3, 4)), chance.choice(names))
        away = {e for e in track if e.end <= pin.frame or e.frame >= pin.end}
        outside += len(away)
        before = plan.Before(track, [range(pin.frame, pin.end)])
        kept += len(away - set(plan.exposures(line, chart, dial, [pin], (), before)))
        fresh += len(away - set(plan.exposures(line, chart, dial, [pin])))
    print(f"{count} drawings pinned at random: of {outside} outside of them {kept} changed; planned anew {fresh}")
    print()


def demo_charts() -> dict[str, Chart]:
    """Return what the demo's pictures are measured as."""
    drawings = {"carved": {name: carved(shape) for name, shape in CARVED.items()}, "five panels": panels()}
    files = {name: {f"{one}.svg": svg.encode() for one, svg in own.items()} for name, own in drawings.items()}
    return {name: chart_folder.read(own).in_mood() for name, own in files.items()}


def curves_of(texts: Sequence[str], stretch: float) -> list[Curves]:
    """Return the articulation of the texts as each voice speaks them. stretch: over 1 is slower."""
    return read_lines(truth.flite(text, voice, stretch) for voice in truth.FLITE_VOICES for text in texts)


def read_lines(lines: Iterable[truth.Truth]) -> list[Curves]:
    """Return the articulation of spoken lines, as they are read with their text."""
    readings = (read.read(line.recording, line.text) for line in lines)
    return [curves.curves(reading.sounds(), reading.seconds, FPS) for reading in readings]


def row(name: str, lines: Sequence[Curves], settings: Settings, chart: Chart | None = None) -> None:
    """One line of the table: counts over all lines, planned with our thirteen drawings or a chart's."""
    chart = chart or built_in()
    found = functools.reduce(
        operator.add,
        (measure(plan.plan(line, chart, settings), line, chart, settings) for line in lines),
        Outcome(),
    )
    print(
        f"{name:<12}{settings.hold:>5}{settings.detail:>7}{found.share_reached * 100:>11.1f}% {found.long_vowels:<4}"
        f"{found.shut:>6} of {found.vowels:<4}{found.closed:>6} of {found.closures:<4}"
        f"{found.rests_in_speech:>13}{found.short:>12}{found.changes_per_second:>11.2f}"
        f"{found.longest:>9}{found.standing / found.speaking * 100:>7.1f}%"
        f"{found.beaten / max(1, found.beats) * 100:>8.1f}% {found.beats:<5}{found.doubles:>8}",
        flush=True,
    )
