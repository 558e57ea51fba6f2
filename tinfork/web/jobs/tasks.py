"""Taking up again what a lost worker left behind."""

from django.conf import settings
from procrastinate import JobContext
from procrastinate.contrib.django import app

from tinfork.web.files import store

_EVERY_TEN_SECONDS = "* * * * * */10"


@app.periodic(cron="17 * * * *")
@app.task(name="sweep_files", queueing_lock="sweep_files")
def sweep_files(timestamp: int) -> None:
    """Remove what was left half written among the files."""
    store.sweep()


@app.periodic(cron=_EVERY_TEN_SECONDS)
@app.task(name="take_up_again", queueing_lock="take_up_again", pass_context=True)
async def take_up_again(context: JobContext, timestamp: int) -> None:
    """Queue anew the tasks of workers that are silent. Every task of ours puts a whole result in place of the old."""
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=settings.SECONDS_UNTIL_LOST):
        await manager.retry_job(job)
