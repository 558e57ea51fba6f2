"""Drawings that would jump on the face are found, and only those; their cure cures them."""

import functools
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from tests import drawings
from tinfork.core.mouths import drift
from tinfork.core.mouths.draw import BOX, STYLES, alone, styled
from tinfork.core.mouths.measure import measured
from tinfork.core.mouths.picture import open_picture
from tinfork.core.mouths.register import Registration, registered
from tinfork.core.mouths.shapes import NAMES, SHAPES

PLACES = [SHAPES[name].place for name in NAMES]


@functools.cache
def drawn(style):
    return [open_picture("m.svg", alone(styled(place, "m", STYLES[style])).encode()).pixels for place in PLACES]


def ours(style):
    """Our thirteen in a style, as pictures, with where they lie."""
    pictures = list(drawn(style))
    scale = BOX[2] / pictures[0].shape[1]
    return pictures, [Registration(-BOX[0] / scale, -BOX[1] / scale, scale)] * len(pictures)


def found(pictures, lie, places=PLACES):
    return drift.findings(outlines(pictures, lie), places, lie)


def outlines(pictures, lie):
    return [drift.outline(picture, at.scale) for picture, at in zip(pictures, lie, strict=True)]


@pytest.mark.parametrize("style", STYLES)
def test_nothing_of_ours_is_said_to_jump(style):
    assert found(*ours(style)) == []


@pytest.mark.parametrize("style", [drawings.flat, drawings.lines])
def test_nothing_of_other_styles_is_said_to_jump(style):
    pictures = [style(place) for place in PLACES]
    places = measured(pictures)
    assert [one.kind for one in found(pictures, registered(pictures, places), places)] == []


def test_a_drawing_that_lies_elsewhere_is_found_and_cured():
    pictures, straight = ours("plank")
    known = outlines(pictures, straight)
    for row, place in enumerate(PLACES):
        lie = list(straight)
        lie[row] = replace(lie[row], x=lie[row].x - 6 / lie[row].scale, y=lie[row].y + 4 / lie[row].scale)
        (one,) = drift.findings(known, PLACES, lie)
        assert (one.row, one.kind) == (row, "place")
        shut = place[0] < 0.12  # such lie higher or lower in every style
        assert (one.across, one.down) == (pytest.approx(6, abs=1.5), 0 if shut else pytest.approx(-4, abs=1.5))
        lie[row] = one.cure
        assert drift.findings(known, PLACES, lie) == []


def test_a_drawing_of_another_size_is_found_and_cured():
    pictures, lie = ours("plank")
    lie[5] = replace(lie[5], scale=lie[5].scale * 1.6)
    (one,) = found(pictures, lie)
    assert (one.row, one.kind, one.times) == (5, "size", pytest.approx(1.6, rel=0.12))
    lie[5] = one.cure
    assert [f.kind for f in found(pictures, lie) if f.row == 5 and f.kind == "size"] == []


@pytest.mark.parametrize("times", [0.5, 1.7])
def test_heavier_and_lighter_lines_are_found_and_cured(times):
    pictures, lie = ours("rope")
    row = NAMES.index("half")
    changed = STYLES["rope"]
    pictures[row] = open_picture(
        "m.svg", alone(styled(PLACES[row], "m", replace(changed, line=changed.line * times))).encode()
    ).pixels
    (one,) = found(pictures, lie)
    assert (one.row, one.kind, one.times) == (row, "line", pytest.approx(times, rel=0.25))
    known = outlines(pictures, lie)
    usual, scale = drift.usual_line(known, PLACES, lie), lie[row].scale
    pictures[row] = drift.reweighted(pictures[row], known[row].line, usual / scale - known[row].line)
    assert found(pictures, lie) == []
    assert drift.outline(pictures[row], scale).weight(lie[row]) == pytest.approx(usual, rel=0.15)


def test_line_weight_is_that_of_the_pen():
    image = np.zeros((400, 400, 4), np.uint8)
    image[100:112, 50:350] = (20, 20, 20, 255)
    assert drift.outline(image, 0.5).line == pytest.approx(12, abs=1.2)
    large = np.asarray(Image.fromarray(image).resize((1600, 1600)))
    assert drift.outline(large, 0.125).line == pytest.approx(48, abs=5)
    assert drift.outline(np.full((60, 60, 4), 220, np.uint8), 1.0).line is None
