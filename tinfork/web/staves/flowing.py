"""Mouths that flow by a chart's own drawings between two others, where a person asked for it."""

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import replace
from functools import cache

from tinfork.core.exposure.betweens import drawing_between, with_betweens
from tinfork.core.mouths.chart import Drawing

from .mouths import Mouths, NamedDrawing
from .placing import Placed
from .seeing import Seen


def with_drawings_between(placed: Placed, found: Sequence[Seen], own: Mouths) -> list[Seen]:
    """Return what is seen with drawings between, before the seams that are eased by them."""
    over = {frame: one.ease if one.drawn else 0 for span, one in placed.eases for frame in span}
    if not any(over.values()):
        return list(found)

    @cache
    def between(before: str, after: str) -> str | None:
        there = [own.names.get(name) for name in (before, after)]
        if None in there or _set_of(there[0]) != _set_of(there[1]):
            return None
        alike = [one for one in own.shown if _set_of(one) == _set_of(there[0]) and not _is_for_hands(one)]
        return drawing_between(
            own.place_of(before), own.place_of(after), [Drawing(one.name, one.place) for one in alike]
        )

    begins = [one.exposure.frame for one in found]
    exposures = with_betweens([one.exposure for one in found], lambda frame: over.get(frame, 0), between)
    return [replace(found[bisect_right(begins, e.frame) - 1], exposure=e) for e in exposures]


def _set_of(one: NamedDrawing | None) -> tuple[str, str]:
    """The chart and the mood a drawing is of."""
    assert one
    return one.lent, one.drawing.mood if one.drawing else ""


def _is_for_hands(one: NamedDrawing) -> bool:
    return bool(one.drawing and one.drawing.special)
