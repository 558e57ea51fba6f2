"""Who comes when, and which attempt of a piece of work may say anything of it."""

from pathlib import Path

import pytest
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from procrastinate.contrib.django.models import ProcrastinateJob

from tinfork.core.errors import TinForkError
from tinfork.web.bundles import outgoing
from tinfork.web.edits import actions as edits
from tinfork.web.handover.actions import ask_for
from tinfork.web.handover.models import HandoverFile
from tinfork.web.handover.tasks import make_handover
from tinfork.web.handover.wishes import Wish
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.queues import LATER, MOST_WAITING, WAITED_FOR, before
from tinfork.web.jobs.running import Cancelled, Superseded, running
from tinfork.web.jobs.working import count_loss
from tinfork.web.productions.models import Membership
from tinfork.web.reading.asking import ask_to_read
from tinfork.web.reading.tasks import versions_of
from tinfork.web.script.actions import add_text, script_of


@pytest.fixture
def editor(ferry):
    person = User.objects.create_user("editor")
    Membership.objects.create(production=ferry.scene.production, person=person, role=Membership.Role.ANIMATOR)
    return person


def film(person, ferry, width=64):
    return ask_for(person, ferry.scene, Wish(kinds=["webm"], width=width, height=64))


def in_order(queue):
    """The jobs of a queue as workers will take them."""
    waiting = ProcrastinateJob.objects.filter(status="todo", queue_name=queue).order_by("-priority", "id")
    return [one.args["job_id"] for one in waiting]


def test_what_is_waited_for_does_not_stand_behind_films(ferry):
    film(ferry.owner, ferry)
    reading = ask_to_read(ferry.owner, ferry.scene)
    table = ask_for(ferry.owner, ferry.scene, Wish(kinds=["csv", "otio"]))
    assert in_order(WAITED_FOR) == [reading.pk, table.pk]
    assert len(in_order(LATER)) == 1


def test_everybodys_first_comes_before_anybodys_second(ferry, editor):
    own = [film(ferry.owner, ferry, 64 + 2 * n).pk for n in range(3)]
    other = [film(editor, ferry, 164 + 2 * n).pk for n in range(2)]
    assert in_order(LATER) == [own[0], other[0], own[1], other[1], own[2]]
    assert [before(Job.objects.get(pk=pk)) for pk in in_order(LATER)] == [0, 1, 2, 3, 4]
    with running(own[0]):
        # One of the owner's is being made: the others stay where they are.
        late = film(editor, ferry, 264).pk
        assert in_order(LATER)[1:] == [other[0], own[1], other[1], own[2], late]
    # It is done: what the owner waits for moves up.
    assert in_order(LATER)[1:] == [own[1], other[0], own[2], other[1], late]


def test_the_same_is_made_once_and_nobody_queues_without_end(ferry, editor):
    first = film(ferry.owner, ferry)
    assert film(ferry.owner, ferry) == first
    assert film(editor, ferry) == first
    for number in range(1, MOST_WAITING):
        film(ferry.owner, ferry, 64 + 2 * number)
    with pytest.raises(TinForkError, match="are waiting already"):
        film(ferry.owner, ferry, 640)
    film(editor, ferry, 640)
    client = ferry.client(ferry.owner)
    assert client.post(f"/jobs/{first.pk}/cancel").status_code == 200
    film(ferry.owner, ferry, 642)


def test_a_bundle_that_may_not_wait_leaves_nothing_behind(ferry, tmp_path, settings):
    outgoing.write(tmp_path / "bundle.zip", ferry.scene.production, None)
    for number in range(MOST_WAITING):
        Job.objects.create(person=ferry.owner, kind="bring-in", subject=number, queue=WAITED_FOR)
    sent = SimpleUploadedFile("bundle.zip", (tmp_path / "bundle.zip").read_bytes())
    answer = ferry.client(ferry.owner).post("/bundles/", {"bundle": sent})
    assert answer.status_code == 422
    assert "waiting already" in answer.content.decode()
    assert not list(Path(settings.MEDIA_ROOT, "bundles").glob("*"))


def test_who_asks_for_a_bundle_too_many_is_told_why(ferry):
    for number in range(MOST_WAITING):
        Job.objects.create(person=ferry.owner, kind="bring-in", subject=number)
    answer = ferry.client(ferry.owner).post(f"/scenes/{ferry.scene.pk}/bundle")
    assert "waiting already" in answer.content.decode()
    assert "HX-Trigger" not in answer
    assert not Job.objects.filter(kind="bundle").exists()


def test_a_second_reading_joins_the_first_unless_something_changed(ferry):
    first = ask_to_read(ferry.owner, ferry.scene, all=True)
    with running(first.pk) as (job, _):
        Job.objects.filter(pk=job.pk).update(of=versions_of(ferry.scene))
        assert ask_to_read(ferry.owner, ferry.scene, all=True) == first
        assert ask_to_read(ferry.owner, ferry.scene, lines=[1]) == first
        add_text(ferry.owner, script_of(ferry.scene), None, "Marit: Fog.")
        other = ask_to_read(ferry.owner, ferry.scene, all=True)
    assert other != first
    assert ProcrastinateJob.objects.filter(lock=f"reading of scene {ferry.scene.pk}").count() == 2


def test_long_readings_leave_a_reader_for_who_asks_for_a_line(long_scene):
    ferry = long_scene
    ask_to_read(ferry.owner, ferry.scene, all=True)
    ask_to_read(ferry.owner, ferry.scene, lines=[3])
    locks = ProcrastinateJob.objects.order_by("id").values_list("lock", flat=True)
    assert list(locks) == ["a long reading", f"reading of scene {ferry.scene.pk}"]


def test_a_page_says_how_many_come_before_and_how_long_it_takes(ferry, editor):
    film(ferry.owner, ferry)
    second = film(editor, ferry, 66)
    page = ferry.client(editor).get(f"/jobs/{second.pk}/").content.decode()
    assert "with 1 before it" in page
    with running(second.pk) as (job, report):
        report(0.25)
        Job.objects.filter(pk=job.pk).update(begun=job.begun.replace(year=job.begun.year - 1))
        assert "minutes left" in ferry.client(editor).get(f"/jobs/{second.pk}/").content.decode()


def test_an_attempt_that_was_thought_lost_reports_ends_and_writes_nothing(ferry):
    job = film(ferry.owner, ferry)
    begun_again = Job.objects.filter(pk=job.pk)
    with pytest.raises(Superseded), running(job.pk) as (_, report):
        edits.locked(ferry.owner, ferry.fresh)
        begun_again.update(attempts=2, progress=0.5)
        with pytest.raises(Superseded):
            report(0.9)
        with pytest.raises(Superseded):
            edits.locked(ferry.owner, ferry.fresh)
        # It ends, and does not say so.
    job.refresh_from_db()
    assert (job.state, job.progress) == (Job.State.RUNNING, 0.5)
    edits.locked(ferry.owner, ferry.fresh)


def test_files_of_an_attempt_that_was_thought_lost_are_not_kept(ferry, monkeypatch):
    job = film(ferry.owner, ferry)
    steal = Job.objects.filter(pk=job.pk)
    made = []

    def write(kind, path, shot, how, progress=None):
        path.write_bytes(b"film")
        made.append(kind)
        steal.update(attempts=7)

    monkeypatch.setattr("tinfork.web.handover.rendering.registry.write", write)
    with pytest.raises(Superseded):
        make_handover(job_id=job.pk)
    assert made
    assert not HandoverFile.objects.exists()


def test_what_was_cancelled_writes_nothing_more(ferry):
    job = film(ferry.owner, ferry)
    with pytest.raises(Cancelled), running(job.pk):
        ferry.client(ferry.owner).post(f"/jobs/{job.pk}/cancel")
        edits.locked(ferry.owner, ferry.fresh)
    job.refresh_from_db()
    assert job.state == Job.State.CANCELLED


def test_an_outage_is_no_loss(ferry, monkeypatch):
    job = film(ferry.owner, ferry)
    queued = ProcrastinateJob.objects.get()
    queued.task_kwargs = queued.args
    with running(job.pk) as (own, _):
        monkeypatch.setattr("tinfork.web.jobs.working._database_since", lambda: own.begun.replace(year=2100))
        count_loss(queued)
        assert Job.objects.get().losses == 0
        monkeypatch.setattr("tinfork.web.jobs.working._database_since", lambda: own.begun.replace(year=2000))
        count_loss(queued)
        assert Job.objects.get().losses == 1


def test_what_takes_too_much_memory_is_said(ferry):
    job = film(ferry.owner, ferry)
    with running(job.pk):
        raise MemoryError
    job.refresh_from_db()
    assert job.state == Job.State.FAILED
    assert "more memory" in job.message


def test_who_only_looks_starts_nothing(ferry):
    client = ferry.client(ferry.viewer)
    scene = f"/scenes/{ferry.scene.pk}"
    assert client.post(f"{scene}/script/read").status_code == 404
    assert client.post(f"{scene}/bundle").status_code == 404
    page = client.get(f"{scene}/hand-over/").content.decode()
    assert "Make the files" not in page
    assert "The whole production" not in page
    assert not Job.objects.exists()
