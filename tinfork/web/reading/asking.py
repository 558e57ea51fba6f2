"""Asking for a scene to be read."""

from collections.abc import Iterable

from django.db import transaction

from tinfork.core.errors import ScriptError, TinForkError
from tinfork.core.script.casting import cast_lines, unwritten
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check, number_of
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of

from .scene import changed_lines
from .tasks import read_scene


@transaction.atomic
def ask_to_read(
    person: Person, scene: Scene, lines: Iterable[int] = (), words: Iterable[tuple[int, int]] = (), all: bool = False
) -> Job:
    """Queue a reading; the job that is already waiting for the same, if there is one.

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
    asked = {"lines": wanted, "words": sorted(map(list, words))}
    waiting = Job.objects.filter(kind="read", subject=scene.pk, state=Job.State.WAITING, asked=asked).first()
    if waiting:
        return waiting
    job = Job.objects.create(scene=scene, person_id=number_of(person), kind="read", subject=scene.pk, asked=asked)
    read_scene.defer(job_id=job.pk)
    return job
