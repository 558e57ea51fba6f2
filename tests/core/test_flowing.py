"""Mouths of ours where seams are eased: drawn between two places, in time, and shut where they were shut."""

import base64
import csv
import io
import itertools
import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_turning import RATE, role
from tinfork.core.exposure.track import Exposure
from tinfork.core.formats import curves_csv, gltf, lottie
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.draw import styled
from tinfork.core.mouths.heads import mouth_style
from tinfork.core.mouths.shapes import ARTICULATORS
from tinfork.core.plain import plain
from tinfork.core.shot.flowing import continuous, flowing
from tinfork.core.shot.shot import Role, Shot
from tinfork.core.shot.stage import Frames, Look
from tinfork.core.speech.reading import Reading

TABLE = Path(__file__).parents[1] / "mouths.json"
CHART = built_in()
STYLE = mouth_style(FaceStyle("bob"))


def eased(rows, ease=4, style=STYLE):
    exposures, frame = [], 0
    for drawing, frames in rows:
        exposures.append(Exposure(frame, frames, drawing))
        frame += frames
    drawn = {d.name: styled(d.place, "m", STYLE) for d in CHART.drawings} | {"": ""}
    eases = dict.fromkeys(range(frame), ease)
    reading = Reading(1.0, 48_000, "en", ())
    return Role("Marit", tuple(exposures), CHART, drawn, reading, role().face, eases, style=style)


def cases():
    """Mouths the page is held to draw: the thirteen, and what lies halfway between each and the next."""
    own = [drawing.place for drawing in CHART.drawings]
    halves = [tuple((a + b) / 2 for a, b in zip(one, other, strict=True)) for one, other in itertools.pairwise(own)]
    styles = [STYLE, mouth_style(FaceStyle("goat"))]
    return [
        [dict(zip(ARTICULATORS, place, strict=True)), plain(style), styled(place, "m", style)]
        for style in styles
        for place in [*own, *halves]
    ]


def test_the_table_that_the_page_is_held_to_is_what_the_core_draws():
    assert json.loads(TABLE.read_text()) == json.loads(json.dumps(cases()))


def test_an_eased_seam_is_drawn_between_two_places_and_nothing_lies_over_another():
    own = flowing(eased([("rest", 6), ("open", 8)]))
    names = [(e.frame, e.frames, e.drawing) for e in own.exposures]
    # A mouth at rest is shut: it is whole on its own frames, and the opening comes on those of the one after.
    assert names == [(0, 6, "rest"), (6, 1, "rest to open, 68%"), (7, 1, "rest to open, 96%"), (8, 6, "open")]
    assert not own.blends
    place = own.chart.drawings[own.chart.index("rest to open, 68%")].place
    rest, opened = (CHART.drawings[CHART.index(name)].place for name in ("rest", "open"))
    assert 0.6 < (place[0] - rest[0]) / (opened[0] - rest[0]) < 0.7
    assert own.drawn["rest to open, 68%"] == styled(place, "m", STYLE)


def test_what_is_not_ours_or_is_cut_stays_as_it_is():
    cut = eased([("rest", 6), ("open", 8)], 0)
    assert flowing(cut) is cut
    other = eased([("rest", 6), ("open", 8)], style=None)
    assert flowing(other) is other
    own = eased([("half", 6), ("open", 8)])
    bent = Role(**{**vars_of(own), "drawn": dict(own.drawn) | {"open": "<g/>"}})
    assert flowing(bent).exposures == bent.exposures
    assert flowing(bent).blends


def test_two_drawings_that_are_all_there_are_flow_as_well():
    own = eased([("half", 6), ("open", 8)])
    two = Role(**{**vars_of(own), "drawn": {name: own.drawn[name] for name in ("half", "open")}})
    assert not flowing(two).blends


def vars_of(one):
    return {name: getattr(one, name) for name in one.__dataclass_fields__}


@given(
    st.lists(st.tuples(st.sampled_from([d.name for d in CHART.drawings]), st.integers(1, 7)), min_size=1, max_size=9),
    st.integers(0, 12),
)
def test_closures_are_whole_on_all_of_their_frames_and_every_drawing_is_seen(rows, ease):
    before = eased(rows, ease)
    after = flowing(before)
    old, new = list(before.on_each_frame()), list(after.on_each_frame())
    assert len(old) == len(new)
    shut = {CHART.drawings[row].name for row in CHART.shut()}
    for was, now in zip(old, new, strict=True):
        if was.drawing in shut:
            assert now.drawing == was.drawing
        elif now.drawing != was.drawing:
            assert was.drawing in (now.drawing.split(" to ")[0], now.drawing.split(" to ")[1].split(",")[0])
    assert all(e.frames >= 1 for e in after.exposures)


def test_films_show_it_and_gltf_has_its_weights_as_before():
    shot = Shot("The fog", RATE, 1, (eased([("half", 6), ("open", 6)]),))
    frames = Frames(shot, Look(320, 240, "#ffffff"))
    seen = [np.asarray(frames[at]).astype(int) for at in range(12)]
    assert all(np.abs(seen[at] - seen[at + 1]).mean() > 0.01 for at in (3, 4, 5, 6))
    # Ghosts would leave the darkest of both; here every picture has one mouth of full ink.
    assert {len(lottie.document(shot, Look(320, 240))["assets"])} == {6}
    sampler = gltf.document(shot)["animations"][0]["samplers"][0]
    assert sampler["interpolation"] == "LINEAR"


@given(
    st.lists(st.tuples(st.sampled_from([d.name for d in CHART.drawings]), st.integers(1, 15)), min_size=1, max_size=9)
)
def test_a_curve_moves_all_through_and_is_shut_on_every_frame_of_a_closure(rows):
    own = eased(rows, 0)
    places = {d.name: d.place for d in CHART.drawings}
    shut = {CHART.drawings[row].name for row in CHART.shut()}
    curve = continuous(own)
    for frame, one in enumerate(own.on_each_frame()):
        if one.drawing in shut:
            assert curve[frame] == places[one.drawing]
    for one in own.exposures:
        # An opening is whole where the exposure is odd and in its middle, and never farther than both its ends.
        middle = (one.frame + one.end - 1) / 2
        if middle == int(middle):
            assert curve[int(middle)] == pytest.approx(places[one.drawing])
    steps = [max(abs(a - b) for a, b in zip(*pair, strict=True)) for pair in itertools.pairwise(curve)]
    cut = [places[one.drawing] for one in own.on_each_frame()]
    jumps = [max(abs(a - b) for a, b in zip(*pair, strict=True)) for pair in itertools.pairwise(cut)]
    assert max(steps, default=0) <= max(jumps, default=0) + 1e-9


def test_curves_are_read_again_as_they_are_drawn():
    shot = Shot("The fog", RATE, 101, (eased([("rest", 6), ("open", 9), ("press", 4)], 0),))
    rows = list(csv.DictReader(io.StringIO(curves_csv.text(shot))))
    assert [int(row["scene_frame"]) for row in rows] == list(range(101, 120))
    jaw = [float(row["jaw"]) for row in rows]
    places = {d.name: d.place for d in CHART.drawings}
    assert jaw[10] == pytest.approx(places["open"][0], abs=1e-4)
    assert jaw[:6] == [pytest.approx(places["rest"][0], abs=1e-4)] * 6
    assert jaw[15:] == [pytest.approx(places["press"][0], abs=1e-4)] * 4
    assert jaw[6] < jaw[7] < jaw[8] < jaw[9] + 1e-9
    assert jaw[12] >= jaw[13] >= jaw[14] > jaw[15]


def test_lips_that_meet_are_whole_in_the_weights_of_a_mesh_however_a_mouth_is_eased():
    shot = Shot("The fog", RATE, 1, (eased([("open", 6), ("press", 4), ("open", 6)], 12),))
    document = gltf.document(shot)
    data = base64.b64decode(document["buffers"][0]["uri"].split(",")[1])
    sampler = document["animations"][0]["samplers"][0]
    view = document["bufferViews"][document["accessors"][sampler["output"]]["bufferView"]]
    weights = np.frombuffer(data[view["byteOffset"] : view["byteOffset"] + view["byteLength"]], "<f4").reshape(-1, 2)
    assert weights[6:10].tolist() == [[0.0, 1.0]] * 4
    assert (weights[[4, 5, 10, 11], 1] > 0).all()
    assert (weights[[4, 5, 10, 11], 1] < 1).all()
