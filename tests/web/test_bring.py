import io

import numpy as np
import pytest
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile

from tinfork.web.jobs.models import Job
from tinfork.web.script.actions import in_scene, script_of
from tinfork.web.sound import arranging
from tinfork.web.sound.models import SoundFile
from tinfork.web.sound.tasks import make_reel


@pytest.fixture
def bring(ferry):
    """Bring something in as the owner does."""
    client = ferry.client(ferry.owner)
    return lambda **form: client.post(f"/scenes/{ferry.scene.pk}/sound/bring", form)


def clips(answer):
    return [clip for track in answer.json()["document"]["tracks"] for clip in track["clips"]]


def test_a_sound_is_kept_byte_for_byte_and_placed_after_what_is_there(ferry, bring, tone):
    content = tone.read()
    tone.seek(0)
    placed = clips(bring(sound=tone, character=ferry.stave.character_id))
    sound = SoundFile.objects.get(name="tone.wav")
    assert sound.original.open("rb").read() == content
    assert (placed[1]["start"], placed[1]["frames"]) == (placed[0]["frames"], 24)
    download = ferry.client(ferry.owner).get(f"/sounds/{sound.pk}/original")
    assert b"".join(download.streaming_content) == content


def test_the_same_content_is_kept_once_and_may_lie_twice(ferry, bring, tone):
    bring(sound=tone, character=ferry.stave.character_id)
    tone.seek(0)
    placed = clips(bring(sound=tone, character=ferry.stave.character_id, start="200"))
    assert SoundFile.objects.filter(name="tone.wav").count() == 1
    assert [clip["start"] for clip in placed][-1] == 200
    assert len(placed) == 3


@pytest.mark.parametrize(
    ("content", "said"),
    [(b"", "empty"), (b"<svg onload=alert(1)>" * 50, "not a sound"), (b"ID3" + b"\0" * 900, "sound")],
)
def test_a_file_that_is_no_sound_changes_nothing(ferry, bring, content, said):
    before = ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/sound/").json()
    answer = bring(sound=SimpleUploadedFile("../../evil.wav", content))
    assert answer.status_code == 422
    assert said in answer.json()["problem"]
    assert answer.json()["document"] == before


def test_of_many_files_the_good_are_taken_and_the_bad_are_named(ferry, bring, tone):
    answer = bring(sound=[SimpleUploadedFile("goat.wav", b"no goat"), tone], character=ferry.stave.character_id)
    assert answer.json()["problem"].startswith("goat.wav: ")
    assert [clip["name"] for clip in clips(answer)] == ["line.wav", "tone.wav"]


def test_no_file_at_all_is_a_sentence(bring):
    assert "No file came through" in bring().json()["problem"]


def test_a_channel_of_its_own_can_be_heard(ferry, bring):
    left, right = np.sin(np.arange(24_000) / 9) * 0.4, np.zeros(24_000)
    file = io.BytesIO()
    soundfile.write(file, np.stack([left, right], axis=1), 24_000, format="WAV")
    placed = clips(bring(sound=SimpleUploadedFile("stereo.wav", file.getvalue()), character=ferry.stave.character_id))
    client = ferry.client(ferry.owner)
    for channel, loudest in ((-1, 0.2), (0, 0.4), (1, 0.0)):
        clip = clips(ferry.sound(ferry.owner, "channel", clip=placed[1]["id"], channel=channel))[1]
        heard = b"".join(client.get(clip["listen"]).streaming_content)
        samples, rate = soundfile.read(io.BytesIO(heard))
        assert rate == 48_000
        assert np.abs(samples[2_000:-2_000]).max() == pytest.approx(loudest, abs=0.01)
    assert ferry.sound(ferry.owner, "channel", clip=placed[1]["id"], channel=2).status_code == 422
    assert client.get(f"/sounds/{placed[1]['sound']}/7/peaks").status_code == 404
    assert client.get(f"/sounds/{placed[1]['sound']}/x/peaks").status_code == 404


def test_a_request_larger_than_any_sound_is_refused_unread(ferry, tone):
    client = ferry.client(ferry.owner)
    address = f"/scenes/{ferry.scene.pk}/sound/bring"
    assert client.post(address, {"sound": tone}, CONTENT_LENGTH=str(10**12)).status_code == 400
    assert SoundFile.objects.count() == 1


def test_a_scratch_voice_speaks_on_its_characters_track(ferry):
    client = ferry.client(ferry.owner)
    asked = {"character": ferry.stave.character_id, "voice": "slt", "text": "Fog again.", "start": "90"}
    placed = clips(client.post(f"/scenes/{ferry.scene.pk}/sound/scratch", asked))
    assert (placed[1]["name"], placed[1]["start"]) == ("scratch Fog again..wav", 90)
    line = in_scene(ferry.scene).lines[-1]
    assert (line.text, line.character) == ("Fog again.", ferry.stave.character_id)
    assert line.start == pytest.approx(90 / 24)
    assert line.end == pytest.approx((90 + placed[1]["frames"]) / 24)
    lines = len(script_of(ferry.scene).value.lines)
    client.post(f"/scenes/{ferry.scene.pk}/sound/scratch", asked | {"text": " Fog  again. ", "start": "200"})
    assert len(script_of(ferry.scene).value.lines) == lines
    for _ in range(2):
        placed = clips(ferry.sound(ferry.owner, "undo"))
    assert len(placed) == 1
    assert len(script_of(ferry.scene).value.lines) == lines - 1
    for wrong in ({"voice": "nobody"}, {"text": " (nods) "}, {"rate": "99"}, {"pitch": "x"}, {"language": "xx"}):
        answer = client.post(f"/scenes/{ferry.scene.pk}/sound/scratch", asked | wrong)
        assert answer.status_code == 422
        assert answer.json()["problem"].endswith(".")
        assert clips(answer) == placed


def test_takes_are_listed_and_one_is_kept(ferry, tone):
    client = ferry.client(ferry.owner)
    for at in ("77", ""):
        tone.seek(0)
        asked = {"sound": tone, "character": ferry.stave.character_id, "at": at}
        answer = client.post(f"/scenes/{ferry.scene.pk}/sound/take", asked)
    takes = answer.json()["document"]["takes"]
    assert [take["at"] for take in takes] == [77, None]
    assert [take["character"] for take in takes] == ["Marit", "Marit"]
    assert len(clips(answer)) == 1
    end = clips(answer)[0]["frames"]
    kept = ferry.sound(ferry.owner, "keep-take", take=takes[1]["id"], start=50)
    assert [clip["start"] for clip in clips(kept)] == [0, end]
    assert f"Placed at frame {end + ferry.scene.start_frame}" in kept.json()["done"]
    again = ferry.sound(ferry.owner, "keep-take", take=takes[0]["id"], start=end + 200)
    assert [clip["start"] for clip in clips(again)] == [0, end, end + 200]
    assert "done" not in again.json()
    assert [take["kept"] for take in kept.json()["document"]["takes"]] == [False, True]
    assert "gone" in ferry.sound(ferry.owner, "keep-take", take=999, start=50).json()["problem"]


def test_a_video_brings_its_sound_and_asks_for_its_picture(ferry, bring, film):
    answer = bring(sound=SimpleUploadedFile("reel.mp4", film.read_bytes()), character=ferry.stave.character_id)
    sound = SoundFile.objects.get(name="reel.mp4")
    assert sound.has_picture
    assert sound.seconds == pytest.approx(1.0, abs=0.1)
    job = Job.objects.get(kind="reel")

    make_reel(job_id=job.pk)
    described = ferry.client(ferry.owner).get(f"/scenes/{ferry.scene.pk}/sound/").json()["sounds"][str(sound.pk)]
    assert described["reel"]
    assert ferry.client(ferry.owner).get(described["reel"]).status_code == 200
    assert answer.status_code == 200


def test_voices_are_suggested_and_taken_as_marks(ferry):
    client = ferry.client(ferry.owner)
    address = f"/scenes/{ferry.scene.pk}/sound/voices"
    spans = client.post(address, {"count": "1"}).json()["voices"]
    assert {span[2] for span in spans} == {0}
    for count in ("x", "99"):
        assert client.post(address, {"count": count}).status_code == 422
    answer = ferry.sound(ferry.owner, "take-voices", spans=spans, who=[ferry.stave.character_id])
    assert [(m["start"], m["end"]) for m in answer.json()["document"]["marks"]] == [
        (pytest.approx(s, abs=1e-3), pytest.approx(e, abs=1e-3)) for s, e, _ in spans
    ]
    assert ferry.sound(ferry.owner, "take-voices", spans=spans, who=[0]).status_code == 422
    assert arranging.arrangement_of(ferry.scene).the_marks.marks
