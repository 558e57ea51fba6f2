"""What a person sets again and again: the same drawing for the same sound. It is offered as a rule, and a rule is an
aim: the sound is planned towards that drawing wherever nobody decided otherwise."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..mouths.chart import Chart
from .curves import Target
from .track import NOTHING, Exposure, Pin

OFTEN = 3
"""So often the same correction makes a habit."""


@dataclass(frozen=True)
class Habit:
    """A sound in IPA, the drawing it was given, and how often."""

    ipa: str
    drawing: str
    times: int


def habits(corrections: Iterable[tuple[str, str]]) -> tuple[Habit, ...]:
    """Return what was done often: the same drawing for the same sound. corrections: each a sound in IPA, and a
    drawing."""
    often = Counter(corrections).most_common()
    return tuple(Habit(sound, drawing, times) for (sound, drawing), times in often if times >= OFTEN)


def is_correction(pin: Pin, planned: Iterable[Exposure]) -> bool:
    """Return whether a person chose a drawing that would not be there without them. planned: what is, around the
    pin."""
    middle = pin.frame + pin.frames // 2
    return pin.chosen and pin.drawing not in (NOTHING, *(e.drawing for e in planned if e.frame <= middle < e.end))


def sound_of(pin: Pin, targets: Iterable[Target], rate: Fraction, lead: int) -> int | None:
    """Return the number of the sound a pin is set for: the one it covers most of, shown as early as the lead asks."""
    best, most = None, 0.0
    for target in targets:
        begin, end = (time * float(rate) - lead for time in (target.start, target.end))
        covered = (min(pin.end, end) - max(pin.frame, begin)) / max(end - begin, 1e-9)
        if covered > most:
            best, most = target.sound, covered
    return best


@dataclass(frozen=True)
class Changed:
    """A place where a rule shows something else: from a frame on, for some frames, one drawing instead of another."""

    frame: int
    frames: int
    was: str
    now: str


def changed(before: Sequence[Exposure], after: Sequence[Exposure]) -> tuple[Changed, ...]:
    """Return where two tracks of the same frames show different drawings."""
    old = [e.drawing for e in before for _ in range(e.frames)]
    new = [e.drawing for e in after for _ in range(e.frames)]
    first = before[0].frame if before else 0
    found: list[Changed] = []
    for frame, (was, now) in enumerate(zip(old, new, strict=True), first):
        if was == now:
            continue
        last = found[-1] if found else None
        if last and last.frame + last.frames == frame and (last.was, last.now) == (was, now):
            found[-1] = Changed(last.frame, last.frames + 1, was, now)
        else:
            found.append(Changed(frame, 1, was, now))
    return tuple(found)


def aims_of(rules: Iterable[tuple[str, str, tuple[float, ...]]], chart: Chart) -> dict[str, tuple[float, ...]]:
    """Return for each sound that has a rule where its mouth is to be: at the drawing's place, as the chart has it
    now."""
    places = {d.name: d.place for d in chart.drawings}
    return {ipa: tuple(places.get(drawing, place)) for ipa, drawing, place in rules}
