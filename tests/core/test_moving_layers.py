"""Faces whose layers move: which picture is seen when, the same in pictures and in every file."""

import json
import re
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.acting.lanes import Lane, Where, place
from tinfork.core.acting.verbs import expose
from tinfork.core.errors import ChartError
from tinfork.core.exposure.track import Exposure
from tinfork.core.exposure.verbs import Piece, lay
from tinfork.core.formats import lottie, moving_svg
from tinfork.core.formats.rig import visible
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.cycles import Moving
from tinfork.core.mouths.draw import styled
from tinfork.core.mouths.face import Face, turns_on
from tinfork.core.mouths.heads import mouth_style
from tinfork.core.mouths.parts import MOUTH, WHOLE, Part, PicturePiece, Turn
from tinfork.core.shot.shot import Role, Shot
from tinfork.core.shot.stage import Frames, Look
from tinfork.core.speech.reading import Reading

FRAMES = 24
COLOURS = ("#ff0000", "#00ff00", "#0000ff")
STYLE = mouth_style(FaceStyle())
PLACES = {d.name: d.place for d in built_in().drawings}


def square(colour, x):
    return f'<rect x="{x}" y="-200" width="60" height="60" fill="{colour}"/>'


def face(moving, drawing=None):
    """A face with a square at the upper left that moves, on lids where it is a drawing of theirs."""
    lids = Part("lids", on="head", drawings=("open", "shut"), rest="open")
    own = "head" if drawing is None else "lids"
    squares = (
        PicturePiece(own, square(colour, -150), drawing, turn=Turn("square", moving, at))
        for at, colour in enumerate(COLOURS[: moving.pictures])
    )
    return Face.of((WHOLE[0], lids, WHOLE[1]), (*squares, PicturePiece(MOUTH, "")))


def role(moving, drawing=None, shut=()):
    lane = Lane()
    for first, frames in shut:
        own = [Piece(0, frames, "shut")]
        lane = expose(lane, Where((), FRAMES), "open", lambda track, at=first, own=own: lay(track, at, own))
    lanes = {"lids": place(lane, Where((), FRAMES))}
    rest = styled(PLACES["rest"], "m", STYLE)
    reading = Reading(1.0, 48_000, "en", ())
    shown = (Exposure(0, FRAMES, "rest"),)
    return Role("Marit", shown, built_in(), {"rest": rest}, reading, face(moving, drawing), lanes=lanes)


def seen(own):
    """The picture of the square on each frame, as films have it; None where it is not there."""
    frames = Frames(Shot("Fog", Fraction(24), 1, (own,)), Look(340, 408, "#ffffff"))
    found = []
    for frame in range(FRAMES):
        colour = tuple(int(value) for value in np.asarray(frames[frame])[70, 50, :3])
        names = {(255, 0, 0): 0, (0, 255, 0): 1, (0, 0, 255): 2}
        found.append(names.get(colour))
    return found


def in_files(own):
    """The same by when each of its pieces is told to be seen."""
    found = [None] * FRAMES
    for piece in own.face.pieces:
        for first, end in visible(own, piece) if piece.turn else ():
            assert found[first:end] == [None] * (end - first)
            found[first:end] = [piece.turn.picture] * (end - first)
    return found


def test_a_cycle_on_twos_goes_on_all_through_and_is_seen_so_in_pictures_and_files():
    own = role(Moving(3, 2))
    assert seen(own) == in_files(own) == [frame // 2 % 3 for frame in range(FRAMES)]


def test_what_is_played_once_begins_where_its_drawing_is_shown_and_holds_its_last_picture():
    own = role(Moving(3, 2, once=True), "shut", [(5, 4), (12, 9)])
    none = [None]
    assert seen(own) == in_files(own) == [*none * 5, 0, 0, 1, 1, *none * 3, 0, 0, 1, 1, 2, 2, 2, 2, 2, *none * 3]


@given(
    st.integers(2, 3),
    st.integers(1, 5),
    st.booleans(),
    st.sampled_from([None, "open", "shut"]),
    st.lists(st.tuples(st.integers(0, 18), st.integers(1, 6)), max_size=3),
)
def test_one_picture_of_what_moves_is_seen_wherever_its_drawing_is(pictures, each, once, drawing, shut):
    own = role(Moving(pictures, each, once), drawing, shut)
    lids = [one or "open" for one in own.lanes["lids"].drawings(range(FRAMES))]
    there = [drawing in (None, shown) for shown in lids]
    assert [one is not None for one in in_files(own)] == there
    turns = turns_on(own.face, {"lids": lids}, FRAMES)
    told = [int(one["square"].drawing) if "square" in one else 0 for one in turns]
    wanted = [n if is_there else None for n, is_there in zip(told, there, strict=True)]
    assert in_files(own) == wanted


def test_a_moving_svg_and_a_lottie_hold_all_pictures_each_when_it_is_seen(tmp_path):
    shot, look = Shot("Fog", Fraction(24), 1, (role(Moving(3, 2)),)), Look(340, 408, "#ffffff")
    moving_svg.write(tmp_path / "fog.svg", shot, look)
    text = (tmp_path / "fog.svg").read_text(encoding="utf-8")
    for at, colour in enumerate(COLOURS):
        (own,) = re.findall(rf'<g display="none"><rect[^>]*{colour}"/><animate [^>]*>', text)
        values = re.search(r'values="([^"]*)"', own)[1].split(";")
        times = [round(float(one) * FRAMES) for one in re.search(r'keyTimes="([^"]*)"', own)[1].split(";")]
        shown = [values[max(n for n, time in enumerate(times) if time <= frame)] == "inline" for frame in range(FRAMES)]
        assert shown == [frame // 2 % 3 == at for frame in range(FRAMES)]
    layers = json.loads(json.dumps(lottie.document(shot, look)))["layers"]
    spans = sorted((layer["ip"], layer["op"]) for layer in layers if layer["nm"] == "Marit: head")
    assert spans == [(at, at + 2) for at in range(0, FRAMES, 2)]


@pytest.mark.parametrize("how", [(25,), (200,), (3, 0), (3, 25)])
def test_too_many_pictures_are_refused_and_times_that_are_none(how):
    with pytest.raises(ChartError, match="24"):
        Moving(*how)


@pytest.mark.parametrize("how", [(24,), (3, 1), (3, 24)])
def test_as_many_as_there_may_be_are_taken(how):
    assert Moving(*how).on(0, 0) == 0
