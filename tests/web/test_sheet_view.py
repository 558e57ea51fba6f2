"""The exposure sheet: notes that many people write, and its files."""

import csv
import io
import json

import pypdf
import pytest

from tests.web.test_history import back, steps
from tinfork.web.productions.actions import create_scene
from tinfork.web.sheet.actions import MOST_LETTERS, notes_of
from tinfork.web.staves.seeing import track_of


def write(ferry, person, frame, text):
    return ferry.client(person).post(
        f"/scenes/{ferry.scene.pk}/sheet/note",
        json.dumps({"frame": frame, "text": text}),
        content_type="application/json",
    )


def fetched(ferry, kind, **asked):
    return ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/sheet/sheet.{kind}", asked)


def test_notes_of_several_people_stand_side_by_side_and_are_steps_of_the_history(ferry, editor):
    assert write(ferry, ferry.owner, 4, "  look \n left ").json() == {"notes": {"4": "look left"}}
    assert write(ferry, editor, 9, "blink").json() == {"notes": {"4": "look left", "9": "blink"}}
    assert write(ferry, ferry.owner, 4, "").json() == {"notes": {"9": "blink"}}
    assert [(one["verb"], one["who"]) for one in steps(ferry)] == [
        ("note", "owner"),
        ("note", "editor"),
        ("note", "owner"),
    ]
    assert back(ferry, steps(ferry)[0]["step"], alone=True).status_code == 200
    assert notes_of(ferry.scene).by_frame == {4: "look left", 9: "blink"}
    page = ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/sheet/").content.decode()
    assert "look left" in page
    assert ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/sheet/notes").json()["notes"]["9"] == "blink"


@pytest.mark.parametrize(
    ("frame", "text", "why"),
    [
        (-1, "x", "no such frame"),
        (3, "x" * (MOST_LETTERS + 1), "up to 400 letters"),
        ("a", "x", "could not be understood"),
    ],
)
def test_a_note_that_cannot_be_kept_is_said(ferry, frame, text, why):
    answer = write(ferry, ferry.owner, frame, text)
    assert answer.status_code == 422
    assert why in answer.json()["problem"]
    assert notes_of(ferry.scene).by_frame == {}


def test_the_files_hold_what_the_sheet_shows(ferry):
    write(ferry, ferry.owner, 4, "look left")
    track = track_of(ferry.fresh)
    table = list(csv.DictReader(io.StringIO(fetched(ferry, "csv").content.decode())))
    assert {int(row["frame"]) - 1001: row["Marit"] for row in table if row["Marit"]} == {
        e.frame: e.drawing for e in track
    }
    assert len(table) == track[-1].end
    assert table[4]["notes"] == "look left"
    some = fetched(ferry, "csv", first=1005, end=1010, columns="notes,drawings", step=2).content.decode()
    assert [row.split(",")[0] for row in some.splitlines()] == ["frame", "1005", "1007", "1009"]
    assert some.splitlines()[1].endswith("look left")
    answer = fetched(ferry, "pdf", rows=20, paper="Letter")
    assert answer.headers["Content-Disposition"] == 'attachment; filename="Fog_sheet.pdf"'
    read = pypdf.PdfReader(io.BytesIO(answer.content))
    assert len(read.pages) == -(-track[-1].end // 20)
    assert "The Salt Ferry · Fog" in read.pages[0].extract_text()
    assert "look left" in read.pages[0].extract_text()
    assert fetched(ferry, "ods").content[:2] == b"PK"


def test_what_cannot_be_printed_is_said(ferry):
    for asked, why in (
        ({"paper": "A0"}, "A4 or Letter"),
        ({"rows": 9999}, "12 to 60 rows"),
        ({"step": 7}, "every two"),
        ({"first": 99999}, "no frame of the shot"),
    ):
        answer = fetched(ferry, "pdf", **asked)
        assert answer.status_code == 422
        assert why in answer.content.decode()
    assert fetched(ferry, "docx").status_code == 404
    scene = create_scene(ferry.owner, ferry.scene.production, "Empty", "24", "1")
    page = ferry.client(ferry.viewer).get(f"/scenes/{scene.pk}/sheet/").content.decode()
    assert "No exposures yet" in page
    assert ferry.client(ferry.viewer).get(f"/scenes/{scene.pk}/sheet/sheet.pdf").status_code == 422
