"""Where a long recording falls into shots: at the headings of its script, in the pauses before what is said there."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..errors import ScriptError
from .lines import ScriptLine

_HEADING = re.compile(r"\[\s*((?:shot|scene|sequence|sc\.|sh\.|int\b|ext\b|#\s*\d).*?)\s*\]", re.IGNORECASE | re.DOTALL)


@dataclass(frozen=True)
class ShotPart:
    """A shot to be: its name; the seconds it lies on; and the numbers of its lines, its heading not among them."""

    name: str
    start: float
    end: float
    lines: tuple[int, ...]


def heading(text: str) -> str:
    """Return what a line says as a heading: in brackets, and begun with shot, scene, int., ext. or a number sign; ""
    for any other line."""
    found = _HEADING.fullmatch(text.strip())
    return " ".join(found[1].split()) if found else ""


def parts(lines: Sequence[ScriptLine], spans: Mapping[int, tuple[float, float]], seconds: float) -> list[ShotPart]:
    """Return a scene's parts, one for each heading under which something was heard. lines: in their order; spans: of
    each line that was heard, by its number, its first and last second; seconds: of the scene. What comes before the
    first heading is the first part's. ScriptError where there is no heading, or what is heard does not follow them."""
    found: list[tuple[str, list[int]]] = []
    before: list[int] = []
    for line in lines:
        if name := heading(line.text):
            found.append((name, before))
            before = []
        elif found:
            found[-1][1].append(line.id)
        else:
            before.append(line.id)
    heard = [(name, own) for name, own in found if any(number in spans for number in own)]
    if not heard:
        raise ScriptError(
            "The script has no heading under which anything was heard. Put one before each shot, such as [SHOT 0030], "
            "and have the sound read."
        )
    times = [_reach(own, spans) for _, own in heard]
    edges = [0.0]
    for (name, _), (_, last), (first, _) in zip(heard[1:], times, times[1:], strict=False):
        if first < last:
            raise ScriptError(
                f"What is under “{name}” begins before what comes above it has ended; set them apart first."
            )
        edges.append((last + first) / 2)
    edges.append(seconds)
    return [ShotPart(name, *edge, tuple(own)) for (name, own), edge in zip(heard, pairwise(edges), strict=True)]


def halves(
    lines: Sequence[ScriptLine], spans: Mapping[int, tuple[float, float]], at: float, seconds: float, name: str
) -> list[ShotPart]:
    """Return a scene's two parts before and after a second. A line that is heard on both sides is in both; one that is
    not heard goes with the next one that is."""
    first: list[int] = []
    second: list[int] = []
    waiting: list[int] = []
    for line in lines:
        if line.id not in spans:
            waiting.append(line.id)
            continue
        start, end = spans[line.id]
        if start < at:
            first += [*waiting, line.id]
        if end > at:
            second += [*([] if start < at else waiting), line.id]
        waiting = []
    return [ShotPart(f"{name} A", 0.0, at, tuple(first)), ShotPart(f"{name} B", at, seconds, (*second, *waiting))]


def _reach(numbers: Sequence[int], spans: Mapping[int, tuple[float, float]]) -> tuple[float, float]:
    own = [spans[number] for number in numbers if number in spans]
    return min(start for start, _ in own), max(end for _, end in own)
