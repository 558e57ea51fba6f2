"""Views: their names, what stands for one that is lacking, and faces that are drawn in several."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.acting.lanes import Lane, Where, place
from tinfork.core.acting.turns import through_views
from tinfork.core.acting.verbs import expose
from tinfork.core.exposure.track import Exposure
from tinfork.core.exposure.verbs import Piece, lay
from tinfork.core.formats import lottie
from tinfork.core.formats.chart_folder import read
from tinfork.core.formats.rig import chain, visible
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.face import Face, built_in_face, laid, on_face
from tinfork.core.mouths.parts import MOUTH, WHOLE, Part, PicturePiece, Pose
from tinfork.core.mouths.raster import pixels
from tinfork.core.mouths.views import ANGLES, FRONT, angle_of, in_order, nearest_view, opposite, towards, view_in
from tinfork.core.shot.shot import Role, Shot
from tinfork.core.shot.stage import Look
from tinfork.core.speech.reading import Reading
from tinfork.core.timebase import parse_rate

LEFT, RIGHT, SIDE = "three-quarter left", "three-quarter right", "side right"
some_views = st.lists(st.sampled_from([*ANGLES, "from below"]), min_size=1, unique=True)


@pytest.mark.parametrize(
    ("name", "view", "rest"),
    [
        ("happy side left", "side left", "happy"),
        ("3/4_R open", RIGHT, "open"),
        ("three quarter L/press", LEFT, "press"),
        ("Left Side", "side left", ""),
        ("profile", SIDE, ""),
        ("back", "back", ""),
        ("front open", FRONT, "open"),
        ("wide open", "", "wide open"),
        ("inside", "", "inside"),
        ("frontier", "", "frontier"),
    ],
)
def test_a_view_is_told_by_usual_words(name, view, rest):
    assert view_in(name) == (view, rest)


def test_a_name_in_the_usual_words_is_that_view_and_its_mirror_image_is_the_other():
    for view in ANGLES:
        assert view_in(view) == (view, "")
        assert (angle_of(opposite(view)) + angle_of(view)) % 360 == 0
    assert angle_of("from below") is None
    assert in_order(["from below", "back", SIDE, FRONT, LEFT]) == [FRONT, LEFT, SIDE, "back", "from below"]


@pytest.mark.parametrize(
    ("view", "known", "found"),
    [
        (SIDE, [FRONT, SIDE], (SIDE, False)),
        ("side left", [FRONT, SIDE], (SIDE, True)),
        (LEFT, [FRONT, SIDE, RIGHT], (RIGHT, True)),
        ("side left", [FRONT, LEFT, SIDE], (SIDE, True)),
        (SIDE, [FRONT, RIGHT], (RIGHT, False)),
        ("from below", [FRONT, SIDE], (FRONT, False)),
        ("back", [FRONT], (FRONT, False)),
    ],
)
def test_what_stands_for_a_view_is_its_mirror_image_or_the_nearest(view, known, found):
    assert nearest_view(view, known) == found


@given(st.sampled_from([*ANGLES, "from below"]), some_views)
def test_something_always_stands_for_a_view_and_a_face_is_never_mirrored(view, known):
    found, _ = nearest_view(view, known)
    assert found in known
    assert nearest_view(view, known, mirror=False)[1] is False
    if view in known:
        assert found == view


def test_a_drawn_head_goes_to_a_side_through_what_lies_between():
    head = Part("head", drawings=(FRONT, LEFT, RIGHT, SIDE))
    assert towards(1.0, 90, head.drawings) == [RIGHT, SIDE]
    assert [(one.at, one.frames, one.drawing) for one in through_views(head, 1.0, 30, 2, 90)] == [
        (0, 2, RIGHT),
        (2, 26, SIDE),
        (28, 2, RIGHT),
    ]
    assert [one.drawing for one in through_views(head, 1.0, 30, 2)] == [RIGHT]
    assert [one.drawing for one in through_views(head, -1.0, 30, 2, 90)] == [LEFT]
    assert through_views(head, 1.0, 5, 2, 90) == ()
    assert through_views(Part("head"), 1.0, 30, 2) == ()


def square(x, colour):
    return f'<rect x="{x}" y="-20" width="40" height="40" fill="{colour}"/>'


def drawn_face():
    pieces = (
        PicturePiece("head", square(-100, "#0000ff"), None, None, FRONT),
        PicturePiece("head", square(60, "#00ff00"), None, None, SIDE),
        PicturePiece(MOUTH, ""),
    )
    return Face.of(WHOLE, pieces, {SIDE: (0.5, 0.0, 0.0, 0.5, 50.0, 8.0)}).with_views(["from below"])


def seen(face, poses):
    mouth = '<rect x="-10" y="-10" width="20" height="20" fill="#ff0000"/>'
    return pixels(on_face(face, mouth, "#ffffff", poses), 340, 408)


def middle(picture, colour):
    rows, columns = np.nonzero((np.abs(picture.astype(int) - colour) < 40).all(axis=2))
    return (columns.mean() - 170, rows.mean() - 240, len(rows)) if len(rows) else None


def test_a_face_shows_the_pieces_of_a_view_and_its_mouth_where_it_lies_there():
    face = drawn_face()
    assert face.views == (FRONT, SIDE, "from below")
    front, side = seen(face, {}), seen(face, {"head": Pose({}, SIDE)})
    assert middle(front, (0, 0, 255))[0] == pytest.approx(-80, abs=1)
    assert middle(front, (0, 255, 0)) is None
    assert middle(side, (0, 0, 255)) is None
    assert middle(side, (0, 255, 0))[0] == pytest.approx(80, abs=1)
    (x, y, many), (fx, fy, full) = middle(side, (255, 0, 0)), middle(front, (255, 0, 0))
    assert (x - fx, y - fy) == (pytest.approx(50, abs=1), pytest.approx(8, abs=1))
    assert many == pytest.approx(full / 4, rel=0.1)
    # What has no pieces of its own is shown from the front.
    assert middle(seen(face, {"head": Pose({}, "from below")}), (0, 0, 255)) == middle(front, (0, 0, 255))


def turning_role():
    face = drawn_face()
    chart = built_in()
    lane = expose(Lane(), Where((), 24), FRONT, lambda track: lay(track, 6, [Piece(0, 10, SIDE)]))
    exposures = (Exposure(0, 12, "rest"), Exposure(12, 12, "open"))
    markup = {d.name: "<rect/>" for d in chart.drawings}
    lanes = {"head": place(lane, Where((), 24))}
    return Role("Pock", exposures, chart, markup, Reading(1.0, 48_000, "en", ()), face, lanes=lanes)


def test_views_go_out_frame_by_frame():
    role = turning_role()
    front, side, mouth = role.face.pieces
    assert visible(role, front) == [(0, 6), (16, 24)]
    assert visible(role, side) == [(6, 16)]
    assert visible(role, mouth) == [(0, 24)]
    (track,) = chain(role, mouth)
    assert track.wide.tolist() == [1.0] * 6 + [0.5] * 10 + [1.0] * 8
    assert track.x[5:7].tolist() == [0.0, 50.0]
    matrices = {piece.part: matrix for piece, matrix in laid(role.face, role.poses[8])}
    assert matrices[MOUTH] == pytest.approx((0.5, 0, 0, 0.5, 50, 8))
    document = lottie.document(Shot("Turn", parse_rate("24"), 1, (role,)), Look())
    spans = {(layer["nm"], layer["ip"], layer["op"]) for layer in document["layers"] if layer["ty"] == 2}
    assert {("Pock: head", 0, 6), ("Pock: head", 6, 16), ("Pock: head", 16, 24)} <= spans


def test_folders_and_names_of_a_chart_are_views(tmp_path):
    def svg(size):
        shape = f'<ellipse cx="45" cy="45" rx="40" ry="{size}"/>'
        return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 90 90">{shape}</svg>'.encode()

    files = {"open.svg": 30, "side left/open.svg": 31, "happy/3-4 right/open.svg": 32, "profile_shut.svg": 3}
    drawn = {name: svg(size) for name, size in files.items()} | {"front/wide.svg": svg(33), "Marit/back/x.svg": svg(20)}
    found = {(one.mood, one.name) for one in read(drawn).drawings}
    assert found == {
        ("neutral", "open"),
        ("side left", "open"),
        ("happy three-quarter right", "open"),
        ("side right", "shut"),
        ("neutral", "wide"),
        ("back", "x"),
    }


def test_mouths_are_seen_in_the_view_that_is_nearest_to_where_a_head_faces_by_its_dial():
    face = built_in_face(FaceStyle("bob")).with_views(
        ["three-quarter left", "three-quarter right", "side right", "odd"]
    )
    seen = [face.mouths_view("front", facing) for facing in (-90, -23, -22, 0, 22, 23, 67, 68)]
    left, right = "three-quarter left", "three-quarter right"
    assert seen == [left, left, "front", "front", "front", right, right, "side right"]
    assert face.mouths_view("side right", -90) == "side right"
    assert built_in_face(FaceStyle("bob")).mouths_view("front", 40) == "front"
