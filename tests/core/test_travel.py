"""What was set by hand goes with what is said there, and stays where nothing is."""

import itertools
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tinfork.core.exposure.pins import AnchoredPin
from tinfork.core.exposure.travel import gone_along, moved_between
from tinfork.core.speech import correct
from tinfork.core.speech.reading import Line, Reading, Sound, Word

FPS = 10.0  # a frame is a tenth of a second


def word(text, *edges, source_id=3):
    sounds = tuple(Sound("a", a, b, 0.5) for a, b in itertools.pairwise(edges))
    return Word(text, edges[0], edges[-1], 0.5, False, sounds, source_id=source_id)


ONE = Line("fog bell", 1.0, 3.0, (word("fog", 1.0, 1.4, 1.8), word("bell", 2.4, 2.6, 3.0)), id=1)
TWO = Line("goat", 5.0, 5.6, (word("goat", 5.0, 5.2, 5.6),), id=2)
READING = Reading(9.0, 16_000, "en", (ONE, TWO))


def pin(frame, frames=2, source_id=3):
    return AnchoredPin(frame, frames, "open", source_id)


def went(pins, after, lead=0, before=(ONE, TWO)):
    now, left = gone_along(pins, moved_between(before, after), FPS, lead)
    return [one.frame for one in now], [one.frame for one in left]


def test_a_line_takes_what_lies_on_it_along_with_its_pauses_and_leaves_the_others():
    after = correct.move_line(READING, 0, 0.5).lines
    on_words, in_its_pause, beside, elsewhere = pin(12), pin(20), pin(32), pin(51)
    assert went([on_words, in_its_pause, beside, elsewhere], after) == ([17, 25, 32, 51], [])


def test_a_word_takes_its_own_along_and_not_the_pause_beside_it():
    after = correct.move_word(READING, (0, 1), 0.2).lines
    assert went([pin(13), pin(20), pin(25)], after) == ([13, 20, 27], [])


def test_a_seam_within_a_word_takes_along_what_lies_on_its_sounds():
    after = correct.move_edge(READING, (0, 1), 1, 2.8).lines  # the second sound begins 0.2 later
    first, second = pin(24, 1), pin(27, 2)
    assert went([first, second], after) == ([25, 28], [])


@pytest.mark.parametrize(("lead", "goes"), [(0, 8), (1, 13)])
def test_a_mouth_belongs_to_the_sound_that_it_comes_before(lead, goes):
    """Its middle lies a tenth before the word, and the lead reaches into it."""
    after = correct.move_line(READING, 0, 0.5).lines
    assert went([pin(8)], after, lead)[0] == [goes]


@pytest.mark.parametrize(("by", "frames"), [(0.049, 0), (0.051, 1), (-0.049, 0), (-0.051, -1)])
def test_it_goes_to_the_nearest_frame(by, frames):
    after = correct.move_line(READING, 0, by).lines
    assert went([pin(12)], after)[0] == [12 + frames]


def test_what_lies_on_another_sound_stays():
    after = correct.move_line(READING, 0, 0.5).lines
    assert went([pin(12, source_id=4), pin(12, source_id=0)], after)[0] == [12, 12]


def test_where_a_word_is_said_no_longer_it_stays_and_is_told():
    after = correct.delete_word(READING, (0, 0)).lines
    assert went([pin(12), pin(25)], after) == ([12, 25], [12])
    assert went([pin(12)], (TWO,)) == ([12], [12])
    other = replace(ONE, words=(replace(ONE.words[0], source_id=4), ONE.words[1]))
    assert went([pin(12)], (other, TWO)) == ([12], [12])


def test_a_line_that_is_read_again_takes_them_along_by_the_same_words():
    said = (word("old", 0.5, 0.8), word("FOG", 1.5, 1.9, 2.3), word("bell", 2.4, 2.6, 3.0))
    after = (replace(ONE, words=said), TWO)
    assert went([pin(12), pin(25)], after) == ([17, 25], [])


def test_with_other_sounds_a_word_takes_them_along_as_a_whole():
    said = (word("fog", 1.0, 1.2, 1.4, 2.6), ONE.words[1])
    assert went([pin(10, 2), pin(16, 2)], (replace(ONE, words=said), TWO))[0] == [11, 23]


@settings(max_examples=200)
@given(st.lists(st.tuples(st.integers(0, 60), st.integers(1, 6)), max_size=12), st.integers(-9, 9))
def test_nothing_is_lost_and_back_is_back(spans, by):
    pins = tuple(pin(frame, frames) for frame, frames in spans)
    after = correct.move_line(READING, 0, by / FPS).lines
    there, left = gone_along(pins, moved_between(READING.lines, after), FPS, 0)
    assert [(one.frames, one.drawing) for one in there] == [(one.frames, one.drawing) for one in pins]
    assert not left
    back, _ = gone_along(there, moved_between(after, READING.lines), FPS, 0)
    own = [n for n, one in enumerate(pins) if there[n].frame != one.frame]
    assert [back[n] for n in own] == [pins[n] for n in own]
