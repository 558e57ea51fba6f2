"""Heads that turn: where what lies on them goes, in pictures and in every format that moves them."""

import json
import re
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.acting.lanes import Key, Lane, Where, place
from tinfork.core.exposure.track import Exposure
from tinfork.core.formats import gltf, lottie, moving_svg
from tinfork.core.formats.rig import chain
from tinfork.core.mouths import draw
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.face import built_in_face, laid, on_face
from tinfork.core.mouths.heads import FORMS, mouth_style
from tinfork.core.mouths.parts import EDGE, FACING, MOUTH, NEAR, ON, OUT, PLAIN, Pose, Relief
from tinfork.core.mouths.raster import pixels
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.mouths.turning import inverse, slid
from tinfork.core.shot.puppet import Puppet
from tinfork.core.shot.shot import Role, Shot
from tinfork.core.shot.stage import Look
from tinfork.core.speech.reading import Reading
from tinfork.core.timebase import parse_rate

TABLE = Path(__file__).parents[1] / "turning.json"
FRAMES = 24
RATE = parse_rate("24")
reliefs = st.builds(Relief, st.floats(-110, 110), st.floats(-40, 100), st.sampled_from((ON, OUT)))


def facing(degrees, **more):
    return {"head": Pose({FACING: degrees, **more})}


def x_of(matrix, x):
    return matrix[0] * x + matrix[4]


def cases():
    """Where the page is held to draw what lies on a head."""
    own = [
        Relief(x, z, way) for way, x, z in ((ON, 46, 66), (ON, -46, 66), (OUT, 0, 88), (NEAR, -112, 0), (EDGE, 84, 24))
    ]
    return [
        [[one.x, one.z, one.way], 3.0, degrees, [round(value, 4) for value in slid(one, 3.0, degrees)]]
        for one in own
        for degrees in (-90, -37, 0, 12, 60)
    ]


def test_the_table_that_the_page_is_held_to_is_what_the_core_does():
    assert json.loads(TABLE.read_text()) == json.loads(json.dumps(cases()))


@given(reliefs, st.floats(-5, 5))
def test_a_head_that_faces_the_front_leaves_all_where_it_is(relief, axis):
    assert slid(relief, axis, 0.0) == pytest.approx(PLAIN)


@given(reliefs, st.floats(-90, 90))
def test_left_is_right_in_a_mirror(relief, degrees):
    there, other = slid(relief, 0.0, degrees), slid(Relief(-relief.x, relief.z, relief.way), 0.0, -degrees)
    assert there[0] == pytest.approx(other[0])
    assert x_of(there, relief.x) == pytest.approx(-x_of(other, -relief.x), abs=1e-6)


def test_what_lies_before_the_axis_goes_where_the_head_faces_and_what_lies_behind_it_the_other_way():
    assert x_of(slid(Relief(0, 60), 0, 40), 0) == pytest.approx(60 * np.sin(np.radians(55 * np.sin(np.radians(40)))))
    assert x_of(slid(Relief(0, -30, OUT), 0, 40), 0) < -10


def test_the_far_eye_is_narrower_and_a_cheek_goes_behind():
    near, far = (slid(Relief(side * 46, 66), 0, 50)[0] for side in (-1, 1))
    assert 0.2 < far < 0.7 * near < near
    assert slid(Relief(95, 40), 0, 60)[0] == 0.0


def test_an_ear_comes_round_and_hair_follows_to_the_outline():
    left, right = (slid(Relief(side * 110, 0, NEAR), 0, 30)[0] for side in (-1, 1))
    assert (left, right) == (1.0, 0.0)
    side = slid(Relief(-84, 24, EDGE), 0, 45)
    assert x_of(side, -84 * 1.4) == pytest.approx(-84 * 1.4)
    assert x_of(side, -84) > -60


@given(st.floats(0.5, 2), st.floats(-0.4, 0.4), st.floats(-30, 30))
def test_a_matrix_and_its_inverse_do_nothing(size, lean, along):
    matrix = (size, lean, -lean, 1.3 * size, along, -along)
    a, b, c, d, e, f = inverse(matrix)
    x, y = matrix[0] * 7 + matrix[2] * 9 + matrix[4], matrix[1] * 7 + matrix[3] * 9 + matrix[5]
    assert (a * x + c * y + e, b * x + d * y + f) == pytest.approx((7, 9))


def drawn(form, poses, shape="half"):
    look = FaceStyle(form)
    mouth = draw.styled(SHAPES[shape].place, "m", mouth_style(look))
    return pixels(on_face(built_in_face(look), mouth, "#33ff99", poses), 340, 408).astype(int)


@pytest.mark.parametrize("form", FORMS)
def test_every_head_of_ours_looks_elsewhere_when_it_turns_and_is_as_it_was_when_it_is_back(form):
    front, back = drawn(form, {}), drawn(form, facing(0.0))
    assert np.abs(front - back).max() == 0
    left, right = drawn(form, facing(-60.0)), drawn(form, facing(60.0))
    assert np.abs(front - right).mean() > 3
    assert np.abs(left - right).mean() > 3


def test_heads_of_ours_are_told_apart_at_thumbnail_size():
    small = {
        form: pixels(on_face(built_in_face(FaceStyle(form)), "", "#ffffff"), 48, 58)[:, :, :3].astype(int)
        for form in FORMS
    }
    alike = [
        (one, other)
        for at, one in enumerate(FORMS)
        for other in FORMS[at + 1 :]
        if np.abs(small[one] - small[other]).mean() < 8
    ]
    assert alike == []


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("degrees", [-70.0, 35.0, 90.0])
def test_shut_lips_stay_shut_and_an_open_mouth_open_wherever_the_head_faces(form, degrees):
    def inside(shape):
        dark = np.abs(drawn(form, facing(degrees), shape)[:, :, :3] - (0x4A, 0x1F, 0x2B)).sum(axis=2)
        return int((dark < 12).sum())

    assert inside("press") == inside("rest") == 0
    assert inside("open") > 150


def role(face=None):
    face = face or built_in_face(FaceStyle("bob"))
    chart = built_in()
    exposures = (Exposure(0, 12, "rest"), Exposure(12, 12, "open"))
    keys = {FACING: (Key(0, 0.0), Key(20, 60.0)), "turn": (Key(0, 0.0), Key(20, 8.0))}
    lane = place(Lane(keys), Where((), FRAMES))
    markup = {d.name: draw.mouth(d.place, "m") for d in chart.drawings}
    return Role("Marit", exposures, chart, markup, Reading(1.0, RATE, "en", ()), face, lanes={"head": lane})


def test_pieces_are_drawn_from_cut_outs_as_they_are_drawn_whole():
    own = role()
    puppet = Puppet(own.face, own.drawn, (340, 408))
    poses = own.poses[20]
    whole = pixels(on_face(own.face, own.drawn["open"], "#ffffff", poses), 340, 408).astype(int)
    cut = np.asarray(puppet.picture("open", "", 0.0, poses)).astype(int)
    on_white = cut[:, :, :3] * cut[:, :, 3:] / 255 + 255 - cut[:, :, 3:]
    assert np.abs(whole - on_white).mean() < 2


def matrix_of(track, frame):
    angle, lean = np.radians(track.turn[frame]), np.tan(np.radians(track.lean[frame]))
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    linear = turn @ np.array([[1, -lean], [0, 1]]) @ np.diag([track.wide[frame], track.tall[frame]])
    at, pivot = np.array([track.x[frame], track.y[frame]]), np.array([track.part.x, track.part.y])
    return np.vstack([np.column_stack([linear, at - linear @ pivot]), [0, 0, 1]])


def test_the_tracks_of_a_piece_put_it_where_the_picture_has_it():
    own = role()
    for frame in (0, 9, 20):
        seen = {id(piece): matrix for piece, matrix in laid(own.face, own.poses[frame])}
        for piece in own.face.pieces:
            product = np.eye(3)
            for track in chain(own, piece):
                product = product @ matrix_of(track, frame)
            a, b, c, d, e, f = seen.get(id(piece), (0.0, 0.0, 0.0, 0.0, 0.0, 0.0))
            if id(piece) in seen:
                assert product[:2].ravel() == pytest.approx([a, c, e, b, d, f], abs=1e-3)
            elif piece.drawing is None:
                assert abs(np.linalg.det(product[:2, :2])) < 1e-6


def test_a_turn_goes_out_as_lottie_svg_and_gltf(tmp_path):
    shot = Shot("The fog", RATE, 1001, (role(),))
    document = lottie.document(shot, Look())
    nulls = {layer["ind"]: layer for layer in document["layers"] if layer["ty"] == 3}
    mouth = next(layer for layer in document["layers"] if layer["nm"] == "Marit: open")
    names = []
    parent = mouth["parent"]
    while parent in nulls:
        names.append(nulls[parent]["nm"])
        parent = nulls[parent].get("parent")
    assert names == ["Marit, mouth", "Marit, mouth, turned", "Marit, on head", "Marit"]
    moved = nulls[next(ind for ind, one in nulls.items() if one["nm"] == "Marit, mouth, turned")]["ks"]
    assert moved["p"]["k"][-1]["s"][0] > 30
    assert moved["s"]["k"][-1]["s"][0] < 80
    moving_svg.write(tmp_path / "one.svg", shot, Look())
    scales = re.findall(r'type="scale" values="([^"]+)"', (tmp_path / "one.svg").read_text())
    assert any("0 1" in values.split(";") for values in scales)
    made = gltf.document(shot)
    (turned,) = [c for c in made["animations"][0]["channels"] if c["target"]["path"] == "rotation"]
    assert made["nodes"][turned["target"]["node"]]["name"] == "Marit, head"


def test_a_quaternion_turns_a_head_of_glTF_to_the_right_of_the_picture():
    (x, y, z, w) = gltf._quaternions(np.zeros(1), np.array([np.radians(20.0)]))[0]
    before = np.array([0.0, 0.0, 1.0])
    axis = np.array([x, y, z])
    there = before + 2 * np.cross(axis, np.cross(axis, before) + w * before)
    assert there == pytest.approx([np.sin(np.radians(40)), 0.0, np.cos(np.radians(40))])


def test_the_mouth_is_a_piece_that_lies_on_the_head():
    for form in FORMS:
        (mouth,) = [piece for piece in built_in_face(FaceStyle(form)).pieces if piece.part == MOUTH]
        assert mouth.relief
        assert mouth.relief.way == ON
