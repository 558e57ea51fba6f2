import os

import pytest
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile

from bench import alone
from bench.truth import flite
from tinfork.core.speech import recognise
from tinfork.web.jobs.models import Job
from tinfork.web.pages.start import guessed
from tinfork.web.pages.tasks import lay_out
from tinfork.web.productions.models import Scene
from tinfork.web.reading.scene import Asked, read_part, to_read
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import SoundFile

WORDS = "My left boot went overboard near the lighthouse."


def begin(ferry, spoken, person=None, files=("fog.wav",), **asked):
    """What Start answers; and the scene it made, if any."""
    before = set(Scene.objects.values_list("pk", flat=True))
    sound = [SimpleUploadedFile(name, spoken[0]) for name in files]
    address = f"/productions/{ferry.scene.production_id}/start"
    answer = ferry.client(person or ferry.owner).post(address, {"sound": sound, **asked})
    return answer, Scene.objects.exclude(pk__in=before).first()


def tracks(scene):
    return [(track.kind, track.name, len(track.clips)) for track in arrangement_of(scene).value.tracks]


def test_a_recording_a_name_and_words_become_a_scene_that_is_read(ferry, spoken):
    answer, scene = begin(ferry, spoken, who="Brede", words=WORDS, rate="25", start_frame="101")
    assert answer.status_code == 200
    assert answer.json() == {"desk": f"/scenes/{scene.pk}/reading/", "job": f"/jobs/{Job.objects.get().pk}/"}
    assert (scene.name, scene.rate, scene.start_frame) == ("fog", "25", 101)
    assert tracks(scene) == [("dialogue", "Brede", 1)]
    assert [line.text for line in script_of(scene).value.lines] == [WORDS]
    for part in to_read(scene)[0]:
        read_part(ferry.owner, scene, part, Asked(), lambda share: None)
    (stave,) = scene.staves.all()
    assert stave.character.name == "Brede"
    assert [word.text for word in stave.reading_value.words()][:2] == ["My", "left"]


@pytest.mark.parametrize(
    "who, words, files, cast, found",
    [
        ("", "", ["fog.wav"], 1, [("dialogue", "Marit", 1)]),
        ("", f"Brede: {WORDS}", ["fog.wav"], 2, [("dialogue", "Brede", 1)]),
        ("marit", "", ["fog.wav"], 1, [("dialogue", "Marit", 1)]),
        ("Marit, Brede", "", ["fog.wav"], 2, [("shared", "Everybody", 1)]),
        ("Marit, Brede", "", ["1 brede.wav", "2 Marit.wav"], 2, [("dialogue", "Brede", 1), ("dialogue", "Marit", 1)]),
        ("Marit", "", ["one.wav", "two.wav"], 1, [("dialogue", "Marit", 2)]),
    ],
)
def test_whose_a_recording_is_follows_from_what_is_known(ferry, spoken, who, words, files, cast, found):
    answer, scene = begin(ferry, spoken, who=who, words=words, files=files)
    assert answer.status_code == 200
    assert ferry.scene.production.characters.count() == cast
    assert tracks(scene) == found


@pytest.mark.parametrize(("lie", "second", "third"), [("together", 0, 1), ("turn", 1, 2)])
def test_where_several_recordings_lie_is_chosen(ferry, spoken, lie, second, third):
    """Starts in lengths of the recording; the third is of the first's speaker."""
    files = ["1 Marit.wav", "2 Brede.wav", "3 Marit.wav"]
    answer, scene = begin(ferry, spoken, who="Marit, Brede", files=files, lie=lie)
    assert answer.status_code == 200
    marit, brede = arrangement_of(scene).value.tracks
    long = marit.clips[0].frames
    assert [clip.start / long for clip in (*marit.clips, *brede.clips)] == [0, third, second]


def test_who_speaks_in_each_file_can_be_said(ferry, spoken):
    both = ["one.wav", "two.wav"]
    _, scene = begin(ferry, spoken, files=both, who="Marit, Brede", **{"for": ["Brede", "Marit"]})
    assert tracks(scene) == [("dialogue", "Brede", 1), ("dialogue", "Marit", 1)]


@pytest.mark.parametrize(
    "asked, sentence",
    [
        ({"files": ()}, "recording"),
        ({"who": "Marit", "rate": "fast"}, "frame rate"),
        ({"who": "Marit", "start_frame": "soon"}, "start frame"),
        ({"who": "Marit", "name": "Fog"}, "already"),
        ({"who": ", ".join(f"Goat {n}" for n in range(25))}, "up to 24"),
        ({"who": "Marit", "words": "x" * 900_000}, "characters"),
    ],
)
def test_what_is_amiss_is_said_and_nothing_is_made(ferry, spoken, asked, sentence):
    ferry.scene.name = "Fog"
    ferry.scene.save()
    cast = ferry.scene.production.characters.count()
    answer, scene = begin(ferry, spoken, **asked)
    assert answer.status_code == 422
    assert sentence in answer.json()["problem"]
    assert scene is None
    assert ferry.scene.production.characters.count() == cast
    assert not Job.objects.exists()


def test_without_cast_and_names_it_asks_who_speaks(ferry, spoken):
    ferry.stave.character.production.characters.create(name="Brede")
    answer, scene = begin(ferry, spoken)
    assert "Say who speaks" in answer.json()["problem"]
    assert scene is None


def test_only_who_may_edit_starts(ferry, spoken):
    assert begin(ferry, spoken, ferry.viewer, who="Marit")[0].status_code == 404
    assert begin(ferry, spoken, ferry.stranger, who="Marit")[0].status_code == 404


def test_two_names_in_a_file_name_are_not_certain():
    assert guessed("marit and brede.wav", ["Marit", "Brede"]) == ""
    assert guessed("anything.wav", ["Marit"]) == "Marit"


SCRIPT = """[SCENE 1, the pier]
Marit: My left boot went overboard near the lighthouse.
Brede: Nobody sold a ticket to that goat.

[SCENE 2, the gangway]
Brede: Show me the yellow rope and hold the boat.

[SCENE 3, the lamp room]
Marit: The lamp is out again.
"""


@pytest.fixture
def pile(tmp_path):
    """Three recordings: two that say one line each, and one that says both of these again, and worse."""
    said = {
        "a.wav": ["Nobody sold a ticket to that goat."],
        "b.wav": ["My left boot went overboard near the lighthouse.", "Show me the yellow rope and hold the boat."],
        "c.wav": ["My left boot went overboard by the lighthouse."],
    }
    found = []
    for name, lines in said.items():
        sound = alone.in_one([flite(text, "slt") for text in lines]).recording
        soundfile.write(tmp_path / name, sound.samples, 16_000)
        found.append(SimpleUploadedFile(name, (tmp_path / name).read_bytes()))
    return found


def find_by(ferry, pile, words, **asked):
    address = f"/productions/{ferry.scene.production_id}/start"
    return ferry.client(ferry.owner).post(address, {"sound": pile, "words": words, "lie": "script", **asked})


@pytest.mark.skipif(not os.environ.get(recognise.SETTING), reason="the recogniser's weights are not here")
def test_a_script_and_a_pile_of_recordings_become_its_scenes(ferry, pile):
    production = ferry.scene.production
    answer = find_by(ferry, pile, SCRIPT, rate="25")
    job = Job.objects.get(kind="lay-out")
    assert answer.json() == {"desk": f"/productions/{production.pk}/", "job": f"/jobs/{job.pk}/"}
    lay_out(job_id=job.pk)
    job.refresh_from_db()
    assert job.state == Job.State.DONE
    made = {scene.name: scene for scene in production.scenes.exclude(pk=ferry.scene.pk)}
    assert list(made) == ["SCENE 1, the pier", "SCENE 2, the gangway"]
    assert [tracks(scene) for scene in made.values()] == [
        [("dialogue", "Marit", 1), ("dialogue", "Brede", 1)],
        [("dialogue", "Brede", 1)],
    ]
    first, second = (sorted(arrangement_of(scene).value.clips, key=lambda clip: clip.start) for scene in made.values())
    assert first[0].start == 0
    assert first[1].start == first[0].end
    assert second[0].offset > 25 * 2.5
    assert [line.text for line in script_of(made["SCENE 2, the gangway"]).value.lines] == [
        "Show me the yellow rope and hold the boat."
    ]
    assert Job.objects.filter(kind="read", state=Job.State.WAITING).count() == 2
    assert "2 scenes made. " in job.message
    assert "c.wav says 1 line of “SCENE 1, the pier” too" in job.message
    assert "Nothing of “SCENE 3, the lamp room” was found." in job.message


def test_without_a_script_nothing_is_brought_in_and_without_a_match_no_scene_is_made(ferry, tone):
    before = SoundFile.objects.count()
    refused = find_by(ferry, [tone], "", who="Marit")
    assert refused.status_code == 422
    assert "there must be a script" in refused.json()["problem"]
    assert SoundFile.objects.count() == before
    tone.seek(0)
    assert find_by(ferry, [tone], SCRIPT).status_code == 200
    job = Job.objects.get(kind="lay-out")
    lay_out(job_id=job.pk)
    job.refresh_from_db()
    assert (job.state, job.message) == (
        Job.State.FAILED,
        "Nothing of this script was found in these recordings. What was brought in is kept.",
    )
    assert list(ferry.scene.production.scenes.all()) == [ferry.scene]
