"""Asking for a scene to be read."""

from collections.abc import Iterable, Mapping
from typing import Any

from django.db import transaction

from tinfork.core.errors import ScriptError, TinForkError
from tinfork.core.script.casting import cast_lines, unwritten
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.queues import WAITED_FOR, enqueue
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of

from .scene import changed_lines
from .tasks import read_scene, versions_of

_FEW_LINES, _SHORT_SECONDS = 12, 90


@transaction.atomic
def ask_to_read(
    person: Person, scene: Scene, lines: Iterable[int] = (), words: Iterable[tuple[int, int]] = (), all: bool = False
) -> Job:
    """Queue a reading; the job that waits for the same, or does it, if there is one, with nothing changed since.

    lines: only these; else those that were never read or have changed since, and where that is none, or all is set,
    every line. words: of one line only these words, by their places in their stave's reading.
    """
    check(person, scene.production, "edit")
    document = arrangement_of(scene)
    if not any(track.is_read and track.clips for track in document.value.tracks):
        raise TinForkError("There is no sound yet; bring a recording in under Sound first.")
    casting = cast_lines(document.value, script_of(scene).value)
    if not casting.parts and not unwritten(document.value, casting):
        raise ScriptError("There is no sound for these lines; say who speaks them, or bring the sound in.")
    wanted = sorted(set(lines)) or ([] if all else sorted(changed_lines(scene)))
    asked: dict[str, list[Any]] = {"lines": wanted, "words": sorted(map(list, words))}
    running = Job.objects.filter(kind="read", subject=scene.pk, state=Job.State.RUNNING, of=versions_of(scene)).first()
    if running and _includes(running.asked, asked):
        return running
    # One of those that keep a reader for minutes at a time: the others are there for who asks for a line.
    long = len(wanted) > _FEW_LINES or (not wanted and document.value.frames > _SHORT_SECONDS * scene.fps)
    lock = "a long reading" if long else f"reading of scene {scene.pk}"
    return enqueue(person, read_scene, "read", scene.pk, scene, asked, WAITED_FOR, lock)


def _includes(one: Mapping[str, list[Any]], other: Mapping[str, list[Any]]) -> bool:
    """Whether a reading of what one asks for reads all that the other does."""
    return not one["lines"] or (bool(other["lines"]) and set(other["lines"]) <= set(one["lines"]) and not one["words"])
