"""What was made is not kept for ever."""

from procrastinate.contrib.django import app

from tinfork.web.jobs.queues import LATER

from .pruning import prune


@app.periodic(cron="43 4 * * *")
@app.task(name="prune", queue=LATER, queueing_lock="prune")
def prune_by_night(timestamp: int) -> None:
    """Once a day."""
    prune()


@app.periodic(cron="53 4 * * *")
@app.task(name="forget_queued", queue=LATER, queueing_lock="forget_queued", pass_context=True)
async def forget_queued(context: object, timestamp: int) -> None:
    """Let go of what the queue still knows of work that ended."""
    await app.job_manager.delete_old_jobs(nb_hours=24, include_failed=True, include_cancelled=True)
