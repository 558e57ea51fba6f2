"""Moods of a chart: each a full or a partial set of drawings; what one lacks the neutral ones stand in for."""

from collections.abc import Sequence

from tinfork.core.mouths.chart import NEAR, distance
from tinfork.core.mouths.hints import NEUTRAL

from .models import ChartDrawing


def moods_of(drawings: Sequence[ChartDrawing]) -> list[str]:
    """Return the moods there are, neutral first."""
    return sorted({d.mood for d in drawings}, key=lambda mood: (mood != NEUTRAL, mood))


def in_mood(drawings: Sequence[ChartDrawing], mood: str) -> dict[str, str]:
    """Return what is shown in a mood for each neutral drawing, by the names they have in tracks: the mood's drawing of
    that name, or the one nearest to it if that passes for it. What is not named has none, and stays as it is."""
    own = [d for d in drawings if d.mood == mood and not d.special] if mood != NEUTRAL else []
    names = {d.name: d for d in own}
    found = {}
    for neutral in drawings if own else ():
        if neutral.mood != NEUTRAL:
            continue
        nearest = min(own, key=lambda d: distance(d.articulation, neutral.articulation))
        if neutral.name in names:
            found[neutral.called] = names[neutral.name].called
        elif distance(nearest.articulation, neutral.articulation) <= NEAR:
            found[neutral.called] = nearest.called
    return found


def lacking(drawings: Sequence[ChartDrawing], mood: str) -> list[str]:
    """Return the neutral drawings that a mood has nothing for, and that are shown in it."""
    if mood == NEUTRAL:
        return []
    found = in_mood(drawings, mood)
    return [d.name for d in drawings if d.mood == NEUTRAL and not d.special and d.called not in found]
