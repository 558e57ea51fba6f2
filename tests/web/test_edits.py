import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tinfork.core.errors import TinForkError
from tinfork.core.exposure.track import Pin
from tinfork.core.mouths.shapes import NAMES
from tinfork.web.edits import actions as edits
from tinfork.web.edits.models import Edit
from tinfork.web.reading import actions
from tinfork.web.reading.planning import placed_pins


def pinned(stave):
    return [(e.frame, e.frames, e.drawing) for e in stave.the_exposures() if e.pinned]


def test_pin_undo_redo(ferry):
    before = ferry.fresh.exposures
    answer = ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse").json()["document"]
    assert pinned(ferry.fresh) == [(10, 3, "purse")]
    assert (answer["undo"], answer["redo"]) == (True, False)
    ferry.edit(ferry.owner, "undo")
    assert ferry.fresh.exposures == before
    ferry.edit(ferry.owner, "redo")
    assert pinned(ferry.fresh) == [(10, 3, "purse")]
    ferry.edit(ferry.owner, "unpin", frame=11)
    assert ferry.fresh.exposures == before


def test_a_new_edit_after_undo_ends_redo(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    ferry.edit(ferry.owner, "undo")
    ferry.edit(ferry.owner, "pin", frame=20, frames=2, drawing="open")
    assert ferry.edit(ferry.owner, "redo").status_code == 422
    ferry.edit(ferry.owner, "undo")
    assert ferry.edit(ferry.owner, "undo").json()["problem"] == "There is nothing to undo."


def test_settings_plan_anew_around_pins(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    calm = len(ferry.fresh.exposures)
    ferry.edit(ferry.owner, "settings", hold=1, lead=0, detail=1.0)
    assert len(ferry.fresh.exposures) > calm
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
        {"verb": "fly"},
    ],
)
def test_an_edit_that_cannot_be_is_a_sentence(ferry, what):
    before = ferry.fresh
    answer = ferry.edit(ferry.owner, **what)
    assert answer.status_code == 422
    assert answer.json()["problem"].endswith(".")
    assert (ferry.fresh.version, ferry.fresh.exposures) == (before.version, before.exposures)


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
    start = ferry.fresh
    for verb, *what in run:
        stave = ferry.fresh
        try:
            if verb == "pin":
                stave = actions.pin_drawing(ferry.owner, stave, stave.version, *what)
                assert Pin(*what) in placed_pins(stave)[0]
            else:
                getattr(edits, verb)(ferry.owner, stave, stave.version)
        except TinForkError:
            assert verb in ("undo", "redo")
    while ferry.fresh.can_undo:
        edits.undo(ferry.owner, ferry.fresh, ferry.fresh.version)
    assert ferry.fresh.exposures == start.exposures
    assert ferry.fresh.pins == start.pins
