import io

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.draw import BOX, mouth_svg
from tinfork.core.mouths.face import FORMS, Look, face_svg
from tinfork.core.mouths.raster import png
from tinfork.core.mouths.shapes import NAMES, SHAPES, shapes_of

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
    picture = pixels(face_svg(Look(form), SHAPES["open"].place), 300)
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
