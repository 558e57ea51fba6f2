"""Where notes of reviews lie in a scene, and frames as runs."""

import itertools
from collections.abc import Iterable

from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person

from .models import timing_of

Places = dict[str, list[int]]


def place_comments(person: Person, scene: Scene, places: Places, verb: str) -> None:
    """Let the notes of a scene lie on other frames, [first, last], by their numbers; undone with what it is done in."""
    own = {str(one.pk): [one.frame, one.end] for one in scene.comments.all()}
    changed = {key: place for key, place in places.items() if own.get(key) != place}
    if changed:
        timing = edits.locked(person, timing_of(scene))
        edits.change(person, timing, verb, {"places": own})
        edits.change(person, timing, verb, {"places": own | changed})


def as_runs(frames: Iterable[int]) -> list[range]:
    """Return frames, in their order, as runs of those that follow one another."""
    found = []
    for _, group in itertools.groupby(enumerate(frames), key=lambda pair: pair[1] - pair[0]):
        own = [frame for _, frame in group]
        found.append(range(own[0], own[-1] + 1))
    return found
