"""Running a job in the worker: its state and progress are kept where people see them."""

import logging
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from django.db import InterfaceError, OperationalError, models
from procrastinate import RetryStrategy

from tinfork.core.errors import TinForkError

from .models import Job

_LOG = logging.getLogger(__name__)
_SECONDS_BETWEEN_REPORTS = 0.2
MOST_ATTEMPTS = 3
DATABASE_GONE = (OperationalError, InterfaceError)
WHEN_THE_DATABASE_IS_BACK = RetryStrategy(wait=2, retry_exceptions=DATABASE_GONE)
"""How every task of a job is tried again: it bounds its attempts itself."""

_GIVEN_UP = (
    f"Given up: it was begun {MOST_ATTEMPTS} times, and each time what did it was ended. What was there is kept. "
    "Try it with less: fewer lines, or a shorter sound."
)

Report = Callable[[float], None]


class Cancelled(Exception):
    """A person cancelled the job; what was there before it stays."""


@contextmanager
def running(job_id: int) -> Iterator[tuple[Job, Report]]:
    """Mark the job running, give a progress reporter, and mark how it ended. A user's mistake is told in its words.

    A job that ended before, in another worker or by being cancelled, is not done: Cancelled. Nor is one whose workers
    were lost so often that it must be what kills them.
    """
    job = Job.objects.select_related("scene__production", "person").get(pk=job_id)
    still = Job.objects.filter(pk=job.pk, state__in=(Job.State.WAITING, Job.State.RUNNING))
    if job.attempts >= MOST_ATTEMPTS and still.update(state=Job.State.FAILED, message=_GIVEN_UP):
        raise Cancelled(f"job {job.pk} was given up")
    if not still.update(state=Job.State.RUNNING, progress=0, message="", attempts=models.F("attempts") + 1):
        raise Cancelled(f"job {job.pk} has ended")
    try:
        yield job, _reporter(job)
    except Cancelled:
        _LOG.info("job %s was cancelled", job.pk)
        raise
    except TinForkError as problem:
        _end(job, Job.State.FAILED, str(problem))
    except DATABASE_GONE:
        _LOG.warning("job %s lost the database, and is begun again", job.pk)
        raise
    except Exception:
        _LOG.exception("job %s failed", job.pk)
        _end(job, Job.State.FAILED, "Something went wrong on our side; what was there is kept. Try again.")
        raise
    else:
        _end(job, Job.State.DONE, job.message)


def _end(job: Job, state: str, message: str) -> None:
    progress = 1.0 if state == Job.State.DONE else job.progress
    Job.objects.filter(pk=job.pk, state=Job.State.RUNNING).update(
        state=state, message=message, progress=progress, result=job.result.name or "", result_name=job.result_name
    )


def _reporter(job: Job) -> Report:
    last = 0.0

    def report(share: float) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last > _SECONDS_BETWEEN_REPORTS:
            last = now
            still = Job.objects.filter(pk=job.pk).exclude(state=Job.State.CANCELLED)
            if not still.update(progress=min(1.0, max(0.0, share))):
                raise Cancelled(f"job {job.pk}")

    return report
