"""A worker that is killed in the middle of a reading: another takes it up again, and nothing is doubled."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from django.conf import settings
from django.db import connection

from tests.web.conftest import LONG_SCENE_LINES
from tinfork.web.jobs.models import Job
from tinfork.web.reading.asking import ask_to_read
from tinfork.web.staves.models import Stave
from tinfork.web.staves.planning import scene_reading

ROOT = Path(__file__).parents[2]


@pytest.fixture
def start_worker(tmp_path):
    """Start a worker on the test's own database and files; all are stopped at the end."""
    database = connection.settings_dict
    address = f"postgres://{database['USER']}:{database['PASSWORD']}@{database['HOST']}:{database['PORT']}"
    environment = os.environ | {
        "TINFORK_DATABASE_URL": f"{address}/{database['NAME']}",
        "TINFORK_DATA": str(tmp_path),
    }
    command = [sys.executable, "manage.py", "work", "waited-for"]
    running = []

    def start():
        running.append(
            subprocess.Popen(command, env=environment, cwd=ROOT, stderr=(tmp_path / "worker.log").open("ab"))
        )
        return running[-1]

    yield start
    for worker in running:
        worker.send_signal(signal.SIGKILL)
        worker.wait()


def until(job, condition, seconds=90):
    end = time.monotonic() + seconds
    while True:
        job.refresh_from_db()
        if condition(job):
            return
        assert time.monotonic() < end, (job.state, job.progress, job.message)
        time.sleep(0.05)


@pytest.mark.slow
def test_what_a_killed_worker_left_is_taken_up_again(transactional_db, long_scene, start_worker, tmp_path):
    assert Path(settings.MEDIA_ROOT) == tmp_path / "files"
    ferry = long_scene
    job = ask_to_read(ferry.owner, ferry.scene)
    first = start_worker()
    until(job, lambda job: job.progress > 0.1)
    first.kill()
    killed = time.monotonic()
    first.wait()
    job.refresh_from_db()
    assert job.state == Job.State.RUNNING

    start_worker()
    until(job, lambda job: job.attempts == 2 and job.state == Job.State.RUNNING)
    assert time.monotonic() - killed < 15
    page = ferry.client(ferry.owner).get(f"/jobs/{job.pk}/").content.decode()
    assert "taken up again" in page
    until(job, lambda job: job.state == Job.State.DONE)
    assert job.attempts == 2
    assert len(scene_reading(ferry.fresh).lines) == LONG_SCENE_LINES + 1
    assert Stave.objects.count() == 1
    assert Job.objects.count() == 1
