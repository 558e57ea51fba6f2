"""Exposures of other programs: read, brought to the scene's rate, and their names matched to drawings."""

import itertools
from fractions import Fraction

import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_handing_over import RATES, made, shot_at, tone
from tinfork.core.errors import TinForkError
from tinfork.core.formats.timing_in import Timing, at_rate, matched, parse
from tinfork.core.mouths.chart import Chart, Drawing, built_in
from tinfork.core.mouths.shapes import SHAPES

__all__ = ["tone"]


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("kind", ["otio", "csv", "json"])
def test_what_we_hand_over_comes_back_as_it_was(kind, rate, tone, tmp_path):
    shot = shot_at(rate, tone)
    found = parse(made(kind, shot, tmp_path).read_text(encoding="utf-8"))
    assert [row for row in found.rows if row[2]] == [
        (e.frame, e.frames, e.drawing) for e in shot.roles[0].exposures if e.drawing
    ]
    assert found.rate == (None if kind == "csv" else rate)
    assert found.names == ("rest", "press", "open", "ah/o?")


def test_a_plain_table_says_where_each_begins():
    found = parse("Frame,Drawing\n0,closed\n4,AI\n9,(nothing)\n12,closed\n")
    assert found.rows == ((0, 4, "closed"), (4, 5, "AI"), (9, 3, ""), (12, 1, "closed"))


def test_another_rate_is_respected_to_the_frame_and_told():
    film = Timing(Fraction(24000, 1001), ((0, 12, "a"), (12, 1, "b"), (13, 1000, "c")))
    rows, told = at_rate(film, Fraction(24))
    assert rows == ((0, 12, "a"), (12, 1, "b"), (13, 1001, "c"))
    assert told == "From 23.976 to 24 frames a second: frame 1013 becomes frame 1014, in the same time."
    rows, told = at_rate(Timing(Fraction(24), ((0, 13, "a"), (13, 1, "b"), (14, 10, "c"))), Fraction(12))
    assert rows == ((0, 7, "a"), (7, 5, "c"))
    assert "1 shorter than a frame is left out" in told
    assert at_rate(film, Fraction(24000, 1001)) == (film.rows, "")


@given(st.lists(st.integers(1, 40), min_size=1, max_size=60), st.sampled_from(RATES), st.sampled_from(RATES))
def test_at_any_rate_nothing_overlaps_and_no_edge_is_off_by_more_than_half_a_frame(lengths, one, other):
    edges = [sum(lengths[:at]) for at in range(len(lengths) + 1)]
    timing = Timing(one, tuple((a, b - a, str(a)) for a, b in itertools.pairwise(edges)))
    rows, _ = at_rate(timing, other)
    assert all(one[0] + one[1] <= after[0] for one, after in itertools.pairwise(rows))
    assert all(abs(first / other - int(name) / one) <= Fraction(1, 2) / other for first, _, name in rows)


def test_half_as_many_frames_keep_every_mouth_wherever_it_begins():
    """Mouths on twos from an odd frame on: each edge lies in the middle between two frames, and all go the same way."""
    timing = Timing(Fraction(24), tuple((1 + 2 * at, 2, str(at)) for at in range(12)))
    rows, told = at_rate(timing, Fraction(12))
    assert rows == tuple((1 + at, 1, str(at)) for at in range(12))
    assert "left out" not in told


def test_a_timeline_of_two_rates_keeps_its_frames():
    track = otio.schema.Track("mouths", kind=otio.schema.TrackKind.Video)
    for at, (frames, rate) in enumerate([(3, 12), (1, 24), (1, 24), (2, 12), (1, 24)]):
        time = otio.opentime.TimeRange(otio.opentime.RationalTime(0, rate), otio.opentime.RationalTime(frames, rate))
        track.append(otio.schema.Clip(f"m{at}", source_range=time))
    timeline = otio.schema.Timeline("two rates")
    timeline.tracks.append(track)
    found = parse(otio.adapters.write_to_string(timeline, "otio_json"))
    assert found.rate == 24
    assert found.rows == ((0, 6, "m0"), (6, 1, "m1"), (7, 1, "m2"), (8, 4, "m3"), (12, 1, "m4"))


def test_rows_may_end_as_an_old_program_ends_them():
    assert parse("frame,drawing\r0,closed\r4,open\r").rows == ((0, 4, "closed"), (4, 1, "open"))


def test_names_are_matched_by_what_was_said_before_by_name_and_by_what_they_speak_of():
    chart = Chart((*built_in().drawings, Drawing("Half a gull", SHAPES["half"].place)))
    names = ["press", "half_a_GULL", "mouth_MBP", "oo", "drawing 7", "boot"]
    assert matched(names, chart, {"boot": "rest", "press": "gone"}) == {
        "press": "press",
        "half_a_GULL": "Half a gull",
        "mouth_MBP": "press",
        "oo": "purse",
        "drawing 7": "",
        "boot": "rest",
    }


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "must name the columns"),
        ("a,b\n1,2\n", "must name the columns"),
        ("frame,drawing\nsoon,open\n", "no whole number"),
        ("frame,drawing\n1e3,open\n", "no whole number"),
        ("frame,frames,drawing\n0,4,a\n2,4,b\n", "at frame 2 overlaps"),
        ("frame,frames,drawing\n-3,4,a\n", "at frame -3"),
        ("frame,frames,drawing\n0,99999999999,a\n", "at frame 0"),
        ("frame,frames,drawing\n0,4," + "x" * 140_000, "is broken"),
        ("{", "is not JSON"),
        ('{"exposures": [{"frame": ' + "7" * 5_000 + "}]}", "is not JSON"),
        ("{}", "no list of exposures"),
        ('{"exposures": []}', "No exposure was found"),
        ('{"exposures": [{"frame": true, "frames": 1, "drawing": "a"}]}', "no list of exposures"),
        ('{"fps": "soon", "exposures": []}', "not a frame rate"),
        ('{"OTIO_SCHEMA": "Timeline.1", "tracks": 3}', "no OpenTimelineIO"),
        ('{"OTIO_SCHEMA": "Nonsense.9"}', "no OpenTimelineIO"),
        ('{"a":' * 100_000, "JSON|deep"),
    ],
)
def test_a_file_that_holds_none_is_said(text, why):
    with pytest.raises(TinForkError, match=why):
        parse(text)


@given(st.text(max_size=300))
def test_whatever_it_holds_it_is_read_or_refused(text):
    for data in (text, f"frame,drawing\n{text}", '{"exposures": [' + text):
        try:
            assert parse(data).rows
        except TinForkError as refused:
            assert str(refused)
