"""Two who change different things of one character are not in each other's way; who changes the same is told."""

import json

import pytest

from tinfork.web.acting.models import acting_of
from tinfork.web.edits.models import Edit
from tinfork.web.edits.spots import meet, spots
from tinfork.web.sound.arranging import arrangement_of


@pytest.fixture
def acting(ferry):
    """Asks for an edit of Marit's acting as somebody, on a version."""
    found = acting_of(ferry.scene, ferry.stave.character)

    def edit(person, verb, version, **what):
        body = json.dumps({"verb": verb, "version": version, **what})
        return ferry.client(person).post(f"/acting/{found.pk}/edit", body, content_type="application/json")

    edit.of = found
    return edit


def pins(ferry):
    return sorted((e.frame, e.drawing) for e in ferry.track if e.pinned)


def test_pins_on_other_frames_are_both_there(ferry, editor):
    version = ferry.fresh.version
    assert ferry.edit(ferry.owner, "pin", version, frame=4, frames=3, drawing="purse").status_code == 200
    late = ferry.edit(editor, "pin", version, frame=20, frames=3, drawing="open")
    assert late.status_code == 200
    # What the page does not know of the first comes with it.
    assert late.json()["document"]["renumbered"]
    assert pins(ferry) == [(4, "purse"), (20, "open")]
    again = ferry.edit(editor, "pin", frame=30, frames=3, drawing="half")
    assert not again.json()["document"]["renumbered"]


def test_pins_on_the_same_frames_are_refused_with_who_and_what(ferry, editor):
    version = ferry.fresh.version
    ferry.edit(ferry.owner, "pin", version, frame=4, frames=3, drawing="purse")
    late = ferry.edit(editor, "pin", version, frame=6, frames=3, drawing="open")
    assert late.status_code == 409
    assert "pin, by owner" in late.json()["problem"]
    assert pins(ferry) == [(4, "purse")]


def test_what_was_undone_meanwhile_was_touched_too(ferry, editor):
    ferry.edit(ferry.owner, "pin", frame=4, frames=3, drawing="purse")
    version = ferry.fresh.version
    ferry.edit(ferry.owner, "undo")
    assert ferry.edit(editor, "show", version, at=[5], drawing="open").status_code == 409
    assert ferry.edit(editor, "show", version, at=[30], drawing="open").status_code == 200


def word(ferry, place):
    return ferry.reading["lines"][0]["words"][place]


def test_words_apart_are_moved_by_both_and_one_word_by_the_first(ferry, editor):
    version, begun = ferry.fresh.version, [word(ferry, place)["start"] for place in (1, 5)]
    assert ferry.edit(ferry.owner, "move word", version, at=[0, 1], by=0.01).status_code == 200
    assert ferry.edit(editor, "move word", version, at=[0, 5], by=0.01).status_code == 200
    moved = [word(ferry, place)["start"] for place in (1, 5)]
    assert [round(now - then, 3) for now, then in zip(moved, begun, strict=True)] == [0.01, 0.01]
    late = ferry.edit(editor, "move word", version, at=[0, 1], by=0.02)
    assert late.status_code == 409
    assert "move a word, by owner" in late.json()["problem"]
    assert word(ferry, 1)["start"] == moved[0]


def test_a_word_is_not_looked_for_in_lines_that_were_put_in_another_order(ferry, editor):
    version = ferry.fresh.version
    assert ferry.edit(ferry.owner, "write line", version, text="Fog", start=0.0, end=0.05).status_code == 200
    assert ferry.edit(editor, "move word", version, at=[0, 5], by=0.01).status_code == 409


def test_what_is_of_the_whole_stave_is_refused_as_before(ferry, editor):
    version = ferry.fresh.version
    ferry.edit(ferry.owner, "pin", version, frame=4, frames=3, drawing="purse")
    assert ferry.edit(editor, "settings", version, hold=3, lead=1, detail=0.5).status_code == 409


def test_keys_get_through_beside_proposals_and_keys_of_others(ferry, editor, acting):
    version = acting.of.version
    key = {"part": "head", "dial": "turn", "value": 3}
    assert acting(ferry.owner, "key", version, frame=10, **key).status_code == 200
    assert acting(ferry.owner, "propose", version + 1).status_code == 200
    late = acting(editor, "key", version, frame=40, **key)
    assert late.status_code == 200
    assert late.json()["document"]["whole"]
    acting.of.refresh_from_db()
    acting.of.read_again()
    assert [k.frame for k in acting.of.lane("head").keys["turn"]] == [10, 40]
    assert acting(editor, "key", version, frame=10, **key | {"value": 4}).status_code == 409


def test_edits_from_before_spots_were_kept_are_taken_to_touch_everything(ferry, editor):
    version = ferry.fresh.version
    ferry.edit(ferry.owner, "pin", version, frame=4, frames=3, drawing="purse")
    Edit.objects.update(spots=None)
    assert ferry.edit(editor, "pin", version, frame=30, frames=3, drawing="open").status_code == 409


def test_where_changes_meet():
    pin = {"frame": 4, "frames": 2, "drawing": "ah", "source_id": 7}
    assert spots("pins", [], [pin]) == [["pins", 4, 6, 7]]
    assert spots("pins", [pin], [pin]) == []
    assert spots("pins", [pin], [pin | {"drawing": "oh"}]) == [["pins", 4, 6, 7]] * 2
    assert spots("hold", 2, 3) == [["hold", None, None, 0]]
    line = {"id": 1, "start": 0.0, "end": 1.0, "words": [1, 2, 3]}
    assert spots("line 4", line, line | {"end": 2.0, "words": [1, 2, 4]}) == [["line 4", 2, 3, 0]]
    assert spots("line 4", line, line | {"words": [1, 2]}) == [["line 4 words", None, None, 0]]
    assert meet([["line 4", 2, 3, 0]], [["line 4 words", None, None, 0]])
    assert meet([["line 4", 2, 3, 0]], [["order", None, None, 0]])
    assert not meet([["line 4", 2, 3, 0]], [["line 5", None, None, 0]])
    assert not meet([["pins", 4, 6, 7]], [["pins", 6, 8, 7], ["pins", 4, 6, 8], ["hold", None, None, 0]])
    assert not meet([["pins", 8, 9, 7]], [["pins", 6, 8, 7]])
    assert meet([["pins", 4, 7, 7]], [["pins", 6, 8, 7]])
    assert meet([["pins", 7, 9, 7]], [["pins", 6, 8, 7]])


def test_what_lies_on_a_sound_that_was_moved_is_refused_and_what_lies_on_another_is_not(ferry, editor):
    (clip,) = arrangement_of(ferry.scene).value.clips
    cut = clip.frames // 2
    ferry.sound(ferry.owner, "split", clips=[clip.id], frame=cut)
    version = ferry.fresh.version
    other = max(arrangement_of(ferry.scene).value.clips, key=lambda one: one.start)
    ferry.sound(ferry.owner, "slide", clips=[other.id], by=12, ripple=False)
    assert ferry.fresh.version > version
    moved = ferry.edit(editor, "pin", version, frame=cut + 4, frames=2, drawing="open").status_code
    stays = ferry.edit(editor, "pin", version, frame=4, frames=2, drawing="open").status_code
    same = clip.source_id == other.source_id
    assert (moved, stays) == (409, 409 if same else 200)
