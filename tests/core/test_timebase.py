import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import RateError
from tinfork.core.timebase import (
    COMMON_RATES,
    all_touched,
    format_rate,
    frame_after,
    frame_at,
    frame_count,
    frame_time,
    frames_touched,
    frames_within,
    parse_rate,
)


@pytest.mark.parametrize(
    ("text", "rate"),
    [
        ("24", Fraction(24)),
        ("23.976", Fraction(24000, 1001)),
        ("23.98", Fraction(24000, 1001)),
        ("29.97", Fraction(30000, 1001)),
        ("59.94 fps", Fraction(60000, 1001)),
        ("24000/1001", Fraction(24000, 1001)),
        ("12.5", Fraction(25, 2)),
    ],
)
def test_rates_are_exact(text, rate):
    assert parse_rate(text) == rate


@pytest.mark.parametrize(
    "text", ["", "fast", "0", "-24", "1/0", "nan", "inf", "1e9", "1e8000000", "24_0", "²4", "24 24", "9" * 400]
)
def test_a_rate_that_is_none_is_a_sentence(text):
    with pytest.raises(RateError, match=r"frame"):
        parse_rate(text)


@pytest.mark.parametrize("text", COMMON_RATES)
def test_common_rates_read_back(text):
    assert format_rate(parse_rate(text)) == text


@given(st.integers(0, 10**6), st.sampled_from(COMMON_RATES))
def test_a_frame_begins_at_its_own_time(frame, text):
    rate = parse_rate(text)
    assert frame_at(frame_time(frame, rate), rate) == frame


@given(st.floats(0.01, 5400), st.sampled_from(COMMON_RATES))
def test_frames_cover_the_sound(seconds, text):
    rate = parse_rate(text)
    count = frame_count(seconds, rate)
    assert (count - 1) / rate < seconds + 1e-6
    assert count / rate >= seconds - 1e-6


@pytest.mark.parametrize("text", COMMON_RATES)
def test_times_kept_to_the_microsecond_lie_on_their_own_frames(text):
    rate = parse_rate(text)
    for frame in range(3000):
        time = round(frame_time(frame, rate), 6)
        assert frame_at(time, rate) == frame
        assert frame_after(time, rate) == frame
        assert frame_at(time - 3e-6, rate) == frame - 1
        assert frame_after(time + 3e-6, rate) == frame + 1


def test_frames_touched_and_frames_within():
    fps = parse_rate("24")
    assert list(frames_touched(0.5, 0.625, fps)) == [12, 13, 14]
    assert list(frames_touched(0.51, 0.52, fps)) == [12]
    assert list(frames_touched(0.5, 0.5, fps)) == [12]
    assert list(frames_within(0.5, 0.625, fps)) == [12, 13, 14]
    assert list(frames_within(0.53, 0.6, fps)) == [13]
    assert list(frames_within(0.53, 0.55, fps)) == [12]


def test_the_table_the_browser_is_held_against_is_what_the_engine_says():
    table = json.loads((Path(__file__).parents[1] / "clock.json").read_text())
    for numerator, denominator, seconds, at, after in table:
        rate = Fraction(numerator, denominator)
        assert (frame_at(seconds, rate), frame_after(seconds, rate)) == (at, after)


@given(st.lists(st.tuples(st.floats(-2, 50), st.floats(0, 1)), max_size=9), st.sampled_from(COMMON_RATES))
def test_many_at_once_touch_the_same_frames(spans, name):
    fps = parse_rate(name)
    starts = np.array([round(start, 6) for start, _ in spans])
    ends = starts + np.array([round(length, 6) for _, length in spans])
    first, after = all_touched(starts, ends, fps)
    one_by_one = [frames_touched(start, end, fps) for start, end in zip(starts.tolist(), ends.tolist(), strict=True)]
    assert [range(*both) for both in zip(first.tolist(), after.tolist(), strict=True)] == one_by_one
