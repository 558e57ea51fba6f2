"""Where one line is said in a recording, once or again."""

import numpy as np
import pytest

from bench import alone
from bench.truth import flite
from tests.speech import noise, recording_of
from tinfork.core.speech import read
from tinfork.core.speech.takes import takes_of
from tinfork.core.speech.unscripted import HeardLine

LINE = "Nobody sold a ticket to that goat."
SHORT, OTHER = "Nobody sold a ticket.", "The moon moved slowly over the water."


def spoken(*texts):
    line = alone.in_one([flite(text, "slt") for text in texts])
    return line.recording, [HeardLine(one.text, one, "en") for one in read.read(line.recording, "\n".join(texts)).lines]


@pytest.fixture(scope="module")
def twice():
    return spoken(LINE, OTHER, LINE)


def test_each_time_that_a_line_is_said_is_a_take_of_it(twice):
    recording, heard = twice
    first, second = takes_of(LINE, "en", heard, recording)
    assert (first.start, first.end) == (heard[0].start, heard[0].end)
    assert (second.start, second.end) == (heard[2].start, heard[2].end)
    assert (first.share, second.share) == (1.0, 1.0)
    assert first.sure > 0.8
    assert [len(takes_of(OTHER, "en", heard, recording)), takes_of("Ships only lean.", "en", heard, recording)] == [
        1,
        [],
    ]


def test_what_is_too_little_of_a_line_is_no_take_of_it():
    recording, heard = spoken(SHORT, LINE, "That goat.")
    found = takes_of(LINE, "en", heard, recording)
    assert [(take.start, take.end) for take in found] == [(heard[1].start, heard[1].end)]
    assert takes_of(LINE, "en", heard[2:], recording) == []


@pytest.mark.parametrize(("words", "count"), [(6, 1), (5, 1), (4, 0)])
def test_six_words_of_ten_are_a_take(words, count):
    line = "Nobody sold a ticket to that goat now"
    said = " ".join(line.split()[:words])
    recording, heard = spoken(f"{said}.")
    assert len(takes_of(f"{line}.", "en", heard, recording)) == count


def test_the_cleaner_take_is_told_by_how_far_it_stands_above_the_noise(twice):
    recording, heard = twice
    hiss = noise(recording.seconds + 1, 0.02)[: len(recording.samples)]
    hiss[: int((heard[0].end + 0.5) * 16_000)] *= 0.05
    cleaner, noisier = takes_of(LINE, "en", heard, recording_of(recording.samples + hiss.astype(np.float32)))
    assert cleaner.clean > noisier.clean + 10
