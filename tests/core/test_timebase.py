from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import RateError
from tinfork.core.timebase import COMMON_RATES, format_rate, frame_at, frame_count, frame_time, parse_rate


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


@pytest.mark.parametrize("text", ["", "fast", "0", "-24", "1/0", "nan", "inf", "1e9", "24 24", "9" * 400])
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
