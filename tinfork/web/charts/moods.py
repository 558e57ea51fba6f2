"""Moods and views of a chart: each a full or a partial set of drawings. What a mood lacks the neutral ones stand in
for; what a view lacks the nearest of it, its mirror image, or the nearest view. A set is of a view by its name, and may
be of a mood too: “side left”, “happy side left”."""

from collections.abc import Iterable, Sequence

from tinfork.core.mouths.chart import NEAR, Chart, Drawing, distance
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.views import FRONT, in_order, nearest_view, view_in

from .models import ChartDrawing, MouthChart


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


def set_of(mood: str) -> tuple[str, str]:
    """Return the view and the mood that the name of a set speaks of.

    >>> set_of("happy side left"), set_of("side left"), set_of("sad")
    (('side left', 'happy'), ('side left', 'neutral'), ('front', 'sad'))
    """
    view, rest = view_in(mood)
    return view or FRONT, (rest or NEUTRAL) if view else mood


def views_of(drawings: Sequence[ChartDrawing]) -> list[str]:
    """Return the views there are drawings of beside the front, in order."""
    return _views_in(d.mood for d in drawings)


def views_of_chart(chart: MouthChart) -> list[str]:
    """Return the same of a chart whose drawings are not loaded."""
    return _views_in(chart.drawings.order_by().values_list("mood", flat=True).distinct())


def _views_in(sets: Iterable[str]) -> list[str]:
    found = {set_of(one)[0] for one in sets}
    return [view for view in in_order(found) if view != FRONT]


def in_view(drawings: Sequence[ChartDrawing], view: str) -> dict[str, tuple[str, bool]]:
    """Return what is shown in a view for each drawing, by the names they have in tracks, and whether mirrored: the one
    of that name in the same mood, else the one that stands in for it there, shut for shut. Nothing where the front is
    what comes nearest, nor for what is of that view."""
    sets: dict[str, dict[str, list[ChartDrawing]]] = {}
    for one in drawings:
        own, mood = set_of(one.mood)
        if not one.special:
            sets.setdefault(own, {}).setdefault(mood, []).append(one)
    there, mirrored = nearest_view(view, sets)
    if there == FRONT:
        return {}
    found = {}
    for one in drawings:
        own, mood = set_of(one.mood)
        if own != there or mirrored:
            found[one.called] = (_standing_for(one, mood, sets[there]).called, mirrored)
    return found


def _standing_for(one: ChartDrawing, mood: str, moods: dict[str, list[ChartDrawing]]) -> ChartDrawing:
    """The drawing of a view that is shown for another: in its mood, as far as that has it; else in any."""
    own = moods.get(mood, [])
    found = _nearest_of(one, own) if own else None
    if found and (found.name == one.name or distance(found.articulation, one.articulation) <= NEAR):
        return found
    return _nearest_of(one, moods.get(NEUTRAL) or next(iter(moods.values())))


def _nearest_of(one: ChartDrawing, own: list[ChartDrawing]) -> ChartDrawing:
    named = next((other for other in own if other.name == one.name), None)
    if named:
        return named
    chart = Chart(tuple(Drawing(str(at), other.articulation) for at, other in enumerate(own)))
    return own[chart.stand_in(one.articulation)]
