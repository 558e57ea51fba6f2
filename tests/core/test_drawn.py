"""What we draw ourselves: no ground shows through a face, no skin in a mouth, and nothing of it would jump."""

import functools
from dataclasses import replace

import numpy as np
import pytest
from scipy import ndimage

from tinfork.core.mouths import draw, drift
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.draw import BOX, STYLES
from tinfork.core.mouths.face import VIEW, built_in_face, on_face
from tinfork.core.mouths.heads import FORMS
from tinfork.core.mouths.parts import Pose
from tinfork.core.mouths.picture import open_picture
from tinfork.core.mouths.register import Registration
from tinfork.core.mouths.shapes import SHAPES

GROUND = "#33ff99"
SPECK = 4
"""In pixels of 667 across: so little shines through where two outlines cross."""
OPEN = [name for name, shape in SHAPES.items() if shape.place[0] >= 0.38]
MOODS = (-0.9, 0.0, 0.9)


@functools.cache
def pixels_of(svg):
    return open_picture("one.svg", svg.encode()).pixels


@functools.cache
def styled(name, corners=0.0, turned=0.0):
    style = replace(STYLES[name], corners=corners, turned=turned)
    return {shape: pixels_of(draw.alone(draw.styled(own.place, "m", style))) for shape, own in SHAPES.items()}


@pytest.mark.parametrize(("corners", "turned"), [*((corners, 0.0) for corners in MOODS), (0.9, 1.0)])
@pytest.mark.parametrize("name", STYLES)
def test_nothing_we_draw_would_jump(name, corners, turned):
    drawn = styled(name, corners, turned)
    scale = BOX[2] / drawn["rest"].shape[1]
    lie = [Registration(-BOX[0] / scale, -BOX[1] / scale, scale)] * len(drawn)
    outlines = [drift.outline(pixels, scale) for pixels in drawn.values()]
    found = drift.findings(outlines, [shape.place for shape in SHAPES.values()], lie)
    assert [(list(drawn)[one.row], one.kind) for one in found] == []


@pytest.mark.parametrize("corners", MOODS)
@pytest.mark.parametrize("name", STYLES)
def test_an_open_mouth_has_no_hole(name, corners):
    for shape in OPEN:
        solid = styled(name, corners)[shape][:, :, 3] > 128
        assert (ndimage.binary_fill_holes(solid) == solid).all(), shape


@pytest.mark.parametrize("name", ["plank", "paper"])
def test_pressed_lips_are_of_the_red_of_their_neighbours(name):
    red = np.array([int(STYLES[name].palette.lip[i : i + 2], 16) for i in (1, 3, 5)])
    drawn = styled(name)

    def share(shape):
        own = drawn[shape]
        seen = own[:, :, 3] > 200
        return (np.abs(own[:, :, :3].astype(int) - red).max(axis=2)[seen] < 24).mean()

    assert share("press") > 0.3 * share("rest")
    assert share("press") > 0.18


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize(
    "poses",
    [
        {},
        {"head": Pose({"turn": 10.0, "y": -10.0})},
        {"head": Pose({"turn": -10.0, "y": 10.0})},
        {"head": Pose({"facing": 60.0})},
        {"head": Pose({"facing": -90.0})},
    ],
)
def test_no_ground_shows_through_a_face_and_a_nod_stays_inside_the_picture(form, poses):
    face = built_in_face(FaceStyle(form=form))
    drawn = pixels_of(on_face(face, draw.mouth(SHAPES["half"].place, "m"), GROUND, poses))
    ground = np.abs(drawn[:, :, :3].astype(int) - np.array([0x33, 0xFF, 0x99])).max(axis=2) < 8
    labels, count = ndimage.label(ground)
    outside = set(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]).tolist()) - {0}
    sizes = ndimage.sum_labels(ground, labels, range(1, count + 1))
    assert [int(size) for n, size in enumerate(sizes, 1) if n not in outside and size > SPECK] == []
    assert ground[[0, -1]].all()
    assert ground[:, [0, -1]].all()


def test_raised_brows_are_told_from_the_cap():
    face = built_in_face(FaceStyle())
    poses = {side: Pose({"y": -12.0}) for side in ("left brow", "right brow")}
    raised = pixels_of(on_face(face, "", GROUND, poses))
    without = replace(face, pieces=tuple(p for p in face.pieces if "brow" not in p.part))
    bare = pixels_of(on_face(without, "", GROUND, poses))
    changed = np.abs(raised[:, :, :3].astype(int) - bare[:, :, :3]).max(axis=2) > 60
    cap = slice(0, round((-84 - VIEW[1]) * raised.shape[0] / VIEW[3]))
    assert changed[cap].sum() > 150
