"""Script against recording: what is told of words that are said otherwise than they are written."""

import itertools

import numpy as np
import pytest

from bench import alone
from bench.truth import flite
from tinfork.core.errors import ScriptError
from tinfork.core.script.otherwise import parted, with_said, written
from tinfork.core.speech import instead, read
from tinfork.core.speech.otherwise import AGAIN, ELSEWHERE, LEFT_OUT, OTHERWISE, PUT_IN, differences
from tinfork.core.speech.read import LineToRead
from tinfork.core.speech.unscripted import HeardLine

SAID = ("Nobody sold a ticket to that goat.", "The moon moved slowly over the water.", "My left boot went overboard.")


def told(script, said, heard=None):
    """What is told of a script when other lines are said, and heard as they are said, or as something else."""
    sound = alone.in_one([flite(text, "slt") for text in said]).recording
    lines = read.read(sound, "\n".join(said)).lines
    rows = [HeardLine(line.text, line, "en") for line in lines]
    if heard:
        rows = [HeardLine(text, line, "en") for text, line in zip(heard, lines, strict=True)]
    script = [LineToRead(text, "en", number) for number, text in enumerate(script, 7)]
    return [(one.kind, one.line, one.first, one.last, one.heard) for one in differences(sound, script, rows)]


def test_what_is_written_is_not_told():
    assert told(SAID, SAID) == []


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("Nobody sold a bucket to that goat.", (OTHERWISE, 7, 3, 4, "ticket")),
        ("Nobody ever sold a ticket to that goat.", (LEFT_OUT, 7, 1, 2, "")),
        ("Nobody sold a ticket to goat.", (PUT_IN, 7, 5, 5, "that")),
    ],
)
def test_a_word_is_told_where_it_is_said_otherwise_left_out_or_put_in(line, expected):
    (found,) = told((line, *SAID[1:]), SAID)
    assert found == expected


def test_what_was_misheard_and_fits_worse_is_not_told():
    heard = ("Nobody sold a bucket to that goat.", "The spoon moved slowly over the water.", SAID[2])
    assert told(SAID, SAID, heard) == []


@pytest.mark.parametrize(("guess", "better", "count"), [(1, 3.9, 0), (1, 4.1, 1), (2, 7.9, 0), (2, 8.1, 1)])
def test_what_was_heard_is_told_where_it_fits_better_by_four_and_a_part_by_eight(monkeypatch, guess, better, count):
    """Fits in the order they are asked for: as it is written, as it was heard, then parts of that."""
    fits = itertools.chain([-100.0, *[-200.0] * (guess - 1), -100.0 + better], itertools.repeat(-200.0))
    monkeypatch.setattr(instead.Excerpt, "fit", lambda stretch, words: next(fits))
    assert len(told(("Nobody sold a bucket to that goat.", *SAID[1:]), SAID)) == count


@pytest.mark.parametrize(("better", "count"), [(13.9, 0), (14.1, 1)])
def test_what_nobody_heard_is_told_where_it_fits_better_by_fourteen(monkeypatch, better, count):
    fits = itertools.chain([-100.0, *[-200.0] * 4], itertools.repeat(-100.0 + better))
    monkeypatch.setattr(instead.Excerpt, "fit", lambda stretch, words: next(fits))
    heard = ("Nobody sold a ticket to that gate.", *SAID[1:])
    assert len(told(("Nobody sold a ticket to that goat.", *SAID[1:]), SAID, heard)) == count


@pytest.mark.parametrize(
    ("line", "said", "heard", "expected"),
    [
        (
            "Nobody sold a ticket that goat.",
            "Nobody sold a ticket to that goat.",
            "Nobody sold a dick to that goat.",
            (PUT_IN, 7, 4, 4, "to"),
        ),
        (
            "Both of us woke when the foghorn coughed.",
            "Both of us woke when foghorn coughed.",
            "Both of us woke when thought worn coughed.",
            (LEFT_OUT, 7, 5, 6, ""),
        ),
    ],
)
def test_what_a_recogniser_hears_wrongly_is_told_by_the_sound(line, said, heard, expected):
    """Where it heard a part, or other words beside what was left out."""
    (found,) = told((line, *SAID[1:]), (said, *SAID[1:]), (heard, *SAID[1:]))
    assert found == expected


def test_a_word_that_nobody_heard_is_told_where_its_consonant_was_heard():
    line, said, heard = (f"I thought the thin {word} went north." for word in ("path", "pam", "pump"))
    (found,) = told((line, *SAID[1:]), (said, *SAID[1:]), (heard, *SAID[1:]))
    assert found == (OTHERWISE, 7, 4, 5, "pam")
    heard = "I thought the thin hour went north."
    assert told((line, *SAID[1:]), (said, *SAID[1:]), (heard, *SAID[1:])) == []


def test_what_sounds_the_same_is_the_same_however_it_is_written():
    heard = ("Nobody sold a ticket too that goat.", *SAID[1:])
    assert told(SAID, SAID, heard) == []


def test_a_line_said_twice_and_one_said_elsewhere_are_told_as_that():
    assert [(kind, line) for kind, line, *_ in told(SAID, (SAID[0], SAID[1], SAID[1], SAID[2]))] == [(AGAIN, 8)]
    moved = told(SAID, (SAID[0], SAID[2], SAID[1]))
    assert [kind for kind, *_ in moved] == [ELSEWHERE]


def test_silence_says_nothing_of_what_is_written():
    sound = flite("Fog.", "slt").recording
    quiet = type(sound)(np.zeros_like(sound.samples), sound.seconds, sound.rate)
    assert differences(quiet, [LineToRead("", "en", 1)], []) == []


def test_what_was_said_stands_in_the_line_as_that_was_written():
    line = "(softly) Nobody sold a ticket — to that goat!"
    assert written(line, "en", 3, 4) == "ticket"
    assert with_said(line, "en", 3, 4, "Thicket.") == "(softly) Nobody sold a thicket — to that goat!"
    assert with_said(line, "en", 0, 1, "somebody") == "(softly) Somebody sold a ticket — to that goat!"
    assert with_said(line, "en", 6, 7, "goats") == "(softly) Nobody sold a ticket — to that goats!"
    assert with_said(line, "en", 4, 5, "") == "(softly) Nobody sold a ticket — that goat!"
    assert with_said(line, "en", 6, 6, "old") == "(softly) Nobody sold a ticket — to that old goat!"
    assert parted(line, "en", 7, 7) == (line, "", "")
    with pytest.raises(ScriptError, match="compare script and recording again"):
        with_said(line, "en", 6, 8, "x")
