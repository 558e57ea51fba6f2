import io

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.draw import BOX, mouth_svg
from tinfork.core.mouths.face import face_svg
from tinfork.core.mouths.heads import FORMS
from tinfork.core.mouths.raster import png
from tinfork.core.mouths.shapes import NAMES, SHAPES, shapes_of, visibility

INSIDE = (0x4A, 0x1F, 0x2B)


def pixels(svg, width=BOX[2]):
    return np.asarray(Image.open(io.BytesIO(png(svg, width))).convert("RGBA"))


def dark(picture):
    return (np.abs(picture[:, :, :3].astype(int) - INSIDE).sum(axis=2) < 12).sum()


@settings(max_examples=60, deadline=None)
@given(st.tuples(*[st.floats(0, 1)] * 8))
def test_any_mouth_is_drawn_within_its_box(place):
    picture = pixels(mouth_svg(place))
    assert picture.shape == (BOX[3], BOX[2], 4)
    alpha = picture[:, :, 3]
    assert alpha.any()
    edge = np.concatenate([alpha[0], alpha[-1], alpha[:, 0], alpha[:, -1]])
    assert not edge.any()


def test_thirteen_mouths_all_different():
    pictures = [pixels(mouth_svg(shape.place)).tobytes() for shape in SHAPES.values()]
    assert len(NAMES) == len(set(pictures)) == 13


def test_shut_mouths_show_no_inside_and_open_ones_do():
    inside = {name: dark(pixels(mouth_svg(shape.place))) for name, shape in SHAPES.items()}
    assert inside["rest"] == inside["press"] == 0
    assert inside["open"] > inside["half"] > inside["ajar"] > 0


def test_all_mouths_sit_on_the_anchor():
    for name, shape in SHAPES.items():
        columns = np.flatnonzero(pixels(mouth_svg(shape.place), 720)[:, :, 3].any(axis=0))
        assert (columns[0] + columns[-1]) / 2 == pytest.approx(360, abs=2), name


@pytest.mark.parametrize("form", FORMS)
def test_every_face_is_drawn(form):
    picture = pixels(face_svg(FaceStyle(form), SHAPES["open"].place), 300)
    assert dark(picture) > 500
    assert picture[0, 0, 3] == 0


@pytest.mark.parametrize(
    ("ipa", "shapes"),
    [
        ("m", ("press",)),
        ("v", ("tuck",)),
        ("aɪ", ("open", "spread")),
        ("oʊ", ("round", "purse")),
        ("tʃ", ("push",)),
        ("ɲ", ("teeth",)),
        ("uː", ("purse",)),
        ("ɓ", ("press",)),
    ],
)
def test_sounds_aim_at_shapes(ipa, shapes):
    assert shapes_of(ipa) == shapes


def test_a_chart_serves_every_shape_with_its_own_drawing():
    chart = built_in()
    for row, name in enumerate(NAMES):
        assert chart.nearest(SHAPES[name].place) == row
        assert chart.nearest_shape(row) == name


def opening(place):
    """(top, bottom) of what is seen of a mouth, in the drawing's own units; the teeth's lower edge."""
    rows = np.flatnonzero(pixels(mouth_svg(place))[:, :, 3].any(axis=1))
    return rows[0] + BOX[1], rows[-1] + 1 + BOX[1]


def test_the_jaw_drops_and_the_upper_lip_stays():
    shut, wide = opening(SHAPES["rest"].place), opening(SHAPES["open"].place)
    assert wide[0] > shut[0] - 8
    assert wide[1] > shut[1] + 45


def test_the_upper_teeth_stay_where_the_skull_has_them():
    def edge(jaw):
        picture = pixels(mouth_svg((jaw, 0.6, 0.0, 0.0, 0.0, 0.8, 0.0, 0.0)), 720)
        column = (np.abs(picture[:, 360, :3].astype(int) - (0xFB, 0xF8, 0xF0)).sum(axis=1) < 12).nonzero()[0]
        return column[-1] / 4 + BOX[1]

    assert edge(1.0) == pytest.approx(edge(0.5), abs=1)


def test_rest_and_press_are_told_apart_at_a_glance():
    lip = (0xB8, 0x70, 0x5A)

    def lips(name):
        picture = pixels(mouth_svg(SHAPES[name].place))
        return (np.abs(picture[:, :, :3].astype(int) - lip).sum(axis=2) < 12).sum()

    def ink(name):
        picture = pixels(mouth_svg(SHAPES[name].place))
        return ((picture[:, :, :3].sum(axis=2) < 160) & (picture[:, :, 3] > 200)).sum()

    def height(name):
        red = np.abs(pixels(mouth_svg(SHAPES[name].place))[:, :, :3].astype(int) - lip).sum(axis=2) < 12
        return np.ptp(np.flatnonzero(red.any(axis=1)))

    assert 0.1 < lips("press") / lips("rest") < 0.7
    assert height("press") < 0.8 * height("rest")
    assert ink("press") > 1.25 * ink("rest")


def test_a_vowel_is_reached_in_drawings_as_open_as_round_and_as_wide():
    chart = built_in()

    def names(shape):
        return {NAMES[row] for row in chart.openers(shape)}

    assert names("open") == {"open"}
    assert names("half") == {"half", "open"}
    assert names("spread") == {"spread"}
    assert names("round") == {"round"}
    assert names("purse") == {"purse"}
    assert names("ajar") == {"ajar", "tip", "lift", "half"}
    assert {NAMES[row] for row in chart.shut()} == {"rest", "press", "tuck"}


def test_a_hiss_is_seen_more_than_a_tap_and_a_w_more_than_an_r():
    assert visibility("s", "teeth") > visibility("t", "teeth")
    assert visibility("w", "purse") > visibility("ɹ", "purse")
