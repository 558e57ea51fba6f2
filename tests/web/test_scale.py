"""What must not grow with the number of things there are."""

import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext

from tinfork.core.exposure import plan
from tinfork.core.exposure.curves import curves
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.mouths import basis_chart
from tinfork.web.staves.planning import AT_ONCE, planned, scene_reading
from tinfork.web.staves.seeing import track_of


def queries(do):
    with CaptureQueriesContext(connection) as asked:
        do()
    return len(asked)


def test_an_answer_says_what_changed_and_nothing_else(ferry):
    reading = scene_reading(ferry.fresh)
    word = reading.lines[0].words[2]
    answer = ferry.edit(ferry.owner, "edge", at=[0, 2], edge=0, time=word.start + 0.03).json()["document"]
    assert answer["numbers"] == [0]
    assert answer["lines"][0]["words"][2]["start"] == pytest.approx(word.start + 0.03)
    ((first, end),) = answer["stale"]
    assert (answer["drawn"], answer["exposures"]) == ([], [])
    seen = ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/?first={first}&end={end}").json()["exposures"]
    assert [e["frame"] for e in seen] == [e.frame for e in track_of(ferry.fresh) if e.frame < end and e.end > first]
    unchanged = ferry.edit(ferry.owner, "approve", at=[0, 2]).json()["document"]
    assert (unchanged["numbers"], unchanged["drawn"], unchanged["exposures"]) == ([0], [], [])


def test_a_short_stretch_is_planned_with_the_edit_that_asks_for_it(ferry):
    """Frames 0 to 20 are left between the sound's begin, a pin and the end of the scene."""
    ferry.edit(ferry.owner, "pin", frame=20, frames=20, drawing="purse")
    assert ferry.sound(ferry.owner, "length", frames=40).status_code == 200
    answer = ferry.edit(ferry.owner, "pin", frame=3, frames=2, drawing="open").json()["document"]
    assert not answer["stale"]
    ((first, end),) = answer["drawn"]
    assert [e["frame"] for e in answer["exposures"]] == [
        e.frame for e in track_of(ferry.fresh) if e.frame < end and e.end > first
    ]


def test_a_pin_is_seen_before_what_is_around_it_is_planned(ferry):
    ferry.edit(ferry.owner, "settings", hold=2, lead=1, detail=0.3)
    answer = ferry.edit(ferry.owner, "pin", frame=30, frames=3, drawing="purse").json()["document"]
    assert answer["stale"]
    assert [[e["frame"], e["frames"], e["drawing"], e["pinned"]] for e in answer["exposures"]] == [
        [30, 3, "purse", True]
    ]
    assert [e.pinned for e in track_of(ferry.fresh) if e.frame <= 30 < e.end] == [True]


def whole_plan(stave):
    """The mouth track planned in one go."""
    reading = scene_reading(stave)
    shape = curves(reading.sounds(), reading.seconds, stave.scene.fps)
    return plan.plan(shape, basis_chart(stave), stave.settings_value)


def test_whatever_is_done_the_track_is_kept_where_it_can_be_and_planned_anew_it_is_what_planning_all_of_it_gives(ferry):
    arrangement = arrangement_of(ferry.scene)
    clip = arrangement.value.clips[0].id
    words = len(scene_reading(ferry.fresh).lines[0].words)
    for do in (
        lambda: ferry.edit(ferry.owner, "sound", at=[0, 1], sound=0, ipa="m"),
        lambda: ferry.edit(ferry.owner, "delete word", at=[0, words - 1]),
        lambda: ferry.sound(ferry.owner, "slide", clips=[clip], by=31, ripple=False),
        lambda: ferry.sound(ferry.owner, "split", clips=[clip], frame=60),
        lambda: ferry.sound(ferry.owner, "slide", clips=[clip], by=-20, ripple=False),
        lambda: ferry.sound(ferry.owner, "length", frames=700),
        lambda: ferry.edit(ferry.owner, "settings", hold=3, lead=2, detail=0.2),
        lambda: ferry.edit(ferry.owner, "undo"),
        lambda: ferry.sound(ferry.owner, "length", frames=50),
        lambda: ferry.sound(ferry.owner, "undo"),
        lambda: ferry.sound(ferry.owner, "trim", clip=clip, first=13, end=40),
    ):
        assert do().status_code == 200
        kept = track_of(ferry.fresh)
        assert ferry.edit(ferry.owner, "plan anew").status_code == 200
        assert list(track_of(ferry.fresh)) == list(whole_plan(ferry.fresh))
        assert ferry.edit(ferry.owner, "undo").status_code == 200
        assert track_of(ferry.fresh) == kept


def test_what_is_long_is_planned_where_it_is_looked_at(ferry):
    frames = 3 * AT_ONCE
    assert ferry.sound(ferry.owner, "length", frames=frames).status_code == 200
    ferry.edit(ferry.owner, "settings", hold=3, lead=0, detail=0.9)
    assert ferry.fresh.unplanned == [[0, frames]]
    client = ferry.client(ferry.owner)
    seen = client.get(f"/staves/{ferry.stave.pk}/?first=10&end=40").json()["exposures"]
    whole = whole_plan(ferry.fresh)
    assert [e["frame"] for e in seen] == [e.frame for e in whole if e.frame < 40 and e.end > 10]
    assert ferry.fresh.unplanned[0][0] > 40
    why = client.get(f"/staves/{ferry.stave.pk}/why/12").json()
    assert why["sounds"]
    assert planned(ferry.fresh).stave.unplanned == []
    assert list(track_of(ferry.fresh)) == list(whole)


def test_an_edit_of_the_script_brings_the_lines_it_changed(ferry):
    ferry.client(ferry.owner).post(f"/scenes/{ferry.scene.pk}/script/import", {"text": "Marit: Fog.\nMarit: A goat."})
    wrote = ferry.script(ferry.owner, "write", line=2, text="Fog again.").content.decode()
    assert wrote.count("data-line=") == 1
    assert ">\nFog again.</textarea>" in wrote
    assert "data-order" not in wrote
    split = ferry.script(ferry.owner, "split", line=2, word=1).content.decode()
    assert split.count("data-line=") == 2
    assert 'data-order="1 2 4 3"' in split
    gone = ferry.script(ferry.owner, "remove", line=3).content.decode()
    assert gone.count("data-line=") == 0
    assert 'data-gone="3"' in gone


def test_pages_are_packed_and_files_go_as_they_are(ferry):
    client = Client(headers={"accept-encoding": "gzip"})
    client.force_login(ferry.owner)
    sound = ferry.scene.production.sounds.get()
    file = client.get(f"/sounds/{sound.pk}/original")
    assert "Content-Encoding" not in file.headers
    assert int(file.headers["Content-Length"]) == sound.original.size
    assert client.get(f"/staves/{ferry.stave.pk}/").headers["Content-Encoding"] == "gzip"


def test_an_edit_of_the_script_asks_no_more_of_many_lines_than_of_few(ferry):
    few = queries(lambda: ferry.script(ferry.owner, "write", line=1, text="Fog."))
    lines = "\n".join(["Marit: Fog again."] * 30)
    ferry.client(ferry.owner).post(f"/scenes/{ferry.scene.pk}/script/import", {"text": lines})
    assert queries(lambda: ferry.script(ferry.owner, "write", line=9, text="A goat.")) <= few
