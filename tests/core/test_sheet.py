"""A sheet becomes its drawings, by a grid or at the gaps, in the order one reads it."""

import numpy as np
import pytest

from tests import drawings
from tinfork.core.errors import ChartError
from tinfork.core.mouths import measure, sheet
from tinfork.core.mouths.chart import shape_at
from tinfork.core.mouths.picture import Picture
from tinfork.core.mouths.shapes import SHAPES

NAMES = ("rest", "press", "open", "half", "purse", "round", "spread")


@pytest.fixture(scope="module")
def drawn():
    """Seven mouths in a grid of four by two, the last cell empty."""
    cells = [drawings.flat(SHAPES[name].place) for name in NAMES] + [np.zeros((260, 300, 4), np.uint8)]
    return Picture("gulls", np.vstack([np.hstack(cells[:4]), np.hstack(cells[4:])]))


def shapes(pictures):
    return [shape_at(place) for place in measure.measured([one.pixels for one in pictures])]


@pytest.mark.parametrize("cut", [lambda one: sheet.by_grid(one, 4, 2), sheet.by_gaps])
def test_a_sheet_is_cut_in_the_order_one_reads_it(drawn, cut):
    found = cut(drawn)
    assert [one.name for one in found] == [f"gulls {n}" for n in range(1, 8)]
    assert shapes(found) == list(NAMES)


def test_cells_of_a_grid_are_of_one_size_and_cuts_at_gaps_are_close(drawn):
    assert {one.pixels.shape for one in sheet.by_grid(drawn, 4, 2)} == {(260, 300, 4)}
    close = sheet.by_gaps(drawn)[4].pixels
    assert close[0, :, 3].any()
    assert close[:, 0, 3].any()
    assert close.shape[0] < 60


def test_a_sheet_on_paper_is_cut_as_well(drawn):
    paper = np.full((*drawn.pixels.shape[:2], 4), 255, np.uint8)
    alpha = drawn.pixels[:, :, 3:] / 255
    paper[:, :, :3] = (drawn.pixels[:, :, :3] * alpha + 255 * (1 - alpha)).astype(np.uint8)
    assert len(sheet.by_gaps(Picture("gulls", paper))) == 7
    assert len(sheet.by_grid(Picture("gulls", paper), 4, 2)) == 7


@pytest.mark.parametrize(("columns", "rows"), [(0, 1), (1, 0), (11, 11), (-1, -1), (1, 1000)])
def test_a_grid_nobody_means_is_refused(drawn, columns, rows):
    with pytest.raises(ChartError, match="across and down"):
        sheet.by_grid(drawn, columns, rows)


def test_an_empty_sheet_and_one_of_dust_are_refused(drawn):
    with pytest.raises(ChartError, match="Nothing can be seen"):
        sheet.by_gaps(Picture("fog", np.zeros((50, 50, 4), np.uint8)))
    dust = np.zeros((600, 600, 4), np.uint8)
    for y in range(10, 600, 40):
        dust[y : y + 20, 10::40] = dust[y : y + 20, 10::40] | 255
        for x in range(10, 590, 40):
            dust[y : y + 20, x : x + 20] = 255
    with pytest.raises(ChartError, match="cut it by a grid"):
        sheet.by_gaps(Picture("dust", dust))
