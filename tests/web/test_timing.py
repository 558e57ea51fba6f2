"""Exposures of another program are looked at, matched by name and laid, and the matches are remembered."""

import json

from django.core.files.uploadedfile import SimpleUploadedFile

from tests.web.test_correcting import reads
from tests.web.test_exposing import done, rows
from tests.web.test_history import steps
from tinfork.web.staves.models import NameMatch

TABLE = "frame,frames,drawing\n4,3,mouth_MBP\n7,5,AI\n12,2,(nothing)\n"


def looks(ferry, text=TABLE, person=None, name="theirs.csv", **more):
    upload = SimpleUploadedFile(name, text.encode())
    return ferry.client(person or ferry.owner).post(f"/staves/{ferry.stave.pk}/timing", {"file": upload, **more})


def test_it_is_asked_from_which_number_its_frames_are_counted(ferry):
    """The scene's first frame is 1001."""

    def began(first, **more):
        found = done(looks(ferry, f"frame,frames,drawing\n{first},3,open\n{first + 5},2,rest\n", **more))
        assert found["bases"] == [0, 1, 1001]
        return found["base"], found["rows"][0][0], found["first"]

    assert began(0) == (0, 0, 1001)
    assert began(1) == (1, 0, 1001)
    assert began(2) == (0, 2, 1003)
    assert began(1001) == (1001, 0, 1001)
    assert began(1002) == (0, 1002, 2003)
    assert began(1002, base="1001") == (1001, 1, 1002)
    assert began(1, base="0") == (0, 1, 1002)
    refused = looks(ferry, TABLE, base="1001")
    assert refused.status_code == 422
    assert "begins with frame 4" in refused.json()["problem"]


def test_it_is_looked_at_first_and_then_laid_in_one_step_that_every_reading_keeps(ferry):
    before = rows(ferry.fresh)
    found = done(looks(ferry))
    assert found["names"] == [
        {"name": "mouth_MBP", "times": 1, "drawing": "press"},
        {"name": "AI", "times": 1, "drawing": ""},
    ]
    assert rows(ferry.fresh) == before
    refused = ferry.edit(ferry.owner, "lay timing", rows=found["rows"], names={"mouth_MBP": "press"})
    assert "Choose the drawing that “AI” stands for" in refused.json()["problem"]
    names = {"mouth_MBP": "press", "AI": "open", "never": "half"}
    done(ferry.edit(ferry.owner, "lay timing", rows=found["rows"], names=names))
    after = rows(ferry.fresh)
    assert [row for row in after if 4 <= row[0] < 14] == [(4, 3, "press"), (7, 5, "open"), (12, 2, "")]
    reads(ferry)
    assert rows(ferry.fresh) == after
    assert dict(NameMatch.objects.values_list("name", "drawing")) == {"mouth_MBP": "press", "AI": "open"}
    assert [one["drawing"] for one in done(looks(ferry))["names"]] == ["press", "open"]
    while ferry.fresh.steps["undo"]:
        done(ferry.edit(ferry.owner, "undo"))
    assert rows(ferry.fresh) == before
    assert steps(ferry)[-1]["verb"] == "bring timing in"


def test_another_rate_is_told_and_what_does_not_fit_too(ferry):
    frames = ferry.track[-1].end
    exposures = [
        {"frame": 1, "frames": 2, "drawing": "open"},
        {"frame": frames, "frames": 9, "drawing": "rest"},
    ]
    found = done(looks(ferry, json.dumps({"fps": "12", "exposures": exposures}), name="theirs.json", base="0"))
    assert found["told"].startswith("From 12 to 24 frames a second")
    assert found["rows"][0] == [2, 4, "open"]
    answer = done(ferry.edit(ferry.owner, "lay timing", rows=found["rows"], names={"open": "open", "rest": "rest"}))
    assert answer["notes"] == ["1 of 2 did not fit before the end of the scene."]
    assert (2, 4, "open") in rows(ferry.fresh)


def test_what_cannot_be_brought_in_is_said_and_changes_nothing(ferry):
    before = rows(ferry.fresh)
    assert "must name the columns" in looks(ferry, "a,b\n").json()["problem"]
    assert looks(ferry, TABLE, ferry.viewer).status_code == 404
    for what, why in (
        ([], "No exposure was found"),
        ([[3, 4, "a"], [5, 4, "a"]], "overlaps another"),
        ([[-3, 4, "a"]], "at frame -3"),
        ([[3, 4, "a" * 300]], "at frame 3"),
        ([[10**7, 4, "a"]], "at frame 10000000"),
        ([[99_999, 4, "a"]], "past the end of the scene"),
    ):
        names = {row[2]: "open" for row in what}
        answer = ferry.edit(ferry.owner, "lay timing", rows=what, names=names)
        assert answer.status_code == 422, what
        assert why in answer.json()["problem"]
    unknown = ferry.edit(ferry.owner, "lay timing", rows=[[3, 4, "a"]], names={"a": "nobody"})
    assert "no drawing “nobody”" in unknown.json()["problem"]
    assert rows(ferry.fresh) == before
    assert not NameMatch.objects.exists()
