"""Drawings between two others: which, where, and that no drawing comes later or is gone for them."""

import itertools
import json
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.exposure.betweens import drawing_between, with_betweens
from tinfork.core.exposure.track import Exposure
from tinfork.core.mouths.chart import Drawing, built_in
from tinfork.core.mouths.shapes import ARTICULATORS

TABLE = Path(__file__).parents[1] / "betweens.json"
CHART = built_in()
PLACES = {drawing.name: drawing.place for drawing in CHART.drawings}


def between(one, other):
    return drawing_between(PLACES[one], PLACES[other], CHART.drawings)


def track(*rows):
    found, frame = [], 0
    for drawing, frames in rows:
        found.append(Exposure(frame, frames, drawing))
        frame += frames
    return found


def shown(exposures, over=1):
    return [(e.frame, e.frames, e.drawing) for e in with_betweens(exposures, lambda seam: over, between)]


def cases():
    """What the page is held to: the thirteen, and what lies between each two of them."""
    drawings = [
        {"name": name, "mood": "neutral", **dict(zip(ARTICULATORS, place, strict=True))}
        for name, place in PLACES.items()
    ]
    return {"drawings": drawings, "between": [[a, b, between(a, b)] for a in PLACES for b in PLACES if a != b]}


def test_the_table_that_the_page_is_held_to_is_what_the_core_does():
    assert json.loads(TABLE.read_text()) == json.loads(json.dumps(cases()))


@pytest.mark.parametrize(
    ("one", "other", "found"),
    [
        ("rest", "open", "half"),
        ("press", "open", "ajar"),
        ("open", "press", "ajar"),
        ("open", "purse", "round"),
        ("half", "open", None),
        ("rest", "press", None),
        ("press", "ajar", None),
        ("round", "open", None),
    ],
)
def test_between_two_lies_what_an_animator_would_draw_there_and_nothing_where_they_are_near(one, other, found):
    assert between(one, other) == found


def test_what_lies_nowhere_between_is_not_taken():
    few = [Drawing("rest", PLACES["rest"]), Drawing("purse", PLACES["purse"]), Drawing("open", PLACES["open"])]
    assert drawing_between(PLACES["rest"], PLACES["open"], few) is None
    assert drawing_between(PLACES["rest"], PLACES["open"], []) is None
    lazy = replace(few[0], name="nearly shut", place=(0.03, *PLACES["half"][1:]))
    assert drawing_between(PLACES["rest"], PLACES["open"], [lazy]) is None


def test_it_takes_the_end_of_the_one_before_which_keeps_two_frames():
    assert shown(track(("rest", 6), ("open", 4), ("press", 2), ("open", 3))) == [
        (0, 5, "rest"),
        (5, 1, "half"),
        (6, 3, "open"),
        (9, 1, "ajar"),
        (10, 2, "press"),
        (12, 3, "open"),
    ]
    assert shown(track(("rest", 3), ("open", 4)), 2) == [(0, 2, "rest"), (2, 1, "half"), (3, 4, "open")]
    assert shown(track(("rest", 9), ("open", 4)), 2) == [(0, 7, "rest"), (7, 2, "half"), (9, 4, "open")]
    assert shown(track(("rest", 9), ("open", 4)), 0) == [(0, 9, "rest"), (9, 4, "open")]


def test_what_a_person_chose_is_never_cut():
    own = track(("rest", 6), ("open", 6), ("press", 6))
    own[0] = replace(own[0], pinned=True)
    assert shown(own)[:2] == [(0, 6, "rest"), (6, 5, "open")]


@given(
    st.lists(st.tuples(st.sampled_from([*PLACES, ""]), st.integers(1, 9)), min_size=1, max_size=14),
    st.integers(0, 4),
)
def test_every_drawing_is_still_seen_from_its_frame_on_and_closures_stay(rows, over):
    own = track(*rows)

    def of(one, other):
        return between(one, other) if one and other else None

    found = with_betweens(own, lambda seam: over, of)
    assert sum(e.frames for e in found) == sum(e.frames for e in own)
    assert all(b.frame == a.end for a, b in itertools.pairwise(found))
    kept = {e.frame: e for e in found}
    for e in own:
        there = kept[e.frame]
        assert there.drawing == e.drawing
        assert there.frames >= min(e.frames, 2)
    if not over:
        assert found == tuple(own)
