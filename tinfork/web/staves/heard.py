"""What was heard of a scene's lines, in brief: enough for the Script view, whatever their number."""

import functools
from collections.abc import Iterable
from dataclasses import dataclass

from tinfork.core.script.casting import clips_of
from tinfork.core.sound.anchors import placed_span
from tinfork.web.productions.models import Scene
from tinfork.web.sound.models import Arrangement

from .models import ReadLine


@dataclass(frozen=True)
class Heard:
    """start: where a line begins in the scene, in seconds; sure: 0..1; words: how many; pause: the number of the word
    after its longest pause, and how many seconds that is."""

    start: float
    sure: float
    words: int
    pause: tuple[int, float] | None


def heard_lines(scene: Scene, arrangement: Arrangement, ids: Iterable[int] | None = None) -> dict[int, Heard]:
    """Return what was heard of the script's lines of these ids, or of all, where their sound lies in the scene now."""
    rows = ReadLine.objects.filter(stave__scene=scene).order_by("stave", "number")
    if ids is not None:
        rows = rows.filter(line__in=list(ids))
    own_clips = functools.cache(functools.partial(clips_of, arrangement.value))
    found: dict[int, Heard] = {}
    for character, line, heard in rows.values_list("stave__character", "line", "heard"):
        at = placed_span(heard["start"], heard["start"], heard["source_id"], own_clips(character), float(scene.fps))
        if at is not None and at[0] is not None:
            pause = (heard["pause"][0], heard["pause"][1]) if heard["pause"] else None
            found.setdefault(line, Heard(at[0], heard["sure"], heard["words"], pause))
    return found
