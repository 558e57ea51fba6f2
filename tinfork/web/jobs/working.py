"""A worker: it does the work of one queue, takes up what lost workers left behind, and goes when it has grown too
large. What started it starts it again."""

import asyncio
import logging
import os
import resource
from collections.abc import Awaitable, Callable
from datetime import datetime
from pathlib import Path
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.db import connection, models
from procrastinate import App, JobContext
from procrastinate.contrib.django import app
from procrastinate.jobs import Job as QueuedJob
from procrastinate.worker import Worker

from .models import Job
from .running import Superseded

_LOG = logging.getLogger(__name__)
_HEARTBEAT_SECONDS, _LOOK_SECONDS = 2.0, 2.0
_SECONDS_TO_END = 2.0
_SUPERSEDED = 75
"""The status a worker ends with that was thought lost (EX_TEMPFAIL, sysexits.h): it must not say how its job ended."""

_PAGE = resource.getpagesize()


def work(queue: str) -> None:
    """Do the work of a queue until told to end. Memory is limited: what wants more fails, and with it nothing else."""
    _, ever = resource.getrlimit(resource.RLIMIT_DATA)
    resource.setrlimit(resource.RLIMIT_DATA, (settings.WORKER_MEGABYTES << 20, ever))  # What runs aside has its own.
    with app.replace_connector(app.connector.get_worker_connector()) as own:  # type: ignore[attr-defined]
        asyncio.run(_work(own, queue))


async def _work(own: App, queue: str) -> None:
    async with own.open_async():
        looking = asyncio.create_task(_look_after(own))
        await own.run_worker_async(
            queues=[queue],
            name=f"{queue} {os.getpid()}",
            concurrency=1,
            fetch_job_polling_interval=2.0,
            update_heartbeat_interval=_HEARTBEAT_SECONDS,
            stalled_worker_timeout=settings.SECONDS_UNTIL_LOST * 10,
            shutdown_graceful_timeout=_SECONDS_TO_END,
            delete_jobs="successful",
            worker_middleware=[_replaced_when_large],
        )
        looking.cancel()


async def _replaced_when_large(go_on: Callable[[], Awaitable[Any]], context: JobContext, worker: Worker) -> Any:
    try:
        return await go_on()
    except Superseded:
        _LOG.warning("this worker was thought lost, and ends")
        os._exit(_SUPERSEDED)
    finally:
        if resident() > settings.WORKER_MEGABYTES << 19:
            _LOG.warning("this worker holds %d MB, and ends to begin anew", resident() >> 20)
            worker.stop()  # type: ignore[no-untyped-call]


def resident() -> int:
    """Return how much memory this process holds, in bytes."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * _PAGE


async def _look_after(own: App) -> None:
    """Now and then queue anew what workers hold that are silent. The database may be away; then they are left alone."""
    while True:
        await asyncio.sleep(_LOOK_SECONDS)
        try:
            await take_up_again(own)
        except Exception as amiss:
            _LOG.warning("what lost workers left could not be looked for: %s", type(amiss).__name__)


async def take_up_again(own: App) -> None:
    """Queue anew the tasks of workers that are silent. Every task of ours puts a whole result in place of the old."""
    manager = own.job_manager
    for queued in await manager.get_stalled_jobs(seconds_since_heartbeat=settings.SECONDS_UNTIL_LOST):
        await sync_to_async(count_loss)(queued)
        await manager.retry_job(queued)


def count_loss(queued: QueuedJob) -> None:
    """Count that what did a job was lost, unless the database was lost with it: that is not the job's doing."""
    job = Job.objects.filter(pk=int(str(queued.task_kwargs.get("job_id", 0))), state=Job.State.RUNNING)
    job.filter(begun__gt=_database_since()).update(losses=models.F("losses") + 1)


def _database_since() -> datetime:
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_postmaster_start_time()")
        since: datetime = cursor.fetchone()[0]
    return since
