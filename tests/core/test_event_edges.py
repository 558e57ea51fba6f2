"""Each limit and each price of what a viewer misses, on either side of where it turns."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from tests.speech import say
from tinfork.core.exposure import events as own
from tinfork.core.exposure.curves import Target, curves
from tinfork.core.exposure.events import beats_of, events
from tinfork.core.mouths.chart import WEIGHTS, Chart, Drawing, built_in
from tinfork.core.mouths.shapes import SHAPES

FPS = Fraction(24)
CHART = built_in()
PLACE = np.zeros(8)


def aim(seconds=0.08, **known):
    return Target(
        **{"sound": 0, "shape": "open", "start": 1.0, "end": 1.0 + seconds, "place": PLACE, "visible": 1.0} | known
    )


def found(text, hold=2, lead=1, rate=FPS, start=0.5):
    sounds, seconds = say(text, start)
    shape = curves(sounds, seconds, rate)
    frames = len(shape.values)
    return events(shape, CHART, [hold] * frames, [lead] * frames), shape


def of_sound(text, number, **dials):
    return [event for event in found(text, **dials)[0] if event.sound == number and not event.beat]


@pytest.mark.parametrize(("milliseconds", "count"), [(100, 1), (99, 0)])
def test_another_sound_is_to_be_seen_from_a_tenth_of_a_second_on(milliseconds, count):
    assert len(of_sound(f"'ɑ:200 s:{milliseconds} 'ɑ:200", 1)) == count


def test_exactly_a_tenth_is_long_enough():
    assert len(of_sound("s:100", 0, start=0.0)) == 1
    assert len(of_sound("s:99", 0, start=0.0)) == 0


def test_the_prices_of_what_is_not_seen():
    """As script/bench mouths weighed them against likeness and change."""
    assert own.closure_missed(aim(visible=0.5)) == pytest.approx(15.0)
    assert own.nucleus_missed(aim(stress=1)) == pytest.approx(9.0)
    assert own.long_missed(aim(0.1, visible=0.5)) == pytest.approx(0.6)
    assert own.beat_missed(aim(stress=1), aim(), 0.7) == pytest.approx(0.7)


@pytest.mark.parametrize(("stress", "share"), [(0, 0.55), (1, 1.0), (2, 0.85)])
def test_a_vowel_is_worth_what_it_is_stressed(stress, share):
    assert own.nucleus_missed(aim(stress=stress)) == pytest.approx(9.0 * share)
    assert own.beat_missed(aim(stress=stress), aim(stress=0), 0.7) == pytest.approx(0.7 * max(share, 0.55))


def test_a_vowel_is_worth_what_it_is_loud_and_long_up_to_eight_times():
    assert own.nucleus_missed(aim(stress=1, level=0.0)) == pytest.approx(4.5)
    assert own.nucleus_missed(aim(0.64, stress=1)) == pytest.approx(72.0)
    assert own.nucleus_missed(aim(0.66, stress=1)) == pytest.approx(72.0)
    assert own.nucleus_missed(aim(0.62, stress=1)) < 71.0
    assert own.nucleus_missed(aim(stress=1, shape="ajar")) == pytest.approx(3.6)
    assert own.long_missed(aim(0.8)) == own.long_missed(aim(0.9)) == pytest.approx(9.6)


def test_a_beat_is_worth_how_far_it_moves_the_mouth_up_to_a_limit():
    assert own.beat_missed(aim(stress=1), aim(), 0.35) == pytest.approx(0.35)
    assert own.beat_missed(aim(stress=1), aim(), 0.8) == pytest.approx(0.7)


@pytest.mark.parametrize(("lead", "early"), [(0, 0), (1, 0), (2, 1), (3, 2)])
def test_a_lead_of_one_frame_is_met_in_the_sound_and_a_longer_one_shows_it_earlier(lead, early):
    at_once = of_sound("'ɑ:200", 0, lead=0)[-1]
    leading = of_sound("'ɑ:200", 0, lead=lead)[-1]
    assert (at_once.first - leading.first, at_once.last - leading.last) == (early, early)
    closed = [of_sound("'ɑ:200 b:90 'ɑ:200", 1, lead=one)[0] for one in (0, lead)]
    assert closed[0].first == closed[1].first


@pytest.mark.parametrize("hold", [1, 2, 4])
def test_lips_may_close_a_hold_beside_at_a_price_for_each_frame(hold):
    (closed,) = of_sound("'ɑ:300 b:90 'ɑ:300", 1, hold=hold)
    beside = [9.0 * n for n in range(hold, 0, -1)]
    free = len(closed.beside) - 2 * hold
    assert closed.beside == (*beside, *(0.0,) * free, *reversed(beside))
    assert closed.beside[closed.middle - closed.first] == 0


@pytest.mark.parametrize(("pause", "parts"), [(99, True), (101, False)])
def test_lips_part_for_a_vowel_between_closures_less_than_a_tenth_of_a_second_away(pause, parts):
    missed = [event.missed for event in of_sound(f"m:90 _:{pause} 'ɑ:200 m:90", 1)]
    assert (20.0 in missed) == parts
    missed = [event.missed for event in of_sound(f"m:90 'ɑ:200 _:{pause} m:90", 1)]
    assert (20.0 in missed) == parts


def test_a_vowel_of_one_frame_need_not_part_the_lips():
    frame = 1000 / 24
    short = of_sound(f"m:90 'ɑ:{round(frame)} m:90", 1)
    assert [event.missed for event in short if event.missed == 20.0] == []


@pytest.mark.parametrize(("pause", "count"), [(100, 1), (101, 0)])
def test_there_is_a_beat_between_two_vowels_unless_a_pause_is_longer_than_a_tenth(pause, count):
    _, shape = found(f"'ɑ:200 t:100 _:{pause} 'i:200")
    assert len(list(beats_of(shape.targets))) == count


def test_a_pause_of_just_a_tenth_parts_no_beat_and_a_closure_just_a_tenth_away_is_not_beside():
    vowels = aim(nucleus=True, start=-1.0, end=0.0), aim(nucleus=True, sound=2, start=0.3, end=0.5)
    between = aim(sound=1, start=own._PAUSE_SECONDS, end=0.3)
    assert len(list(beats_of([vowels[0], between, vowels[1]]))) == 1
    lips = aim(shape="press", start=own._BESIDE_SECONDS, end=0.3)
    assert not own._lips_close([lips], 0.0)
    assert own._lips_close([replace(lips, start=0.099)], 0.0)


def test_there_is_no_beat_where_nothing_is_said_between_two_vowels():
    one, other = aim(nucleus=True), aim(nucleus=True, sound=1, start=1.08, end=1.2)
    assert list(beats_of([one, other])) == []
    second = aim(shape="round", start=1.08, end=1.2)  # of the first vowel's own sound
    assert list(beats_of([one, second, aim(nucleus=True, sound=1, start=1.2, end=1.3)])) == []


def test_a_beat_has_room_for_two_holds():
    """Between the middles of two vowels."""
    text = "'ɑ:100 t:100 'ɑ:100"  # 200 ms apart: 4.8 frames
    assert [len([e for e in found(text, hold=hold)[0] if e.beat]) for hold in (2, 3)] == [1, 0]


def beats_with(place):
    """The beats of a t between two open vowels, in a chart of an open mouth and one at a place."""
    chart = Chart((Drawing("open", SHAPES["open"].place), Drawing("other", tuple(place))))
    sounds, seconds = say("'ɑ:300 t:150 'ɑ:300", 0.5)
    shape = curves(sounds, seconds, FPS)
    frames = len(shape.values)
    return [event for event in events(shape, chart, [2] * frames, [1] * frames) if event.beat]


TEETH, OPEN = (np.array(SHAPES[name].place) for name in ("teeth", "open"))
FROM_OPEN = np.sqrt((WEIGHTS * (TEETH - OPEN) ** 2).sum())


@pytest.mark.parametrize(("share", "count"), [(0.59, 1), (0.61, 0)])
def test_a_mouth_goes_toward_a_sound_when_it_is_at_most_six_tenths_as_far_from_it(share, count):
    """The tuck of the lip alone takes it away from both; distances are squares."""
    aside = np.zeros(8)
    aside[4] = FROM_OPEN * np.sqrt(share / WEIGHTS[4])
    assert len(beats_with(TEETH + aside)) == count


@pytest.mark.parametrize(("apart", "count"), [(0.29, 0), (0.31, 1)])
def test_a_beat_is_told_from_the_vowel_from_three_tenths_on(apart, count):
    beats = beats_with(OPEN + (TEETH - OPEN) * apart / FROM_OPEN)
    assert len(beats) == count
    assert not beats or beats[0].missed == pytest.approx(apart)
