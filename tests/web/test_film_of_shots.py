"""Many shots handed over at once: one film with slates, a folder each in one ZIP, and a report of how they stand."""

import csv
import io
import zipfile
from datetime import timedelta

import av
import pytest
from django.utils import timezone
from pypdf import PdfReader

from tests.web.test_handover import asks, makes, names_of
from tinfork.core.timebase import frame_time
from tinfork.web.edits.copying import copy_documents
from tinfork.web.productions.actions import create_scene
from tinfork.web.rushes import actions as rushes
from tinfork.web.shots.changing import set_field
from tinfork.web.sound.arranging import arrangement_of


@pytest.fixture
def second(ferry):
    """A second shot, where the same is said; it comes first in the film."""
    production = ferry.scene.production
    made = create_scene(ferry.owner, production, "Boot", "24", "1")
    copy_documents(ferry.scene, made)
    set_field(ferry.owner, production, [made.pk], "sequence", "The crossing")
    set_field(ferry.owner, production, [ferry.scene.pk], "sequence", "The pier")
    set_field(ferry.owner, production, [made.pk], "number", "0020")
    production.sequences.filter(name="The pier").update(place=9)
    return made


def lengths(data):
    """Seconds of picture and of sound."""
    with av.open(io.BytesIO(data)) as film:
        frames = sum(1 for _ in film.decode(video=0))
    with av.open(io.BytesIO(data)) as film:
        samples = sum(frame.samples for frame in film.decode(audio=0))
    return frames, samples / 48_000


@pytest.mark.parametrize("slates", [True, False])
def test_several_shots_are_one_film_in_the_order_of_the_film(ferry, second, slates):
    wish = {"kinds": ["mp4", "csv"], "scenes": [second.pk], "joined": True, "slates": slates}
    told = [one["name"] for one in names_of(ferry, **wish)["files"]]
    assert told == ["The_Salt_Ferry_film.mp4", "Fog_Marit.csv", "Boot_Marit.csv"]
    files = makes(ferry, **wish)
    assert set(files) == set(told)
    each = arrangement_of(ferry.scene).value.frames
    frames, heard = lengths(files["The_Salt_Ferry_film.mp4"])
    assert frames == 2 * each + (48 if slates else 0)
    assert heard == pytest.approx(frame_time(frames, ferry.scene.fps), abs=0.05)


def test_one_shot_alone_is_a_film_as_ever(ferry):
    assert list(makes(ferry, kinds=["webm"], joined=True)) == ["Fog_Marit.webm"]


def test_a_folder_for_each_shot_lies_in_one_zip(ferry, second):
    wish = {
        "kinds": ["csv", "svg", "mp4"],
        "scenes": [second.pk],
        "joined": True,
        "folders": "{sequence}/{number}_{name}",
    }
    told = names_of(ferry, **wish)["files"]
    assert told[0]["name"] == "The_Salt_Ferry_shots.zip"
    files = makes(ferry, **wish)
    assert list(files) == ["The_Salt_Ferry_shots.zip"]
    with zipfile.ZipFile(io.BytesIO(files["The_Salt_Ferry_shots.zip"])) as packed:
        assert packed.testzip() is None
        assert packed.namelist() == [
            "The_crossing/0020_Boot/Boot_Marit.csv",
            "The_crossing/0020_Boot/Boot_Marit.svg",
            "The_pier/Fog/Fog_Marit.csv",
            "The_pier/Fog/Fog_Marit.svg",
            "The_Salt_Ferry_film.mp4",
        ]


@pytest.mark.parametrize("pattern", ["{who}", "a//b", "/", "..", "{name", "näme", "{name!r}", "x" * 121])
def test_a_folder_that_cannot_be_called_so_says_why(ferry, pattern):
    answer = asks(ferry, kinds=["csv"], folders=pattern)
    assert answer.status_code == 422
    assert "folder" in answer.json()["problem"] or "could not be understood" in answer.json()["problem"]


def test_folders_of_the_same_name_are_told_apart(ferry, second):
    (data,) = makes(ferry, kinds=["csv"], scenes=[second.pk], folders="shot").values()
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        assert packed.namelist() == ["shot/Boot_Marit.csv", "shot_2/Fog_Marit.csv"]


def report(ferry, kind):
    return ferry.client(ferry.viewer).get(f"/productions/{ferry.scene.production_id}/board/report.{kind}")


def test_a_report_says_what_is_approved_open_and_missing(ferry, second):
    production = ferry.scene.production
    create_scene(ferry.owner, production, "=Empty", "24", "1")
    yesterday = (timezone.localdate() - timedelta(days=1)).isoformat()
    set_field(ferry.owner, production, [second.pk], "due", yesterday)
    rushes.show_for_review(ferry.owner, ferry.scene)
    rushes.judge(ferry.viewer, ferry.scene, 1, "approved")
    rushes.write(ferry.viewer, second, rushes.Note(text="Jaw"))
    rows = {row["name"]: row for row in csv.DictReader(io.StringIO(report(ferry, "csv").content.decode()))}
    assert list(rows) == ["Boot", "Fog", "'=Empty"]
    today = timezone.now().date().isoformat()
    assert rows["Fog"]["what was said of it"] == f"approved by viewer, {today}"
    assert (rows["Fog"]["state"], rows["Fog"]["version"]) == ("approved", "1")
    assert (rows["Boot"]["open notes"], rows["Boot"]["due"]) == ("1", f"{yesterday} late")
    assert rows["'=Empty"]["state"] == "no sound"
    text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(report(ferry, "pdf").content)).pages)
    for told in (
        "The Salt Ferry",
        "3 shots",
        "Approved or handed over: 1, 50%",
        "not done: 1; late: 1",
        "a reading: 1.",
        "Boot",
    ):
        assert told in text, told
    assert report(ferry, "txt").status_code == 404


def test_a_report_of_many_shots_goes_over_pages_with_its_head_on_each(ferry):
    for number in range(60):
        create_scene(ferry.owner, ferry.scene.production, f"Pier <{number}> & goat", "24", "1")
    pages = PdfReader(io.BytesIO(report(ferry, "pdf").content)).pages
    assert len(pages) > 1
    assert all("open notes" in page.extract_text().replace("\n", " ") for page in pages)
    assert "Pier <59> & goat" in pages[-1].extract_text().replace("\n", " ")
