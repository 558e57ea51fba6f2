"""Running a job in the worker: its state and progress are kept where people see them.

An attempt has a number, its token. A worker that was thought lost may still live: whatever it reports, ends or writes
is refused once another attempt has begun, and then it is over for it.
"""

import logging
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from django.db import InterfaceError, OperationalError, models, transaction
from django.urls import reverse
from django.utils import timezone
from procrastinate import RetryStrategy

from tinfork.core.errors import TinForkError
from tinfork.web import fence
from tinfork.web.files import store
from tinfork.web.notices.noticing import notify

from .models import Job
from .queues import order

_LOG = logging.getLogger(__name__)
_SECONDS_BETWEEN_REPORTS = 0.2
MOST_LOSSES = 3
DATABASE_GONE = (OperationalError, InterfaceError)
WHEN_THE_DATABASE_IS_BACK = RetryStrategy(wait=2, retry_exceptions=DATABASE_GONE)
"""How every task of a job is tried again: it bounds its losses itself."""

_GIVEN_UP = (
    f"Given up: it was begun {MOST_LOSSES} times, and each time what did it was ended. What was there is kept. "
    "Try it with less: fewer lines, or a shorter sound."
)
_OUR_SIDE = "Something went wrong on our side; what was there is kept. Try again."
_TOO_MUCH = (
    "This took more memory than a piece of work may have. What was there is kept. Try it with less: fewer frames, "
    "smaller pictures, or a shorter sound."
)

_PLACES = {"read": "desk", "follow": "changes", "compare": "otherwise", "propose": "acting-view"}
"""Where what a job of a kind made is seen, where that is not among what is handed over."""

Report = Callable[[float], None]


class Cancelled(Exception):
    """A person cancelled the job; what was there before it stays."""


class Superseded(Cancelled):
    """Another attempt has begun: this one must not go on, nor say how it ended."""


@contextmanager
def running(job_id: int) -> Iterator[tuple[Job, Report]]:
    """Mark the job running, give a progress reporter, and mark how it ended. A user's mistake is told in its words.

    A job that ended before, in another worker or by being cancelled, is not done: Cancelled. Nor is one whose workers
    were lost so often that it must be what kills them.
    """
    job = Job.objects.select_related("scene__production", "person").get(pk=job_id)
    still = Job.objects.filter(pk=job.pk, state__in=(Job.State.WAITING, Job.State.RUNNING))
    if job.losses >= MOST_LOSSES and still.update(state=Job.State.FAILED, message=_GIVEN_UP, ended_at=timezone.now()):
        raise Cancelled(f"job {job.pk} was given up")
    _begin(job, still)
    try:
        with fence.within(lambda: _hold(job)):
            yield job, _reporter(job)
    except Cancelled:
        _LOG.info("job %s does not go on", job.pk)
        raise
    except TinForkError as problem:
        _end(job, Job.State.FAILED, str(problem))
    except DATABASE_GONE:
        _LOG.warning("job %s lost the database, and is begun again", job.pk)
        raise
    except MemoryError:
        _LOG.exception("job %s took too much memory", job.pk)
        _end(job, Job.State.FAILED, _TOO_MUCH)
    except Exception as problem:
        gone = store.is_gone(problem)
        _LOG.exception("job %s failed", job.pk)
        _end(job, Job.State.FAILED, store.GONE if gone else _OUR_SIDE)
        raise
    else:
        _end(job, Job.State.DONE, job.message)


@transaction.atomic
def _begin(job: Job, still: "models.QuerySet[Job]") -> None:
    now, attempts = timezone.now(), models.F("attempts") + 1
    if not still.update(state=Job.State.RUNNING, progress=0, message="", attempts=attempts, begun=now):
        raise Cancelled(f"job {job.pk} has ended")
    job.refresh_from_db(fields=["attempts", "state", "begun"])


def _still_ours(job: Job) -> "models.QuerySet[Job]":
    """The job, as long as it is this attempt that does it."""
    return Job.objects.filter(pk=job.pk, attempts=job.attempts)


def _hold(job: Job) -> None:
    """Superseded or Cancelled when this attempt must change nothing any more."""
    with transaction.atomic():
        found = _still_ours(job).select_for_update(no_key=True).values_list("state", flat=True).first()
    _check(job, found)


def _check(job: Job, state: str | None) -> None:
    if state is None:
        raise Superseded(f"job {job.pk} is done by another attempt than {job.attempts}")
    if state != Job.State.RUNNING:
        raise Cancelled(f"job {job.pk} is {state}")


@transaction.atomic
def ended(job: Job, state: str, message: str) -> bool:
    """Say how a job ended; whether it was still this attempt's to say."""
    progress = 1.0 if state == Job.State.DONE else job.progress
    found = _still_ours(job).filter(state=Job.State.RUNNING)
    told = found.update(
        state=state,
        message=message,
        progress=progress,
        result=job.result.name or "",
        result_name=job.result_name,
        ended_at=timezone.now(),
    )
    if told:
        order(job.person_id, job.queue)
        _tell(job, state, message)
    return bool(told)


def _tell(job: Job, state: str, message: str) -> None:
    """Let who asked for it know how a job of a scene ended: what failed always, what was done where nobody sat and
    waited for it."""
    scene = job.scene
    if scene is None or (state == Job.State.DONE and job.queue == Job.Queue.WAITED_FOR):
        return
    how = "done" if state == Job.State.DONE else f"failed: {message}"
    place = _PLACES.get(job.kind, "handover")
    notify([job.person_id], scene.production, f"{job.label}: {how}", reverse(place, args=[scene.pk]), scene)


def _end(job: Job, state: str, message: str) -> None:
    if not ended(job, state, message) and not _still_ours(job).exists():
        raise Superseded(f"job {job.pk} is done by another attempt than {job.attempts}")


def _reporter(job: Job) -> Report:
    last = 0.0

    def report(share: float) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last > _SECONDS_BETWEEN_REPORTS:
            last = now
            if not _still_ours(job).filter(state=Job.State.RUNNING).update(progress=min(1.0, max(0.0, share))):
                _check(job, _still_ours(job).values_list("state", flat=True).first())

    return report
