"""Limits of small rules, just on either side: marks of who speaks, habits, frame rates."""

from fractions import Fraction

import pytest

from tinfork.core.errors import RateError, ScriptError
from tinfork.core.exposure.curves import Target
from tinfork.core.exposure.habits import Changed, Habit, changed, habits, is_correction, sound_of
from tinfork.core.exposure.track import Exposure, Pin
from tinfork.core.script import marks
from tinfork.core.script.marks import Mark, Marks
from tinfork.core.timebase import frame_after, frame_at, parse_rate

FPS = Fraction(24)


def test_a_key_is_pressed_a_fifth_of_a_second_after_what_is_meant():
    assert marks.from_pass([(1.2, 2.2)], []) == [(pytest.approx(1.0), pytest.approx(2.0))]
    assert marks.from_pass([(0.1, 2.2)], []) == [(0.0, pytest.approx(2.0))]


@pytest.mark.parametrize(("away", "snaps"), [(0.29, True), (0.31, False)])
def test_an_edge_goes_to_one_of_speech_up_to_three_tenths_of_a_second_away(away, snaps):
    (span,) = marks.from_pass([(1.0 + away, 3.0)], [(1.0, 2.8)], reaction=0.0)
    assert span[0] == pytest.approx(1.0 if snaps else 1.0 + away)


def test_an_edge_goes_to_one_of_speech_exactly_so_far_away_and_a_stretch_may_be_exactly_so_long():
    assert marks.from_pass([(0.0, 3.0)], [(0.3, 3.0)], reaction=0.0) == [(0.3, 3.0)]
    assert marks.from_pass([(0.0, 0.08)], [], reaction=0.0) == [(0.0, 0.08)]
    assert marks.change(Marks((Mark(1, 5, 1.0, 2.0),), 2), 1, 0.0, 0.08).marks[0].end == 0.08


@pytest.mark.parametrize(("seconds", "counts"), [(0.081, True), (0.079, False)])
def test_a_stretch_has_eight_hundredths_of_a_second_or_is_none(seconds, counts):
    assert bool(marks.from_pass([(1.0, 1.0 + seconds)], [], reaction=0.0)) == counts
    kept = Marks((Mark(1, 5, 1.0, 2.0),), 2)
    if counts:
        assert marks.change(kept, 1, 1.0, 1.0 + seconds).marks[0].end == pytest.approx(1.0 + seconds)
    else:
        with pytest.raises(ScriptError, match="needs a length"):
            marks.change(kept, 1, 1.0, 1.0 + seconds)


def test_a_mark_begins_with_the_scene_at_the_earliest():
    kept = Marks((Mark(1, 5, 1.0, 2.0),), 2)
    assert marks.change(kept, 1, 0.0, 1.0).marks[0].start == 0.0
    with pytest.raises(ScriptError):
        marks.change(kept, 1, -0.001, 1.0)


def test_stretches_that_touch_are_one_and_a_pass_replaces_what_it_overlaps():
    assert marks.from_pass([(1.0, 2.0), (2.0, 3.0)], [], reaction=0.0) == [(1.0, 3.0)]
    own = Marks((Mark(1, 5, 0.0, 1.0), Mark(2, 5, 1.5, 2.5), Mark(3, 5, 3.0, 4.0), Mark(4, 6, 1.0, 3.0)), 5)
    left = marks.add_pass(own, 5, [(1.2, 2.0)], (1.0, 3.0))
    assert [mark.id for mark in left.marks] == [1, 4, 5, 3]


def test_two_who_are_marked_at_once_overlap_and_those_that_touch_do_not():
    assert marks.overlaps(Marks((Mark(1, 5, 0.0, 1.0), Mark(2, 6, 1.0, 2.0)), 3)) == []
    assert marks.overlaps(Marks((Mark(1, 5, 0.0, 1.0), Mark(2, 6, 0.9, 2.0)), 3)) == [(0.9, 1.0)]
    assert marks.overlaps(Marks((Mark(1, 5, 0.0, 1.0), Mark(2, 5, 0.5, 2.0)), 3)) == []


def test_a_mark_that_ends_before_the_scene_begins_is_not_in_it():
    def placed(end):
        return [mark.end for mark in marks.in_scene(Marks((Mark(1, 5, -1.0, end),), 2), (), 24.0).marks]

    assert (placed(0.0), placed(0.5)) == ([], [0.5])


@pytest.mark.parametrize(("times", "found"), [(2, ()), (3, (Habit("t", "push", 3),))])
def test_what_is_done_three_times_is_a_habit(times, found):
    assert habits([("t", "push")] * times) == found


@pytest.mark.parametrize(("first", "own"), [(4, True), (5, False), (6, False), (7, True)])
def test_a_choice_corrects_where_the_plan_has_another_drawing_in_its_middle(first, own):
    """A pin on frames 4 to 8, whose middle is 6; what is planned as the pin shows it, on three frames."""
    planned = [Exposure(0, first, "rest"), Exposure(first, 2, "push"), Exposure(first + 2, 9, "rest")]
    assert is_correction(Pin(4, 4, "push", chosen=True), planned) == own


def test_a_pin_is_for_the_sound_it_covers_most_of_and_for_none_it_only_touches():
    def target(number, start, end):
        return Target(number, "open", start / 24, end / 24, (0.0,) * 8, 1.0)

    targets = [target(0, 0, 10), target(1, 10, 14)]
    assert sound_of(Pin(8, 4, "open"), targets, FPS, 0) == 1
    assert sound_of(Pin(2, 8, "open"), targets, FPS, 0) == 0
    assert sound_of(Pin(14, 4, "open"), targets, FPS, 0) is None
    assert sound_of(Pin(8, 4, "open"), [target(0, 0, 10), target(1, 10, 20)], FPS, 0) == 0  # of two alike the first


def test_places_that_a_rule_changes_are_told_as_far_as_they_hang_together():
    before = [Exposure(5, 2, "rest"), Exposure(7, 4, "half"), Exposure(11, 2, "rest")]
    after = [Exposure(5, 3, "rest"), Exposure(8, 2, "open"), Exposure(10, 3, "rest")]
    assert changed(before, after) == (
        Changed(7, 1, "half", "rest"),
        Changed(8, 2, "half", "open"),
        Changed(10, 1, "half", "rest"),
    )
    assert changed([], []) == ()


@pytest.mark.parametrize(("text", "why"), [("1", None), ("0.99", "between"), ("120", None), ("120.01", "between")])
def test_a_rate_lies_between_one_and_120(text, why):
    if why is None:
        assert parse_rate(text) == Fraction(text)
    else:
        with pytest.raises(RateError, match=why):
            parse_rate(text)


@pytest.mark.parametrize(
    ("text", "rate"),
    [
        ("23.98", Fraction(24000, 1001)),
        ("23.987", Fraction("23.987")),
        ("23.967", Fraction(24000, 1001)),
        ("23.96", Fraction("23.96")),
        ("22.98", Fraction("22.98")),
        ("2401001/100100", Fraction(2401001, 100100)),
    ],
)
def test_what_is_called_less_than_a_hundredth_beside_an_ntsc_rate_is_it(text, rate):
    assert parse_rate(text) == rate


def test_a_time_within_a_microsecond_of_a_frames_edge_lies_on_it():
    edge = 5 / 24
    assert [frame_at(edge - by, FPS) for by in (0.9e-6, 1.05e-6)] == [5, 4]
    assert [frame_after(edge + by, FPS) for by in (0.9e-6, 1.05e-6)] == [5, 6]
