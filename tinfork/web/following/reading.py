"""What was read of a sound, compared with its next version: as a task of the worker."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction
from procrastinate.contrib.django import app

from tinfork.core.errors import SoundError, TinForkError
from tinfork.core.following.following import follow
from tinfork.core.plain import plain, restore
from tinfork.core.sound import recording
from tinfork.core.sound.recording import Recording
from tinfork.core.speech import words
from tinfork.core.speech.read import LineToRead, read_lines
from tinfork.core.speech.reading import Line, Reading
from tinfork.web.edits.actions import lock_scene
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.queues import WAITED_FOR, enqueue
from tinfork.web.jobs.running import WHEN_THE_DATABASE_IS_BACK, running
from tinfork.web.lexicon.models import lexicon_of
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check, number_of
from tinfork.web.script.actions import script_of
from tinfork.web.script.languages import language_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.listening import open_sounds
from tinfork.web.sound.models import SoundFile
from tinfork.web.staves.planning import planned

from .models import Following

KIND = "follow"
_KEPT = 12
"""So many comparisons of a scene are kept."""


@transaction.atomic
def ask_to_follow(person: Person, scene: Scene, source_id: int, sound: SoundFile) -> Following:
    """Have another version of a sound compared with the one that lies in a scene. TinForkError where there is nothing
    to compare."""
    check(person, scene.production, "edit")
    lock_scene(scene)
    if sound.production_id != scene.production_id:
        raise SoundError("This sound belongs to another production.")
    clips = [clip for clip in arrangement_of(scene).value.clips if clip.source_id == source_id]
    if not clips:
        raise SoundError("The old sound is not in this scene any more; reload the page and choose again.")
    if clips[0].sound == sound.pk:
        raise SoundError(f"“{sound}” is the file that lies here already: there is nothing to do.")
    made = Following.objects.create(
        scene=scene, person_id=number_of(person), source_id=source_id, old_id=clips[0].sound, new=sound
    )
    made.job = enqueue(person, compare, KIND, made.pk, scene, {}, WAITED_FOR)
    made.save(update_fields=["job"])
    old = scene.followings.filter(taken=None).values_list("pk", flat=True)[_KEPT:]
    Following.objects.filter(pk__in=list(old)).delete()
    return made


@app.task(name="follow_sound", retry=WHEN_THE_DATABASE_IS_BACK)
def compare(job_id: int) -> None:
    """Compare a sound with its next version, and read in that what was said anew."""
    with running(job_id) as (job, report):
        asked = Following.objects.select_related("scene__production", "old", "new").get(pk=job.subject)
        known = lines_on(asked.scene, asked.source_id)
        lines = [replace(line, id=place) for place, (_, _, line) in enumerate(known)]
        old, new = _recordings(asked)
        report(0.1)
        reader = _reader(asked.scene, [line for _, _, line in known])
        found = follow(old, new, lines, reader, lambda share: report(0.1 + 0.9 * share))
        asked.found = plain(found)
        asked.of = [[stave, number, plain(line)] for stave, number, line in known]
        asked.save(update_fields=["found", "of"])
        for stave in asked.scene.staves.select_related("character"):
            planned(stave)  # So that it is soon seen what becomes of the mouths.
        if not found.alike:
            job.message = "These are two recordings: what is the same was found by the words."


def _recordings(asked: Following) -> tuple[Recording, Recording]:
    with open_sounds() as path_of:
        clips = arrangement_of(asked.scene).value.clips
        channel = next((clip.channel for clip in clips if clip.source_id == asked.source_id), -1)
        return recording.load(path_of(asked.old, channel)), recording.load(path_of(asked.new, -1))


def lines_on(scene: Scene, source_id: int) -> list[tuple[int, int, Line]]:
    """Return of each line that is heard on a sound its stave, its number there, and it with these words alone."""
    found = []
    for stave in scene.staves.order_by("pk"):
        for number, body in zip(stave.order, stave.bodies(stave.order), strict=True):
            line = restore(body, Line)
            own = tuple(word for word in line.words if word.source_id == source_id)
            if own:
                found.append((stave.pk, number, replace(line, words=own, start=own[0].start, end=own[-1].end)))
    return found


def _reader(scene: Scene, lines: Sequence[Line]) -> Any:
    """Reads lines, which are numbered by their places, as the scene's are read."""
    cast = list(scene.production.characters.all())
    written = {line.id: line for line in script_of(scene).value.lines}

    def read(recorded: Recording, wanted: Sequence[Line], known: Mapping[int, Line]) -> Reading:
        to_read = []
        for line in wanted:
            own = written.get(lines[line.id].id)
            language = language_of(scene, own, cast) if own else scene.production.language
            who, said = (own.character or 0, own.said) if own else (0, {})
            to_read.append(LineToRead(line.text, language, line.id, who, None, None, said))
        tokens = [token for one in to_read for token in words.tokens(one.text, one.language)]
        return read_lines(recorded, to_read, lexicon_of(scene.production, tokens), before=known)

    return read


def following_of(scene: Scene, number: int) -> Following:
    """Return a comparison of a scene. TinForkError where there is none."""
    found = scene.followings.select_related("old", "new", "job").filter(pk=number).first()
    if found is None:
        raise TinForkError("This comparison is gone; choose the new version of the sound again.")
    found.scene = scene
    return found


def running_of(scene: Scene) -> "Job | None":
    """Return the comparison of a scene's sounds that is being made, where one is."""
    own = Job.objects.filter(kind=KIND, scene=scene, state__in=(Job.State.WAITING, Job.State.RUNNING))
    return own.first()
