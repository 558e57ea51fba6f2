"""What a page sends and sends again, as it did not hear that it came; and what lies behind what."""

from uuid import uuid4

import numpy as np
import pytest
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile

from tinfork.web.handover.models import Handover
from tinfork.web.jobs.models import Job
from tinfork.web.productions.actions import create_scene
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.sound.models import SoundFile, Take


@pytest.fixture
def tones(tmp_path):
    """Two tones of a second and a half, as uploads made anew each time."""

    def made(*names):
        found = []
        for name in names:
            soundfile.write(tmp_path / name, 0.3 * np.sin(np.arange(24_000) / (5 + len(name))), 16_000)
            found.append(SimpleUploadedFile(name, (tmp_path / name).read_bytes()))
        return found

    return made


def clips(ferry):
    return [(clip.start, clip.end) for clip in arrangement_of(ferry.scene).value.clips]


def send(ferry, files, **form):
    answer = ferry.client(ferry.owner).post(f"/scenes/{ferry.scene.pk}/sound/bring", {"sound": files, **form})
    assert answer.status_code == 200, answer.content
    return answer


def test_dropped_files_land_behind_each_other_wherever_their_sound_lies_already(ferry, tones):
    (first,) = tones("a.wav")
    sound = bring_in(ferry.owner, ferry.scene.production, first)
    place_sound(ferry.owner, arrangement_of(ferry.scene), sound, 5_000)
    before = set(clips(ferry))
    send(ferry, tones("a.wav", "bb.wav"), start="300")
    assert sorted(set(clips(ferry)) - before) == [(300, 336), (336, 372)]


def test_an_upload_that_is_sent_again_is_placed_once(ferry, tones):
    key = uuid4().hex
    send(ferry, tones("a.wav", "bb.wav"), start="300", key=key)
    after = clips(ferry)
    send(ferry, tones("a.wav", "bb.wav"), start="300", key=key)
    assert clips(ferry) == after
    send(ferry, tones("a.wav"), start="900", key=uuid4().hex)
    assert len(clips(ferry)) == len(after) + 1


def test_a_take_that_is_sent_again_is_listed_once(ferry, tones):
    form = {"character": ferry.stave.character_id, "key": uuid4().hex}
    for _ in range(2):
        (sound,) = tones("a.wav")
        address = f"/scenes/{ferry.scene.pk}/sound/take"
        assert ferry.client(ferry.owner).post(address, {"sound": sound, **form}).status_code == 200
    assert Take.objects.count() == 1


def test_a_piece_of_a_sound_is_for_who_may_hear_it(ferry):
    address = f"/sounds/{SoundFile.objects.get().pk}/mix/listen.flac?piece=0"
    client = ferry.client(ferry.viewer)
    answer = client.get(address)
    assert answer["Content-Type"] == "audio/flac"
    assert answer["Cache-Control"] == "private, no-cache"
    assert client.get(address, headers={"If-None-Match": answer["ETag"]}).status_code == 304
    assert client.get(address.replace("=0", "=9")).status_code == 404
    assert ferry.client(ferry.stranger).get(address).status_code == 404


def test_what_was_made_of_many_scenes_is_listed_with_few_questions(ferry, django_assert_max_num_queries):
    scenes = [create_scene(ferry.owner, ferry.scene.production, f"Fog {n}", "24", "1") for n in range(60)]
    job = Job.objects.create(
        scene=ferry.scene, person=ferry.owner, kind="handover", subject=ferry.scene.pk, state="done"
    )
    Handover.objects.create(job=job, wish={}, of={str(scene.pk): {"sound": 0} for scene in scenes})
    client = ferry.client(ferry.owner)
    with django_assert_max_num_queries(30):
        assert client.get(f"/scenes/{ferry.scene.pk}/hand-over/made").status_code == 200
