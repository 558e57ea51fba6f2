"""What is done from time to time by itself."""

from procrastinate.contrib.django import app

from tinfork.web.files import store

from .queues import LATER


@app.periodic(cron="17 * * * *")
@app.task(name="sweep_files", queue=LATER, queueing_lock="sweep_files")
def sweep_files(timestamp: int) -> None:
    """Remove what was left half written among the files."""
    store.sweep()
