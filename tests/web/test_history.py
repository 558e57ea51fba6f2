"""Going back in what was done: to any point, or of one step alone; and what an open page learns of others."""

import json

import pytest

from tests.web.test_exposing import done, rows
from tinfork.web.edits.diff import apply
from tinfork.web.edits.models import Edit
from tinfork.web.sound.arranging import arrangement_of


def steps(ferry, person=None):
    return ferry.client(person or ferry.owner).get(f"/scenes/{ferry.scene.pk}/history").json()["steps"]


def back(ferry, step, by=None, **how):
    return ferry.client(by or ferry.owner).post(
        f"/scenes/{ferry.scene.pk}/history/back", json.dumps({"step": step, **how}), content_type="application/json"
    )


def versions(ferry):
    return ferry.client(ferry.viewer).get(f"/scenes/{ferry.scene.pk}/versions").json()["versions"]


def test_everything_that_was_done_is_told_and_can_be_gone_back_to(ferry, editor):
    tracks = [rows(ferry.fresh)]
    for person, frame in ((ferry.owner, 10), (editor, 20), (ferry.owner, 30)):
        done(ferry.edit(person, "pin", frame=frame, frames=3, drawing="purse"))
        tracks.append(rows(ferry.fresh))
    clip = arrangement_of(ferry.scene).value.clips[0]
    ferry.sound(editor, "slide", clips=[clip.id], by=4, ripple=False)
    tracks.append(rows(ferry.fresh))
    told = steps(ferry)
    assert [(one["who"], one["verb"]) for one in told] == [
        ("editor", "slide"),
        ("owner", "pin"),
        ("editor", "pin"),
        ("owner", "pin"),
    ]
    order = [one["step"] for one in reversed(told)]
    for place in (2, 0, 4, 1, 3):
        step = order[place - 1] if place else 0
        assert back(ferry, step).status_code == 200
        assert rows(ferry.fresh) == tracks[place]
    assert [one["undone"] for one in steps(ferry)] == [True, False, False, False]
    assert "no longer in the history" in back(ferry, 10**9).json()["problem"]


def test_one_step_is_taken_back_alone_where_nothing_later_stands_on_it(ferry, editor):
    done(ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse"))
    done(ferry.edit(editor, "pin", frame=20, frames=3, drawing="open"))
    done(ferry.edit(ferry.owner, "pin", frame=30, frames=3, drawing="purse"))
    first, second, third = reversed(steps(ferry))
    assert back(ferry, second["step"], alone=True).status_code == 200
    pinned = [(e.frame, e.drawing) for e in ferry.track if e.pinned]
    assert pinned == [(10, "purse"), (30, "purse")]
    assert steps(ferry)[0]["verb"] == "take back: pin"
    done(ferry.edit(ferry.owner, "undo"))
    assert [e.frame for e in ferry.track if e.pinned] == [10, 20, 30]
    done(ferry.edit(editor, "pin", frame=11, frames=4, drawing="open"))
    refused = back(ferry, first["step"], alone=True)
    assert refused.status_code == 422
    assert "“pin” by owner cannot be taken back alone: what was done later stands on it" in refused.json()["problem"]
    assert back(ferry, third["step"], alone=True).status_code == 200
    twice = {"a": [1, 2, 1]}
    with pytest.raises(LookupError):
        apply(twice, [[["a"], [], [1], 1]], back=True, anywhere=True)
    assert apply({"a": [9, 1, 2]}, [[["a"], [], [1], 0]], back=True, anywhere=True) == {"a": [9, 2]}
    assert back(ferry, third["step"] + 999, alone=True).status_code == 422
    assert back(ferry, first["step"], ferry.viewer).status_code == 404


def test_an_open_page_learns_which_documents_are_others_now(ferry, editor):
    before = versions(ferry)
    assert set(before) >= {f"stave {ferry.stave.pk}"}
    done(ferry.edit(editor, "pin", frame=10, frames=3, drawing="purse"))
    after = versions(ferry)
    assert {area for area in after if after[area] != before.get(area)} == {f"stave {ferry.stave.pk}"}


@pytest.mark.parametrize("body", ["", "[]", '{"step": "x"}', '{"step": 1e99}', '{"step": 1, "who": 2}'])
def test_what_is_no_step_is_refused_in_a_sentence(ferry, body):
    answer = ferry.client(ferry.owner).post(
        f"/scenes/{ferry.scene.pk}/history/back", body, content_type="application/json"
    )
    assert answer.status_code == 422
    assert answer.json()["problem"]
    assert not Edit.objects.exists()


def test_all_that_one_person_did_is_taken_back_and_what_others_did_stays(ferry, editor):
    clip = arrangement_of(ferry.scene).value.clips[0]
    for person, frame in ((editor, 10), (ferry.owner, 20), (editor, 30), (ferry.owner, 40)):
        done(ferry.edit(person, "pin", frame=frame, frames=3, drawing="purse"))
    ferry.sound(editor, "slide", clips=[clip.id], by=4, ripple=False)
    number = next(one["person"] for one in steps(ferry) if one["who"] == "editor")
    assert back(ferry, 0, person=number).status_code == 200, "whoever asks"
    assert [e.frame for e in ferry.track if e.pinned] == [20, 40]
    assert arrangement_of(ferry.scene).value.clips[0].start == clip.start
    told = steps(ferry)
    assert [(one["verb"], sorted(one["areas"])) for one in told[:1]] == [
        ("take back all by editor", sorted(["sound", ferry.stave.area]))
    ]
    done(ferry.edit(ferry.owner, "undo"))
    assert [e.frame for e in ferry.track if e.pinned] == [14, 24, 34, 44]
    done(ferry.edit(ferry.owner, "pin", frame=35, frames=4, drawing="open"))
    before = rows(ferry.fresh)
    refused = back(ferry, 0, person=number)
    assert refused.status_code == 422
    assert "“pin” by editor cannot be taken back alone" in refused.json()["problem"]
    assert rows(ferry.fresh) == before
    assert arrangement_of(ferry.scene).value.clips[0].start == clip.start + 4
    assert "Nothing of theirs" in back(ferry, 0, person=10**6).json()["problem"]
