import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from tinfork.core.errors import TinForkError
from tinfork.core.exposure.track import Pin
from tinfork.core.mouths.shapes import NAMES
from tinfork.web.edits import actions as edits
from tinfork.web.edits.diff import apply, diff
from tinfork.web.edits.models import Edit
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.placing import Placed
from tinfork.web.staves.planning import scene_reading
from tinfork.web.staves.seeing import track_of
from tinfork.web.tracks import deciding


def pinned(stave):
    return [(e.frame, e.frames, e.drawing) for e in track_of(stave) if e.pinned]


def test_pin_undo_redo(ferry):
    before = ferry.track
    answer = ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse").json()["document"]
    assert pinned(ferry.fresh) == [(10, 3, "purse")]
    assert (answer["undo"], answer["redo"]) == ("pin", "")
    ferry.edit(ferry.owner, "undo")
    assert ferry.track == before
    ferry.edit(ferry.owner, "redo")
    assert pinned(ferry.fresh) == [(10, 3, "purse")]
    ferry.edit(ferry.owner, "unpin", frame=11)
    assert ferry.track == before


def test_a_new_edit_after_undo_ends_redo(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    ferry.edit(ferry.owner, "undo")
    ferry.edit(ferry.owner, "pin", frame=20, frames=2, drawing="open")
    assert ferry.edit(ferry.owner, "redo").status_code == 422
    ferry.edit(ferry.owner, "undo")
    assert ferry.edit(ferry.owner, "undo").json()["problem"] == "There is nothing to undo."


def test_settings_plan_anew_around_pins(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    calm = len(ferry.track)
    ferry.edit(ferry.owner, "settings", hold=1, lead=0, detail=1.0)
    assert len(ferry.track) > calm
    assert pinned(ferry.fresh) == [(10, 3, "purse")]


def test_a_stale_edit_is_refused_and_overwrites_nothing(ferry):
    version = ferry.fresh.version
    ferry.edit(ferry.owner, "pin", version, frame=10, frames=3, drawing="purse")
    answer = ferry.edit(ferry.owner, "pin", version, frame=10, frames=3, drawing="open")
    assert answer.status_code == 409
    assert "changed meanwhile (pin, by owner)" in answer.json()["problem"]
    assert answer.json()["document"]["version"] == version + 1
    assert pinned(ferry.fresh) == [(10, 3, "purse")]


@pytest.mark.parametrize(
    "what",
    [
        {"verb": "pin", "frame": 0, "frames": 0, "drawing": "open"},
        {"verb": "pin", "frame": -2, "frames": 4, "drawing": "open"},
        {"verb": "pin", "frame": 0, "frames": 99999, "drawing": "open"},
        {"verb": "pin", "frame": 0, "frames": 2, "drawing": "nobody"},
        {"verb": "pin", "frame": "x", "frames": 2, "drawing": "open"},
        {"verb": "pin", "frame": 1e999, "frames": 2, "drawing": "open"},
        {"verb": "unpin", "frame": 4},
        {"verb": "settings", "hold": 99, "lead": 1, "detail": 0.5},
        {"verb": "settings", "hold": 2, "lead": 1, "detail": "nan"},
        {"verb": "pin", "frame": 0, "frames": 2, "drawing": "open", "force": True},
        {"verb": "fly"},
    ],
)
def test_an_edit_that_cannot_be_is_a_sentence(ferry, what):
    before = (ferry.fresh.version, ferry.track)
    answer = ferry.edit(ferry.owner, **what)
    assert answer.status_code == 422
    assert answer.json()["problem"].endswith(".")
    assert (ferry.fresh.version, ferry.track) == before


def test_no_json_is_a_sentence(ferry):
    client = ferry.client(ferry.owner)
    for body in ("", "[]", "3", "{}", '{"verb": "pin"}'):
        answer = client.post(f"/staves/{ferry.stave.pk}/edit", body, content_type="application/json")
        assert answer.status_code == 422
        assert "could not be understood" in answer.json()["problem"]


runs = st.lists(
    st.one_of(
        st.tuples(st.just("pin"), st.integers(0, 60), st.integers(1, 8), st.sampled_from(NAMES)),
        st.tuples(st.just("undo")),
        st.tuples(st.just("redo")),
    ),
    max_size=8,
)


@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(runs)
def test_any_run_of_edits_and_undos_leads_back(ferry, run):
    Edit.objects.all().delete()
    start, planned = ferry.fresh, ferry.track
    for verb, *what in run:
        stave = ferry.fresh
        try:
            if verb == "pin":
                stave = deciding.pin_drawing(ferry.owner, stave, stave.version, *what)
                assert Pin(*what) in Placed(stave).pins.shown
            else:
                getattr(edits, verb)(ferry.owner, stave, stave.version)
        except TinForkError:
            assert verb in ("undo", "redo")
    while ferry.fresh.can_undo:
        edits.undo(ferry.owner, ferry.fresh, ferry.fresh.version)
    assert ferry.track == planned
    assert ferry.fresh.pins == start.pins


def test_undo_goes_back_through_the_whole_scene_whatever_was_touched(ferry):
    start = (script_of(ferry.scene).body, arrangement_of(ferry.scene).body, ferry.fresh.pins)
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    ferry.script(ferry.owner, "write", line=1, text="Fog.")
    clip = arrangement_of(ferry.scene).value.clips[0]
    ferry.sound(ferry.owner, "slide", clips=[clip.id], by=5, ripple=False)
    answers = [ferry.edit(ferry.owner, "undo").json() for _ in range(3)]
    assert [answer["done"] for answer in answers] == ["Undone: slide.", "Undone: write.", "Undone: pin."]
    assert [answer["others"] for answer in answers] == [True, True, False]
    assert (script_of(ferry.scene).body, arrangement_of(ferry.scene).body, ferry.fresh.pins) == start
    assert ferry.sound(ferry.owner, "redo").json()["done"] == "Done again: pin."
    assert pinned(ferry.fresh) == [(10, 3, "purse")]


def test_a_reading_brought_in_with_its_lines_is_one_step(ferry):
    taken = ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/reading.json").content
    ferry.script(ferry.owner, "remove", line=1)
    before = (script_of(ferry.scene).body, ferry.reading)
    upload = SimpleUploadedFile("reading.json", taken)
    address = f"/staves/{ferry.stave.pk}/bring"
    sent = ferry.client(ferry.owner).post(address, {"file": upload, "version": ferry.fresh.version})
    assert sent.status_code == 200
    assert len(script_of(ferry.scene).value.lines) == 1
    assert ferry.edit(ferry.owner, "undo").json()["done"] == "Undone: bring in a reading."
    assert (script_of(ferry.scene).body, ferry.reading) == before


def test_an_edit_that_changes_nothing_is_no_step(ferry):
    stave = ferry.fresh
    for _ in range(2):
        ferry.edit(ferry.owner, "settings", hold=stave.hold, lead=stave.lead, detail=stave.detail)
    assert ferry.fresh.version == stave.version
    assert not ferry.fresh.can_undo


def test_the_log_keeps_what_changed_and_no_more(ferry):
    ferry.edit(ferry.owner, "edge", at=[0, 2], edge=0, time=scene_reading(ferry.fresh).lines[0].words[2].start + 0.02)
    (edit,) = Edit.objects.all()
    assert len(json.dumps(edit.changes)) < len(json.dumps(ferry.reading)) / 4


def test_a_long_history_is_let_go_of_at_its_far_end(ferry):
    for frame in range(6):
        ferry.edit(ferry.owner, "pin", frame=3 * frame, frames=2, drawing="purse")
    assert edits.forget(ferry.scene, 4) == 2
    for _ in range(4):
        assert ferry.edit(ferry.owner, "undo").status_code == 200
    assert ferry.edit(ferry.owner, "undo").status_code == 422
    assert pinned(ferry.fresh) == [(0, 2, "purse"), (3, 2, "purse")]


json_values = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 5) | st.floats(-2, 2).map(lambda x: x + 0.0) | st.text(max_size=3),
    lambda inner: st.lists(inner, max_size=5) | st.dictionaries(st.sampled_from("abc"), inner, max_size=3),
    max_leaves=20,
)


@settings(max_examples=120, deadline=None)
@example([[0], 1], [[False], 1])
@example([[1], [0], [2]], [[False], [2], [3]])
@given(json_values, json_values)
def test_what_changed_leads_there_and_back(old, new):
    changes = diff(old, new)
    assert (changes == []) == (exactly(old) == exactly(new))
    assert exactly(apply(old, changes)) == exactly(new)
    assert exactly(apply(new, changes, back=True)) == exactly(old)


def exactly(value):
    """As it is kept, in which a number is no truth."""
    return json.dumps(value, sort_keys=True)


def test_one_of_many_that_goes_to_the_end_is_a_small_change():
    old = [{"frame": frame, "drawing": "open"} for frame in range(1000)]
    new = [*old[:10], *old[12:], {"frame": 10, "drawing": "purse"}, {"frame": 11, "drawing": "rest"}]
    changes = diff(old, new)
    assert changes == [[[], old[10:12], [], 10], [[], [], new[-2:], 998]]
    assert apply(old, changes) == new
    assert apply(new, changes, back=True) == old


def test_what_only_begins_as_if_it_had_moved_is_told_whole():
    old, new = [{"at": 1}, {"at": 2}, {"at": 3}], [{"at": 2}, {"at": 7}, {"at": 9}]
    assert apply(old, diff(old, new)) == new
    assert apply(new, diff(old, new), back=True) == old


def test_a_change_of_something_else_is_refused():
    changes = diff({"a": [1, 2]}, {"a": [1, 3]})
    with pytest.raises(LookupError):
        apply({"a": [1, 5]}, changes)
