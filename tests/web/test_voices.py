import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.speech import LINE
from tinfork.core.limits import MAX_SCRIPT_CHARACTERS
from tinfork.web.jobs.models import Job
from tinfork.web.reading.tasks import read_stave
from tinfork.web.sound.models import SoundFile


@pytest.fixture
def voice(ferry):
    """Ask something of Marit's card as the owner."""
    client = ferry.client(ferry.owner)
    base = f"/scenes/{ferry.stave.scene_id}/voices/{ferry.stave.character_id}/"
    return lambda what, **form: client.post(base + what, form).content.decode()


def test_a_sound_is_kept_byte_for_byte(ferry, voice, tone):
    content = tone.read()
    tone.seek(0)
    page = voice("sound", sound=tone, script="typed meanwhile")
    assert "tone.wav" in page
    assert "typed meanwhile" in page
    assert ferry.fresh.sound.original.open("rb").read() == content
    assert ferry.fresh.reading == ferry.stave.reading


def test_the_same_content_is_kept_once(ferry, voice, tone):
    voice("sound", sound=tone)
    tone.seek(0)
    voice("sound", sound=tone)
    assert SoundFile.objects.filter(name="tone.wav").count() == 1


@pytest.mark.parametrize(
    ("content", "said"),
    [(b"", "empty"), (b"<svg onload=alert(1)>" * 50, "not a sound"), (b"ID3" + b"\0" * 900, "sound")],
)
def test_a_file_that_is_no_sound_changes_nothing(ferry, voice, content, said):
    page = voice("sound", sound=SimpleUploadedFile("../../evil.wav", content), script="kept")
    assert said in page
    assert "kept" in page
    assert ferry.fresh.sound == ferry.stave.sound


def test_no_file_at_all_is_a_sentence(voice):
    assert "No file came through" in voice("sound")


@pytest.mark.parametrize(
    ("form", "said"),
    [
        ({"script": " \n"}, "no words yet"),
        ({"script": "fog", "language": "xx"}, "not a language"),
        ({"script": "a" * (MAX_SCRIPT_CHARACTERS + 1)}, "Split it"),
    ],
)
def test_a_script_that_cannot_be_read_is_a_sentence(ferry, voice, form, said):
    page = voice("read", **form)
    assert said in page
    assert not Job.objects.exists()
    assert ferry.fresh.reading == ferry.stave.reading


def test_reading_is_one_job_with_progress_and_keeps_pins(ferry, voice):
    exposure = ferry.stave.the_exposures()[3]
    ferry.edit(ferry.owner, "pin", frame=exposure.frame, frames=exposure.frames, drawing="purse")
    page = voice("read", script=LINE + "\nFog.")
    voice("read", script=LINE + "\nFog.")
    (job,) = Job.objects.all()
    assert f"/jobs/{job.pk}/" in page
    assert "waiting" in page
    read_stave(job_id=job.pk)
    job.refresh_from_db()
    assert (job.state, job.percent) == ("done", 100)
    track = ferry.fresh.the_exposures()
    assert [line["text"] for line in ferry.fresh.reading["lines"]] == [LINE, "Fog."]
    kept = next(e for e in track if e.pinned)
    assert (kept.frame, kept.frames, kept.drawing) == (exposure.frame, exposure.frames, "purse")


def test_a_script_nobody_can_speak_ends_as_a_sentence(ferry, voice):
    before = ferry.stave.reading
    voice("read", script="… — !")
    job = Job.objects.get()
    read_stave(job_id=job.pk)
    job.refresh_from_db()
    assert job.state == "failed"
    assert "no word that can be spoken" in job.message
    assert ferry.fresh.reading == before
    answer = ferry.client(ferry.owner).get(f"/jobs/{job.pk}/")
    assert answer.headers["HX-Trigger"] == f"read-ended-{ferry.stave.pk}"


def test_a_request_larger_than_any_sound_is_refused_unread(ferry, tone):
    client = ferry.client(ferry.owner)
    address = f"/scenes/{ferry.stave.scene_id}/voices/{ferry.stave.character_id}/sound"
    assert client.post(address, {"sound": tone}, CONTENT_LENGTH=str(10**12)).status_code == 400
    assert ferry.fresh.sound == ferry.stave.sound
