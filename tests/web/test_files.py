"""Files are kept whole or not at all."""

import errno
import os
import threading
from pathlib import Path
from types import SimpleNamespace

import pytest
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection

from tinfork.web.files import store
from tinfork.web.handover.tasks import make_handover
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.running import MOST_LOSSES, Cancelled, running
from tinfork.web.reading.tasks import read_scene
from tinfork.web.sound import actions
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.models import SoundFile
from tinfork.web.sound.tasks import make_reel


def upload(spoken):
    return SimpleUploadedFile("line.wav", spoken[0])


def leftovers():
    root = default_storage.path("")
    return [name for _, _, names in os.walk(root) for name in names if name.endswith(".part")]


def test_a_truncated_original_is_made_whole_by_the_next_upload(ferry, spoken):
    sound = SoundFile.objects.get()
    path = sound.original.path
    with open(path, "r+b") as file:
        file.truncate(1000)
    bring_in(ferry.owner, ferry.scene.production, upload(spoken))
    assert Path(path).read_bytes() == spoken[0]
    assert SoundFile.objects.count() == 1


def test_an_upload_that_is_ended_half_way_leaves_nothing_behind(ferry, tone, monkeypatch):
    def ended(*_):
        raise KeyboardInterrupt

    monkeypatch.setattr(store.os, "replace", ended)
    with pytest.raises(KeyboardInterrupt):
        bring_in(ferry.owner, ferry.scene.production, tone)
    assert SoundFile.objects.count() == 1
    assert not leftovers()


def test_a_copy_that_is_not_its_source_is_refused(tmp_path, settings):
    settings.MEDIA_ROOT = tmp_path / "kept"
    (tmp_path / "a").write_bytes(b"ferry")
    with pytest.raises(OSError, match="not what it was made from"):
        store.keep("x/a", tmp_path / "a", "0" * 64)
    assert not store.is_there("x/a")
    assert store.keep("x/a", tmp_path / "a", store.digest(tmp_path / "a")) == "x/a"


def test_a_full_disk_is_a_sentence_and_keeps_what_was_there(ferry, tone, monkeypatch):
    def full(*_):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(store.os, "fsync", full)
    answer = ferry.client(ferry.owner).post(f"/scenes/{ferry.scene.pk}/sound/bring", {"sound": tone})
    assert answer.status_code == 507
    assert "disk is full" in answer.json()["problem"]
    assert len(answer.json()["document"]["tracks"][0]["clips"]) == 1
    assert not leftovers()


def test_leftovers_are_swept_once_they_are_old(settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    for name in (".old.1.part", ".new.2.part", "kept"):
        (tmp_path / name).write_bytes(b"x")
    os.utime(tmp_path / ".old.1.part", (0, 0))
    assert store.sweep() == 1
    assert sorted(path.name for path in tmp_path.iterdir()) == [".new.2.part", "kept"]


@pytest.mark.django_db(transaction=True)
def test_the_same_file_brought_in_twice_at_once_is_kept_once(ferry, tone, monkeypatch):
    both = threading.Barrier(2, timeout=20)
    content = tone.read()
    alone = actions.aside

    def together(*arguments, **limits):
        both.wait()
        return alone(*arguments, **limits)

    monkeypatch.setattr(actions, "aside", together)
    found, problems = [], []

    def bring():
        try:
            found.append(bring_in(ferry.owner, ferry.scene.production, SimpleUploadedFile("t.wav", content)).pk)
        except Exception as problem:  # What either of them says is the answer.
            problems.append(problem)
        finally:
            connection.close()

    threads = [threading.Thread(target=bring) for _ in range(2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    assert not problems
    assert len(set(found)) == 1


def job_of(ferry, **what):
    return Job.objects.create(scene=ferry.scene, person=ferry.owner, kind="video", subject=ferry.stave.pk, **what)


def test_a_job_that_was_cancelled_as_it_ended_stays_cancelled(ferry):
    job = job_of(ferry)
    with running(job.pk):
        Job.objects.filter(pk=job.pk).update(state=Job.State.CANCELLED)
    job.refresh_from_db()
    assert job.state == Job.State.CANCELLED


def test_a_job_that_kills_what_does_it_is_given_up(ferry):
    job = job_of(ferry, state=Job.State.RUNNING, losses=MOST_LOSSES)
    with pytest.raises(Cancelled), running(job.pk):
        raise AssertionError("it was begun again")
    job.refresh_from_db()
    assert job.state == Job.State.FAILED
    assert "Given up" in job.message


def test_a_job_that_loses_the_database_is_begun_again(ferry):
    job = job_of(ferry)
    with pytest.raises(OperationalError), running(job.pk):
        raise OperationalError("terminating connection")
    job.refresh_from_db()
    assert job.state == Job.State.RUNNING
    for task in (read_scene, make_reel, make_handover):
        assert task.get_retry_exception(OperationalError(), SimpleNamespace(attempts=1)) is not None
        assert task.get_retry_exception(ValueError(), SimpleNamespace(attempts=1)) is None
    with running(job.pk):
        pass
    job.refresh_from_db()
    assert (job.state, job.attempts) == (Job.State.DONE, 2)


def test_a_result_that_is_gone_does_not_take_its_page_along(ferry):
    gone = job_of(ferry, state=Job.State.DONE, result="handover/1/gone.webm", result_name="gone.webm")
    client = ferry.client(ferry.owner)
    page = client.get(f"/scenes/{ferry.scene.pk}/hand-over/")
    assert page.status_code == 200
    assert "gone.webm is no longer on the disk" in page.content.decode()
    answer = client.get(f"/jobs/{gone.pk}/result")
    assert answer.status_code == 410
    assert "make it again" in answer.content.decode()
