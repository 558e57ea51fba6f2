"""Where drawings lie is measured from their pictures, in the generator's style and in two that are the tests' own."""

import functools
import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests import drawings
from tinfork.core.mouths import measure, raster
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.chart import Chart, Drawing, built_in, distance
from tinfork.core.mouths.draw import mouth, mouth_svg
from tinfork.core.mouths.face import face_svg
from tinfork.core.mouths.shapes import ARTICULATORS, NAMES, SHAPES


def own(place, width=720):
    return pixels(raster.png(mouth_svg(place), width))


def pixels(png):
    return np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))


def measured(style, names=NAMES):
    return dict(zip(names, measure.measured([style(SHAPES[name].place) for name in names]), strict=True))


def read_as(places):
    """The shape each drawing is nearest to."""
    chart = built_in()
    return {name: chart.drawings[chart.nearest(place)].name for name, place in places.items()}


def errors(places):
    """Mean error of each articulator."""
    away = np.array([np.abs(np.array(place) - SHAPES[name].place) for name, place in places.items()])
    return dict(zip(ARTICULATORS, away.mean(axis=0), strict=True))


@pytest.mark.parametrize(("style", "most"), [(own, 0.08), (drawings.flat, 0.09)])
def test_every_shape_is_known_from_its_picture(style, most):
    places = measured(style)
    assert read_as(places) == {name: name for name in NAMES}
    assert max(errors(places).values()) < most
    assert errors(places)["jaw"] < 0.03


def test_lines_alone_are_read_but_for_what_they_do_not_show():
    places = measured(drawings.lines)
    wrong = {name for name, shape in read_as(places).items() if shape != name}
    # A lip under the teeth is not drawn here; two rows of teeth in a slit, and a slit with one row, look alike.
    assert wrong <= {"tuck", "teeth", "spread"}
    assert places["open"][0] == 1.0
    assert places["purse"][2] > 0.9


def test_more_open_is_measured_as_more_open_and_rounder_as_rounder():
    jaws = np.linspace(0.1, 1.0, 8)
    steps = [(float(jaw), 0.5, 0.1, 0.0, 0.0, 0.4, 0.0, 0.2) for jaw in jaws]
    for style in (own, drawings.flat, drawings.lines):
        found = measure.measured([style(SHAPES["rest"].place), *(style(step) for step in steps)])[1:]
        assert np.all(np.diff([place[0] for place in found]) > 0)
        assert np.abs(np.array([place[0] for place in found]) - jaws).max() < 0.12
    rounds = [(0.5, 0.5 - 0.4 * r, r, 0.0, 0.0, 0.0, 0.0, 0.0) for r in (0.0, 0.3, 0.6, 0.9)]
    found = measure.measured([own(SHAPES["rest"].place), *(own(place) for place in rounds)])[1:]
    assert np.all(np.diff([place[2] for place in found]) > 0)


def test_neither_size_nor_ground_matters():
    names = ("rest", "press", "half", "open", "purse", "tuck")
    plain = measured(own, names)
    small = measured(lambda place: own(place, 360), names)
    on_paper = measured(lambda place: np.asarray(_on(own(place), (244, 241, 234))), names)
    for other in (small, on_paper):
        assert read_as(other) == read_as(plain) == {name: name for name in names}
        assert max(distance(other[name], plain[name]) for name in names) < 0.4


def _on(picture, ground):
    image = Image.new("RGBA", (picture.shape[1], picture.shape[0]), (*ground, 255))
    image.alpha_composite(Image.fromarray(picture))
    return image


def test_whole_heads_are_told_by_their_mouths():
    def head(place):
        return pixels(raster.png(face_svg(FaceStyle(), place), 600))

    names = ("rest", "open", "half", "round", "purse", "spread")
    read = read_as(measured(head, names))
    assert sum(read[name] == name for name in names) >= 5
    assert (read["rest"], read["open"]) == ("rest", "open")


HEAD = (Path(__file__).parents[1] / "head.svg").read_text()
"""A head somebody drew, without its mouth."""


@functools.cache
def head(name, width=600, edge=0):
    """A whole head, with so much around it, in pixels."""
    drawn = pixels(raster.png(HEAD.replace("MOUTH", mouth(SHAPES[name].place, "m")), width))
    return np.pad(drawn, ((edge, edge), (edge, edge), (0, 0)))


@pytest.mark.parametrize("odd", ["round", "press", "open"])
def test_a_head_of_another_canvas_is_measured_as_it_is_on_that_of_the_others(odd):
    others = [head(name) for name in ("rest", "purse", "half", "spread")]
    alike = measure.measured([*others, head(odd)])
    for width, edge in ((380, 0), (760, 60)):
        mixed = measure.measured([*others, head(odd, width, edge)])
        assert max(distance(one, other) for one, other in zip(mixed, alike, strict=True)) < 0.1


def test_any_pictures_have_places():
    rng = np.random.default_rng(1)
    noise = [rng.integers(0, 256, (60, 80, 4), dtype=np.uint8) for _ in range(3)]
    dot = np.zeros((9, 9, 4), np.uint8)
    dot[4, 4] = 255
    for pictures in ([], noise, [dot], [dot, own(SHAPES["open"].place)], [np.full((30, 30, 4), 255, np.uint8)]):
        places = measure.measured(pictures)
        assert len(places) == len(pictures)
        assert all(0 <= value <= 1 for place in places for value in place)
    assert Chart((Drawing("dot", measure.measured([dot])[0]),)).nearest_shape(0) in NAMES
