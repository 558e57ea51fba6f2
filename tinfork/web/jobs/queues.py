"""Who comes when: what somebody sits and waits for has a queue, and workers, of its own; in each queue everybody's
first comes before anybody's second."""

from collections.abc import Mapping
from typing import Any, TypeAlias

from django.contrib.auth import get_user_model
from django.db import connection
from django.db.models import Q
from procrastinate.tasks import Task

from tinfork.core.errors import TinForkError
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, number_of

from .models import Job

WAITED_FOR, LATER = Job.Queue.WAITED_FOR, Job.Queue.LATER
MOST_WAITING = 12
"""So many pieces of work of one person wait in a queue."""

JobTask: TypeAlias = "Task[Any, Any, Any]"

_ORDER = """
    UPDATE procrastinate_jobs waiting SET priority = job.priority FROM jobs_job job
    WHERE waiting.status = 'todo' AND (waiting.args ->> 'job_id')::bigint = job.id
      AND job.person_id = %s AND job.queue = %s AND waiting.priority <> job.priority
"""


def enqueue(
    person: Person,
    task: JobTask,
    kind: str,
    subject: int,
    scene: Scene | None = None,
    asked: Mapping[str, Any] = {},
    queue: str = LATER,
    lock: str | None = None,
    most: int = MOST_WAITING,
) -> Job:
    """Queue a piece of work within a transaction; what is waiting already and asks for the same is it. lock: of several
    with the same one is done at a time. TinForkError when most of the person's wait already."""
    who = number_of(person)
    get_user_model().objects.select_for_update(no_key=True).only("pk").get(pk=who)
    waiting = Job.objects.filter(state=Job.State.WAITING, queue=queue)
    same = waiting.filter(kind=kind, subject=subject, scene=scene, asked=dict(asked)).first()
    if same:
        return same
    if waiting.filter(person=who).count() >= most:
        raise TinForkError(f"{most} pieces of your work are waiting already; let some be done, or cancel them.")
    job = Job.objects.create(
        scene=scene, person_id=who, kind=kind, subject=subject, asked=dict(asked), queue=queue, priority=0
    )
    order(who, queue)
    job.refresh_from_db(fields=["priority"])
    task.configure(queue=queue, priority=job.priority, lock=lock).defer(job_id=job.pk)
    return job


def order(person: int, queue: str) -> None:
    """Number what a person waits for in a queue: their first has priority 0, the second -1, and what is being done for
    them counts too."""
    own = Job.objects.filter(person=person, queue=queue, state__in=(Job.State.WAITING, Job.State.RUNNING))
    ranked = sorted(own.only("pk", "state", "priority"), key=lambda job: (job.state == Job.State.WAITING, job.pk))
    for rank, job in enumerate(ranked):
        if job.priority != -rank:
            Job.objects.filter(pk=job.pk).update(priority=-rank)
    with connection.cursor() as cursor:
        cursor.execute(_ORDER, [person, queue])


def before(job: Job) -> int:
    """Return how many pieces of work are done, or will be, before one that waits."""
    others = Job.objects.filter(queue=job.queue).exclude(pk=job.pk)
    first = Q(priority__gt=job.priority) | Q(priority=job.priority, pk__lt=job.pk)
    waiting = others.filter(first, state=Job.State.WAITING).count()
    return waiting + others.filter(state=Job.State.RUNNING).count()
