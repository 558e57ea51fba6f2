"""Proposals for everybody in a scene, as a task of the worker."""

from django.db import transaction
from procrastinate.contrib.django import app

from tinfork.core.errors import ActingError
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.queues import WAITED_FOR, enqueue
from tinfork.web.jobs.running import WHEN_THE_DATABASE_IS_BACK, running
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.reading.by_hand import staves_to_show
from tinfork.web.sound.arranging import arrangement_of

from .gesturing import propose
from .models import acting_of


@transaction.atomic
def ask_to_propose(person: Person, scene: Scene) -> Job:
    """Queue proposals for everybody in a scene; the job that waits for the same, if there is one."""
    check(person, scene.production, "edit")
    lock = f"proposals of scene {scene.pk}"
    return enqueue(person, propose_scene, "propose", scene.pk, scene, {}, WAITED_FOR, lock)


@app.task(name="propose_scene", retry=WHEN_THE_DATABASE_IS_BACK)
def propose_scene(job_id: int) -> None:
    """Propose for everybody in a scene, one after the other; each is an edit of their own. Who cannot be proposed for
    is told."""
    with running(job_id) as (job, report):
        scene = Scene.everything.select_related("production").get(pk=job.subject)
        cast = [placed.stave.character for placed in staves_to_show(job.person, scene, arrangement_of(scene))]
        told = []
        for number, character in enumerate(cast):
            try:
                found = propose(job.person, acting_of(scene, character), None, [], [])
                told.append(f"{character}: {found['proposed']} gestures proposed.")
            except ActingError as problem:
                told.append(f"{character}: {problem}")
            report((number + 1) / len(cast))
        job.message = " ".join(told) or "Nobody is in this scene yet."
