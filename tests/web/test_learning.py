"""What somebody corrects again and again is offered as a rule, shown before it is made, and can be taken back."""

import pytest

from tests.web.test_correcting import reads
from tests.web.test_exposing import done, rows, shown
from tinfork.core.exposure.habits import Changed, changed
from tinfork.core.exposure.track import Exposure
from tinfork.web.productions.actions import create_scene
from tinfork.web.staves import actions
from tinfork.web.staves.models import SoundRule


def asked(ferry, **what):
    return ferry.client(ferry.viewer).get(f"/staves/{ferry.stave.pk}/habits", what).json()


def sounds(ferry, ipa):
    head = ferry.client(ferry.viewer).get(f"/staves/{ferry.stave.pk}/").json()
    words = [word for line in head["lines"] for word in line["words"]]
    return [(start, end) for word in words for sign, start, end, _ in word["sounds"] if sign == ipa]


@pytest.fixture
def corrected(ferry):
    """Every t was given another drawing by hand, but for the longest, which is seen."""
    reads(ferry)
    places = sorted(sounds(ferry, "t"), key=lambda place: place[1] - place[0])
    assert len(places) == 4
    for start, end in places[:3]:
        first, last = (int(time * 24) for time in (start, end))
        done(ferry.edit(ferry.owner, "lay", frame=first - 1, pieces=[[0, last - first + 1, "push"]]))
    return ferry


def test_a_correction_that_is_made_often_is_offered_and_shows_what_it_would_change(corrected):
    ferry = corrected
    found = asked(ferry)
    assert [(one["ipa"], one["drawing"]) for one in found["offers"]] == [("t", "push")]
    assert found["offers"][0]["times"] == 3
    assert found["rules"] == []
    done(ferry.edit(ferry.owner, "plan anew"))
    before = ferry.track
    changes = asked(ferry, ipa="t", drawing="push")["changes"]
    assert changes
    done(ferry.edit(ferry.owner, "rule", ipa="t", drawing="push"))
    after = ferry.track
    drawn = [[e.drawing for e in track for _ in range(e.frames)] for track in (before, after)]
    differs = {frame for frame, (was, now) in enumerate(zip(*drawn, strict=True)) if was != now}
    assert differs == {frame for one in changes for frame in range(one["frame"], one["frame"] + one["frames"])}
    assert [e for e in after if e.pinned] == [e for e in before if e.pinned]
    assert asked(ferry) == {"offers": [], "rules": [{"ipa": "t", "drawing": "push", "here": True}]}
    drawn = shown(ferry.fresh)
    reads(ferry)
    assert shown(ferry.fresh) == drawn
    done(ferry.edit(ferry.owner, "no rule", ipa="t"))
    assert ferry.fresh.rules == []
    done(ferry.edit(ferry.owner, "plan anew"))
    assert ferry.track == before
    assert not SoundRule.objects.exists()
    assert ferry.edit(ferry.owner, "no rule", ipa="t").status_code == 422


def test_a_rule_is_the_characters_and_holds_in_scenes_that_are_new(corrected):
    ferry = corrected
    done(ferry.edit(ferry.owner, "rule", ipa="t", drawing="push"))
    other = create_scene(ferry.owner, ferry.scene.production, "Boot", "24", "1")
    stave = actions.stave_for(ferry.owner, other, ferry.stave.character)
    assert [rule[:2] for rule in stave.rules] == [["t", "push"]]


def test_twice_is_no_habit_and_what_is_planned_anyway_is_none(ferry):
    for start, end in sounds(ferry, "t")[:2]:
        done(ferry.edit(ferry.owner, "lay", frame=int((start + end) / 2 * 24) - 1, pieces=[[0, 2, "push"]]))
    done(ferry.edit(ferry.owner, "keep", within=[0, 999]))
    assert asked(ferry)["offers"] == []
    before = rows(ferry.fresh)
    for what in ({"ipa": "t", "drawing": "nobody"}, {"ipa": "t", "drawing": ""}, {"ipa": "boot", "drawing": "open"}):
        assert ferry.edit(ferry.owner, "rule", **what).status_code == 422
    assert rows(ferry.fresh) == before


def test_changes_that_go_on_are_one_place():
    one = [Exposure(0, 4, "rest"), Exposure(4, 4, "open")]
    other = [Exposure(0, 2, "rest"), Exposure(2, 4, "push"), Exposure(6, 2, "open")]
    assert changed(one, other) == (Changed(2, 2, "rest", "push"), Changed(4, 2, "open", "push"))
