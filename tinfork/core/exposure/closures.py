"""When each closure must be seen: one frame for every m, b, p and f, v, far enough apart to be held."""

from dataclasses import dataclass
from fractions import Fraction

from ..mouths.chart import Chart
from ..mouths.shapes import CLOSURES
from .curves import Target


@dataclass(frozen=True)
class Closure:
    """On this frame one of these drawings (rows of the chart) is to be seen. sound: its number in the reading."""

    frame: int
    drawings: tuple[int, ...]
    sound: int


def closures(
    targets: tuple[Target, ...], chart: Chart, rate: Fraction, frames: int, hold: int, lead: int
) -> list[Closure]:
    """One frame within each closing sound, as early as the lead allows.

    Where two different closures are closer than a hold, the earlier is moved ahead, so that both can be held.
    A chart with no drawing that closes has none.
    """
    closers = {shape: chart.closers(shape) for shape in CLOSURES}
    wanted = [t for t in targets if t.shape in CLOSURES and closers[t.shape]]
    windows = [_window(t, rate, frames) for t in wanted]
    kinds = [closers[t.shape] for t in wanted]
    latest = [last for _, last in windows]
    for i in range(len(wanted) - 2, -1, -1):
        latest[i] = max(0, min(latest[i], latest[i + 1] - _apart(kinds[i], kinds[i + 1], hold)))
    found: list[Closure] = []
    for i, (target, (first, _)) in enumerate(zip(wanted, windows, strict=True)):
        middle = int((target.start + target.end) / 2 * rate) - lead
        frame = min(max(first, middle), latest[i])
        if found:
            frame = max(frame, found[-1].frame + _apart(kinds[i - 1], kinds[i], hold))
        found.append(Closure(min(frame, frames - 1), kinds[i], target.sound))
    return found


def _window(target: Target, rate: Fraction, frames: int) -> tuple[int, int]:
    first = min(int(target.start * rate + 1e-9), frames - 1)
    last = min(max(first, -int(-target.end * rate // 1) - 1), frames - 1)
    return first, last


def _apart(one: tuple[int, ...], other: tuple[int, ...], hold: int) -> int:
    """Least frames between two closures: none when one drawing may serve both."""
    return 0 if set(one) & set(other) else hold
