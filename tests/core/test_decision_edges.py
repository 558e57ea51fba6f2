"""What people decide of exposures, at the limits of each rule: on its frame, and a frame beside it."""

import pytest

from tests.core.test_verbs import text, track
from tinfork.core.errors import TrackError
from tinfork.core.exposure import pins, verbs
from tinfork.core.exposure.easing import check_ease
from tinfork.core.exposure.track import Exposure, Pin
from tinfork.core.exposure.verbs import Border, Piece

FRAMES = 40


def decided(before, after):
    return [(pin.frame, pin.frames) for pin in verbs.decided(before, after)]


@pytest.mark.parametrize(("long", "later", "earlier"), [(12, [(0, 14)], [(0, 10)]), (13, [(13, 2)], [(9, 2)])])
def test_of_more_than_twelve_frames_only_two_beside_a_moved_seam_are_decided(long, later, earlier):
    """A pause of so many frames, whose end is moved by two."""
    before = (Exposure(0, long, "rest"), Exposure(long, 20, "open"))
    for by, wanted in ((2, later), (-2, earlier)):
        after = (Exposure(0, long + by, "rest", pinned=True), Exposure(long + by, 20 - by, "open"))
        assert decided(before, after) == wanted


def test_nothing_is_seen_before_a_track_or_behind_it():
    own = track("oooo---")
    assert [verbs.place_on(own, frame) for frame in (0, 3, 4, 6)] == [0, 0, 1, 1]
    for frame in (-1, 7):
        with pytest.raises(TrackError, match="No exposure is seen"):
            verbs.place_on(own, frame)


def test_of_what_begins_or_ends_with_what_lies_on_it_nothing_is_left():
    own = track("ooooss", pinned="os")
    assert [(e.frame, e.frames) for e in verbs.covered(own, (Exposure(0, 4, "press"),))] == [(0, 4), (4, 2)]
    assert [(e.frame, e.frames) for e in verbs.covered(own, (Exposure(4, 2, "press"),))] == [(0, 4), (4, 2)]
    for at, frames in ((0, 4), (4, 2)):
        laid = verbs.lay(own, at, [Piece(0, frames, "press")])
        assert [(e.frame, e.frames) for e in laid] == [(0, 4), (4, 2)]


def test_what_lies_on_a_track_covers_what_begins_and_ends_with_it():
    own = track("--oooo--ss")
    assert text(verbs.covered(own, track("pppp")[:1])) == "ppppoo--ss"
    assert text(verbs.covered(own, (Exposure(2, 4, "press"),))) == "--pppp--ss"
    assert text(verbs.covered(own, (Exposure(6, 4, "press"),))) == "--oooopppp"


@pytest.mark.parametrize(("hold", "seen"), [(2, "--ooppp----"), (3, "----ppp----")])
def test_a_bit_of_less_than_a_hold_is_left_to_what_is_beside(hold, seen):
    assert text(verbs.covered(track("--oooo-----"), (Exposure(4, 3, "press"),), hold=hold)) == seen


def test_a_bit_that_was_no_longer_before_stays():
    assert text(verbs.covered(track("--o--ss"), (Exposure(3, 2, "press"),), hold=3)) == "--oppss"


def test_a_range_is_repeated_once_at_least():
    assert len(verbs.repeated([Piece(0, 2, "open")], 1)) == 1
    with pytest.raises(TrackError, match="once at least"):
        verbs.repeated([Piece(0, 2, "open")], 0)


def test_a_seam_that_is_moved_nowhere_stays():
    own = track("--oooo--")
    assert text(verbs.seam(own, 2, 2)) == text(own)


@pytest.mark.parametrize("border", list(Border))
def test_what_slides_nowhere_stays_and_a_frame_is_a_frame(border):
    own = track("----oooo----")
    assert verbs.slide(own, [4], 0, border) == own
    assert text(verbs.slide(own, [4], 1, border)) == "-----oooo---"
    assert text(verbs.slide(own, [4], -1, border)) == "---oooo-----"


def test_two_blocks_slide_apart_from_each_other():
    own = track("--oo--ss------")
    assert text(verbs.slide(own, [2, 6], 2, Border.OVERWRITE)) == "----oo--ss----"
    assert text(verbs.slide(own, [2, 6], -1, Border.OVERWRITE)) == "-oo--ss-------"


@pytest.mark.parametrize(("by", "seen"), [(1, "---oo-ss----"), (-1, "-oo-ss------")])
def test_what_stands_for_a_frame_between_two_blocks_slides_with_them(by, seen):
    """The one that goes ahead makes room for the other."""
    assert text(verbs.slide(track("--oo-ss-----"), [2, 5], by, Border.OVERWRITE)) == seen


@pytest.mark.parametrize(("meet", "seen"), [(2, "oossss"), (3, "ooosss"), (4, "ooooss")])
def test_what_is_taken_away_leaves_its_frames_to_both_sides(meet, seen):
    assert text(verbs.remove(track("oo--ss"), [2], {2: meet})) == seen


def test_what_is_laid_leaves_the_rest_of_what_it_lies_on():
    own = track("oooooo")
    assert text(verbs.lay(own, 0, [Piece(0, 2, "press")])) == "ppoooo"
    assert text(verbs.lay(own, 4, [Piece(0, 2, "press")])) == "oooopp"
    assert text(verbs.lay(own, 2, [Piece(0, 2, "press")])) == "ooppoo"


@pytest.mark.parametrize(("hold", "stays"), [(2, True), (3, False)])
def test_what_is_left_of_a_decision_in_less_than_a_hold_is_none(hold, stays):
    own = track("oooooo", pinned="o")
    left = verbs.lay(own, 2, [Piece(0, 4, "press")], hold)[0]
    assert (left.frames, left.pinned) == (2, stays)
    short = verbs.lay(track("oo----", pinned="o"), 2, [Piece(0, 4, "press")], 3)[0]
    assert short.pinned


def kept(own, gone, hold=1):
    left = pins.less_pins(pins.anchor_pins(own, ()), gone, (), FRAMES, hold)
    return [(pin.frame, pin.frames) for pin in left]


def test_a_pin_gives_way_exactly_where_something_lies_on_it():
    own = [Pin(10, 6, "open")]
    assert kept(own, [range(4, 10)]) == [(10, 6)]
    assert kept(own, [range(16, 20)]) == [(10, 6)]
    assert kept(own, [range(4, 11)]) == [(11, 5)]
    assert kept(own, [range(15, 20)]) == [(10, 5)]
    assert kept(own, [range(10, 16)]) == []
    assert kept(own, [range(12, 14)]) == [(10, 2), (14, 2)]
    assert kept([Pin(FRAMES, 2, "open")], [range(FRAMES, FRAMES + 9)]) == [(FRAMES, 2)]  # behind the scene's end
    assert kept(own, [range(10, 12), range(14, 16)]) == [(12, 2)]


@pytest.mark.parametrize(("hold", "left"), [(2, [(10, 2)]), (3, [])])
def test_less_than_a_hold_of_a_pin_is_nobodys_decision(hold, left):
    assert kept([Pin(10, 6, "open")], [range(12, 16)], hold) == left
    assert kept([Pin(10, 2, "open")], [range(20, 24)], hold) == [(10, 2)]


def test_pins_on_the_first_and_the_last_frame_give_way_too():
    assert kept([Pin(0, 2, "open"), Pin(FRAMES - 1, 1, "open")], [range(1), range(FRAMES - 1, FRAMES)]) == [(1, 1)]


def test_a_pin_is_taken_away_by_any_frame_it_is_seen_on():
    own = pins.anchor_pins([Pin(0, 2, "open"), Pin(FRAMES - 2, 2, "half")], ())
    for frame in (0, 1):
        assert [pin.drawing for pin in pins.unset_pins(own, [frame], (), FRAMES)] == ["half"]
    for frame in (FRAMES - 2, FRAMES - 1):
        assert [pin.drawing for pin in pins.unset_pins(own, [frame], (), FRAMES)] == ["open"]
    for frames, why in (
        ([FRAMES], "no pin on this frame"),
        ([-1], "no pin on this frame"),
        ([5, 6], "Nothing is pinned"),
    ):
        with pytest.raises(TrackError, match=why):
            pins.unset_pins(own, frames, (), FRAMES)


@pytest.mark.parametrize(("frames", "can"), [(-1, False), (0, True), (12, True), (13, False)])
def test_a_seam_is_eased_over_up_to_twelve_frames(frames, can):
    if can:
        check_ease(frames)
    else:
        with pytest.raises(TrackError):
            check_ease(frames)
