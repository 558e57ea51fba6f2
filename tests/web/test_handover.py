"""Handing over: what is asked for, what comes of it, and that it is of one moment."""

import csv
import importlib
import io
import json
import zipfile
from dataclasses import replace
from pathlib import Path

import av
import msgspec
import numpy as np
import pytest
from django.apps import apps
from django.core.files.base import File
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from tests.drawings import png as png_of
from tinfork.core.errors import HandoverError, TinForkError
from tinfork.core.mouths.draw import alone, mouth
from tinfork.core.mouths.raster import png
from tinfork.core.mouths.shapes import SHAPES
from tinfork.web.files.store import DiskFullError, digest
from tinfork.web.handover import actions, placing, rendering, roles
from tinfork.web.handover.models import Handover, HandoverFile
from tinfork.web.handover.tasks import make_handover
from tinfork.web.handover.wishes import Wish, as_now
from tinfork.web.jobs.models import Job
from tinfork.web.productions.actions import create_character, create_scene
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.staves import planning
from tinfork.web.staves.actions import stave_for
from tinfork.web.staves.planning import planned, scene_reading
from tinfork.web.staves.seeing import track_of

SMALL = {"width": 96, "height": 80}


def called(pattern):
    """The options of a sequence whose pictures are called so."""
    return {"png": {"pattern": pattern}}


def post(client, address, what):
    return client.post(address, json.dumps(what), content_type="application/json")


def asks(ferry, person=None, **wish):
    """Ask for files as the page does."""
    return post(ferry.client(person or ferry.owner), f"/scenes/{ferry.scene.pk}/hand-over/make", SMALL | wish)


def makes(ferry, **wish):
    """Files that were asked for and made: by their names, their content."""
    answer = asks(ferry, **wish)
    assert answer.status_code == 200, answer.content
    make_handover(job_id=answer.json()["job"])
    job = Job.objects.get(pk=answer.json()["job"])
    assert job.state == "done", job.message
    client = ferry.client(ferry.viewer)
    return {one.name: client.get(f"/hand-over/files/{one.pk}").getvalue() for one in job.handover.files.all()}


def names_of(ferry, **wish):
    return post(ferry.client(ferry.viewer), f"/scenes/{ferry.scene.pk}/hand-over/files", SMALL | wish).json()


@pytest.fixture
def pock(ferry):
    """Another character of the scene, who speaks by hand."""
    who = create_character(ferry.owner, ferry.scene.production, "Pock / 2")
    other = stave_for(ferry.owner, ferry.scene, who)
    address = f"/staves/{other.pk}/edit"
    what = {"verb": "lay", "version": other.version, "frame": 4, "pieces": [[0, 3, "open"]]}
    assert post(ferry.client(ferry.owner), address, what).status_code == 200
    return who


def test_files_are_named_before_they_are_made_and_fetched_with_their_sums(ferry, pock):
    wish = {"kinds": ["png", "csv", "otio"], "options": called("{character}.####"), "first": 1003, "end": 1010}
    told = names_of(ferry, **wish)
    assert [one["name"] for one in told["files"]] == [
        "Fog_Marit.zip",
        "Fog_Pock_2.zip",
        "Fog_Marit.csv",
        "Fog_Pock_2.csv",
        "Fog_Marit.otio",
        "Fog_Pock_2.otio",
    ]
    assert told["files"][1]["inside"] == "frames/Pock_2.1003.png to Pock_2.1010.png"
    files = makes(ferry, **wish)
    assert list(files) == [one["name"] for one in told["files"]]
    with zipfile.ZipFile(io.BytesIO(files["Fog_Pock_2.zip"])) as packed:
        frames = [name for name in packed.namelist() if name.startswith("frames/")]
        assert (frames[0], frames[-1], len(frames)) == ("frames/Pock_2.1003.png", "frames/Pock_2.1010.png", 8)
    rows = list(csv.DictReader(io.StringIO(files["Fog_Pock_2.csv"].decode())))
    assert [(row["scene_frame"], row["frames"], row["drawing"]) for row in rows] == [
        ("1003", "2", "rest"),
        ("1005", "3", "open"),
        ("1008", "3", "rest"),
    ]
    one = HandoverFile.objects.first()
    assert one.sha256 == digest(Path(one.file.path))
    page = ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/hand-over/").content.decode()
    assert all(name in page for name in files)
    assert one.sha256[:12] in page
    assert "older than the track" not in page
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    made = ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/hand-over/made").content.decode()
    assert "older than the track" in made
    Path(one.file.path).unlink()
    gone = ferry.client(ferry.viewer).get(f"/hand-over/files/{one.pk}")
    assert gone.status_code == 410
    assert "make it again" in gone.content.decode()


def test_everybody_in_one_film_with_what_is_heard_of_all(ferry, pock):
    spots = [{"character": pock.pk, "x": 1.0, "y": 0.5, "height": 0.5}]
    files = makes(ferry, kinds=["webm"], together=True, background="#ffffff", width=240, height=200, spots=spots)
    assert list(files) == ["Fog.webm"]
    with av.open(io.BytesIO(files["Fog.webm"])) as film:
        pictures = [frame.to_ndarray(format="rgb24") for frame in film.decode(video=0)]
    assert len(pictures) == arrangement_of(ferry.scene).value.frames
    assert pictures[0].shape == (200, 240, 3)
    changed = np.abs(pictures[5].astype(int) - pictures[0]).max(axis=(0, 2))
    assert changed[160:].max() > 60, "Pock opens"
    assert (255 - pictures[0][:, :110]).max() > 60, "Marit is there"
    assert (pictures[0][:45, 165:] > 240).all(), "and nobody above Pock, who is half as high"
    with av.open(io.BytesIO(files["Fog.webm"])) as film:
        assert max(np.abs(frame.to_ndarray()).max() for frame in film.decode(audio=0)) > 0.05


def test_several_scenes_are_one_job(ferry):
    other = create_scene(ferry.owner, ferry.scene.production, "Empty", "24", "1")
    answer = asks(ferry, kinds=["csv"], scenes=[other.pk])
    assert "in “Empty” yet" in answer.json()["problem"]
    again = create_scene(ferry.owner, ferry.scene.production, "Again", "25", "1")
    place_sound(ferry.owner, arrangement_of(again), ferry.scene.production.sounds.get(), 0, ferry.stave.character)
    stave = stave_for(ferry.owner, again, ferry.stave.character)
    what = {"verb": "lay", "version": stave.version, "frame": 1, "pieces": [[0, 2, "open"]]}
    assert post(ferry.client(ferry.owner), f"/staves/{stave.pk}/edit", what).status_code == 200
    assert set(makes(ferry, kinds=["csv", "otio"], scenes=[again.pk])) == {
        "Fog_Marit.csv",
        "Fog_Marit.otio",
        "Again_Marit.csv",
        "Again_Marit.otio",
    }
    assert asks(ferry, kinds=["csv"], scenes=[10**6]).json()["problem"].startswith("One of these scenes is not there")


@pytest.mark.parametrize(
    ("wish", "why"),
    [
        ({"kinds": []}, "Choose what to make first"),
        ({"kinds": ["statue"]}, "no format “statue”"),
        ({"kinds": ["png"], "options": called("../##")}, "letters, digits"),
        ({"kinds": ["png"], "options": called("{drawing}_##")}, "leave {drawing} out"),
        ({"kinds": ["gif"], "options": {"gif": {"plays": -1}}}, "“Times it plays” cannot be that"),
        ({"kinds": ["gif"], "options": {"gif": {"pattern": "##"}}}, "no such option"),
        ({"kinds": ["webm"], "width": 95}, "and even"),
        ({"kinds": ["webm"], "width": 99999999}, "16 to 4096"),
        ({"kinds": ["webm"], "background": "octarine"}, "a colour such as"),
        ({"kinds": ["webm"], "first": 1010, "end": 1003}, "ends before it begins"),
        ({"kinds": ["webm"], "first": 99999}, "no frame of the scene"),
        ({"kinds": ["webm"], "characters": [10**6]}, "Nobody who is chosen has mouths"),
        ({"kinds": ["webm"], "spots": [{"character": 1, "x": 1e6, "y": 0, "height": 1}]}, "stands in the picture"),
        ({"kinds": ["webm"], "burnt": ["smell"]}, "Frame number, timecode and words"),
        ({"colour": 3}, "could not be understood"),
    ],
)
def test_what_cannot_be_made_is_said_and_nothing_is_queued(ferry, wish, why):
    answer = asks(ferry, **wish)
    assert answer.status_code == 422
    for told in (answer.json(), names_of(ferry, **wish)):
        assert why in told["problem"]
    assert not Job.objects.exists()


def test_nothing_is_offered_of_a_scene_without_mouths(ferry):
    scene = create_scene(ferry.owner, ferry.scene.production, "Empty", "24", "1")
    page = ferry.client(ferry.viewer).get(f"/scenes/{scene.pk}/hand-over/").content.decode()
    assert "Nothing to hand over yet" in page
    assert "Make the files" not in page


def test_a_preset_keeps_what_and_how_and_not_where(ferry, editor):
    wish = SMALL | {"kinds": ["png"], "options": called("a_##"), "first": 3, "characters": [ferry.stave.character_id]}
    address = f"/productions/{ferry.scene.production_id}/presets"
    client = ferry.client(editor)
    (kept,) = post(client, address, {"name": " Camera ", "wish": wish}).json()["presets"]
    assert kept["name"] == "Camera"
    assert (kept["wish"]["options"], kept["wish"]["first"], kept["wish"]["characters"]) == (called("a_##"), None, [])
    post(client, address, {"name": "Camera", "wish": wish | {"options": called("b_##")}})
    page = client.get(f"/scenes/{ferry.scene.pk}/hand-over/").content.decode()
    assert "b_##" in page
    assert "a_##" not in page
    assert post(client, address, {"name": " ", "wish": wish}).status_code == 422
    assert post(ferry.client(ferry.viewer), address, {"name": "x", "wish": wish}).status_code == 404
    assert post(client, kept["deleteUrl"], {}).json() == {"presets": []}


def test_a_failure_on_our_side_and_a_full_disk_are_told(ferry, monkeypatch):
    job = actions.ask_for(ferry.owner, ferry.scene, Wish(kinds=["csv"]))

    def full(name, path, digest):
        raise DiskFullError

    with monkeypatch.context() as patched:
        patched.setattr(placing.store, "keep", full)
        make_handover(job_id=job.pk)
    job.refresh_from_db()
    assert (job.state, "disk is full" in job.message) == ("failed", True)
    job = actions.ask_for(ferry.owner, ferry.scene, Wish(kinds=["csv"]))

    def broken(*what):
        raise ZeroDivisionError

    monkeypatch.setattr(rendering.registry, "write", broken)
    with pytest.raises(ZeroDivisionError):
        make_handover(job_id=job.pk)
    job.refresh_from_db()
    assert job.state == "failed"
    assert "Something went wrong on our side" in job.message


def test_what_is_handed_over_is_of_one_moment_though_somebody_edits_meanwhile(ferry, monkeypatch):
    ferry.sound(ferry.owner, "length", frames=2 * planning.AT_ONCE)
    ferry.edit(ferry.owner, "settings", hold=1, lead=0, detail=0.9)
    assert ferry.fresh.unplanned
    plan, edits = (
        planning._plan,
        [lambda: ferry.edit(ferry.owner, "split word", at=[0, 3], sound=1, first="w", second="ent")],
    )

    def meanwhile(placed, frames):
        if edits:
            edits.pop()()
        return plan(placed, frames)

    monkeypatch.setattr(planning, "_plan", meanwhile)
    placed = planned(ferry.fresh)
    role = roles.role_of(placed)
    assert not edits
    assert [word.text for word in role.reading.words()] == [word.text for word in scene_reading(ferry.fresh).words()]
    assert placed.stave.version == ferry.fresh.version
    assert [replace(e, chosen=False) for e in role.exposures] == list(track_of(ferry.fresh))


def test_nothing_at_all_and_stretched_drawings_are_handed_over_as_they_are_seen(ferry):
    assert ferry.edit(ferry.owner, "lay", frame=4, pieces=[[0, 2, ""]]).status_code == 200
    assert ferry.edit(ferry.owner, "stretch", frame=20, frames=4, drawing="open").status_code == 200
    assert ferry.edit(ferry.owner, "bend stretch", frame=20, wide=1.5, tall=2, lean=10).status_code == 200
    files = makes(ferry, kinds=["png"], mouth=True, width=720, height=600)
    with zipfile.ZipFile(io.BytesIO(files["Fog_Marit.zip"])) as pictures:
        shown = {row["frame"]: row for row in csv.DictReader(io.StringIO(pictures.read("exposures.csv").decode()))}
        drawn = {frame: pictures.read(f"frames/Marit_{1001 + frame:05d}.png") for frame in (4, 20, 30)}
    assert (shown["4"]["drawing"], shown["4"]["shape"]) == ("", "")
    assert (shown["20"]["drawing"], shown["20"]["shape"]) == ("open (1.5 x 2, 10°)", "open")
    empty, bent = (np.asarray(Image.open(io.BytesIO(drawn[frame])))[..., 3] for frame in (4, 20))
    assert not empty.any()
    usual = np.asarray(Image.open(io.BytesIO(png(alone(mouth(SHAPES["open"].place, "m")), 720))))[..., 3]
    assert np.count_nonzero(bent) > 1.5 * np.count_nonzero(usual)


def test_a_wish_of_an_earlier_kind_is_refused_and_one_that_is_kept_is_whole(ferry):
    with pytest.raises(TinForkError):
        actions.ask_for(ferry.owner, ferry.scene, Wish(kinds=["pictures"]))
    job = actions.ask_for(ferry.owner, ferry.scene, Wish(kinds=["svg"]))
    assert msgspec.convert(Handover.objects.get(job=job).wish, Wish) == Wish(kinds=["svg"])
    with pytest.raises(HandoverError):
        actions.keep_preset(ferry.owner, ferry.scene.production, "x" * 61, Wish())


def test_the_film_whose_sound_lies_in_the_scene_is_seen_behind_everybody(ferry, film):
    assert '"film": false' in ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/hand-over/").content.decode()
    with film.open("rb") as data:
        sound = bring_in(ferry.owner, ferry.scene.production, File(data, name="film.mp4"))
    place_sound(ferry.owner, arrangement_of(ferry.scene), sound, 4, None)
    assert '"film": true' in ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/hand-over/").content.decode()
    (data,) = makes(ferry, kinds=["png"], film=True, first=1003, end=1013, options=called("#####")).values()
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        names = [name for name in sorted(packed.namelist()) if name.endswith(".png")]
        pictures = [np.asarray(Image.open(io.BytesIO(packed.read(name)))) for name in names]
    seen = [(int(picture[40, 2, 0]), int(picture[40, 2, 3])) for picture in pictures]
    assert [alpha for _, alpha in seen] == [255] * 11
    assert [light for light, _ in seen] == pytest.approx([0, 0, *(8 * n for n in range(9))], abs=6)


def test_a_picture_lies_behind_everybody_until_it_is_taken_away(ferry):
    address = f"/scenes/{ferry.scene.pk}/hand-over/picture"
    half = np.zeros((40, 96, 4), np.uint8)
    half[:, :] = (200, 40, 10, 255)

    def send(person, what):
        return ferry.client(person).post(address, what)

    assert send(ferry.viewer, {"drop": "yes"}).status_code == 404
    for bad in ({}, {"picture": SimpleUploadedFile("pier.png", b"no picture")}):
        answer = send(ferry.owner, bad)
        assert (answer.status_code, answer.json()["problem"][-1]) == (422, ".")
    kept = send(ferry.owner, {"picture": SimpleUploadedFile("pier.png", png_of(half))}).json()["picture"]
    assert ferry.client(ferry.viewer).get(kept)["Content-Type"] == "image/png"
    assert ferry.client(ferry.stranger).get(kept).status_code == 404
    (data,) = makes(ferry, kinds=["png"], backdrop=True, first=1001, end=1002, options=called("#####")).values()
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        name = next(name for name in packed.namelist() if name.endswith(".png"))
        seen = np.asarray(Image.open(io.BytesIO(packed.read(name))).convert("RGBA"))
    assert seen[40, 2].tolist() == [200, 40, 10, 255], "as wide as it fits, in the middle"
    assert seen[4, 2].tolist() == [0, 0, 0, 255]
    assert send(ferry.owner, {"drop": "yes"}).json() == {"picture": ""}
    assert ferry.client(ferry.viewer).get(kept).status_code == 404


def test_what_an_earlier_version_kept_of_names_is_an_option_now(ferry):
    kept = ferry.scene.production.presets.create(name="Camera", wish={"kinds": ["png"], "pattern": "a_##"})
    importlib.import_module("tinfork.web.handover.migrations.0003_options").into_options(apps, None)
    kept.refresh_from_db()
    assert kept.wish == {"kinds": ["png"], "options": called("a_##")} == as_now({"kinds": ["png"], "pattern": "a_##"})
