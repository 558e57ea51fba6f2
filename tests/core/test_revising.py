"""A revised script over the one there is: which line is which."""

import random

import pytest

from tinfork.core.script.lines import Cue, Script, ScriptLine, add, say
from tinfork.core.script.revising import CHANGED, GONE, MOVED, NEW, SAME, revise, worded

TEXTS = (
    "Fog at the north pier again.",
    "Then the goat is early.",
    "Please show a valid ticket.",
    "My left boot went overboard near the lighthouse.",
    "Nobody pays the lighthouse bill.",
    "Not since the gull ate it.",
)


@pytest.fixture
def script():
    return add(Script(), [Cue(text, "Marit") for text in TEXTS], {"marit": 1, "brede": 2})


def revised(script, *texts):
    cues = [Cue(*text) if isinstance(text, tuple) else Cue(text) for text in texts]
    return revise(script, cues, {"marit": 1, "brede": 2})


def kinds(told):
    return [(one.kind, one.line.id) for one in told]


def test_the_same_script_changes_nothing(script):
    now, told = revised(script, *TEXTS)
    assert now == script
    assert {one.kind for one in told} == {SAME}


def test_other_signs_and_capitals_are_a_change_of_the_same_line(script):
    now, told = revised(script, TEXTS[0].upper(), *TEXTS[1:])
    assert kinds(told)[0] == (CHANGED, 1)
    assert now.lines[0].text == TEXTS[0].upper()


def test_changed_new_gone_and_moved_lines_are_told_apart(script):
    now, told = revised(
        script,
        "Nobody pays the lighthouse bill now.",
        TEXTS[0],
        "Then the goat is late.",
        "Who let it aboard?",
        TEXTS[3],
        TEXTS[5],
    )
    assert kinds(told) == [(CHANGED, 5), (SAME, 1), (CHANGED, 2), (GONE, 3), (NEW, 7), (SAME, 4), (SAME, 6)]
    assert [one.moved for one in told] == [True, *[False] * 6]
    assert [line.id for line in now.lines] == [5, 1, 2, 7, 4, 6]
    assert now.next == 8
    assert all(line.character == 1 for line in now.lines if line.id != 7)


def test_a_line_that_moved_as_it_is_is_moved_and_the_others_are_not(script):
    _, told = revised(script, *TEXTS[1:], TEXTS[0])
    assert kinds(told)[-1] == (MOVED, 1)
    assert {one.kind for one in told[:-1]} == {SAME}


def test_who_speaks_changes_where_somebody_is_named_alone(script):
    now, told = revised(script, (TEXTS[0], "Brede"), (TEXTS[1], "Nobody here"), *TEXTS[2:])
    assert [line.character for line in now.lines[:2]] == [2, 1]
    assert [one.kind for one in told[:2]] == [CHANGED, SAME]


def test_what_is_said_in_place_stays_with_its_word(script):
    now, _ = revised(say(script, 2, 2, "ɡoʊt"), TEXTS[0], "But then the goat is early.", *TEXTS[2:])
    assert now.lines[1].said == {3: "ɡoʊt"}


def test_a_line_that_is_said_twice_is_found_twice():
    script = add(Script(), [Cue("Fog."), Cue("Boot."), Cue("Fog.")], {})
    now, told = revised(script, "Fog.", "Fog.", "Boot.")
    assert sorted(line.id for line in now.lines) == [1, 2, 3]
    assert GONE not in {one.kind for one in told}


def test_half_of_the_words_is_the_same_line_and_less_is_another():
    script = Script((ScriptLine(1, "one two three four"),), 2)
    assert revised(script, "one two five six")[1][0].kind == CHANGED
    assert [one.kind for one in revised(script, "one five six seven")[1]] == [GONE, NEW]


def test_three_quarters_of_the_words_are_known_again_elsewhere():
    long = ["a b c d e f g h", "middle one here", "last one there"]
    script = add(Script(), [Cue(text) for text in long], {})
    moved = revised(script, long[1], long[2], "a b c d e f x y")[1]
    assert (moved[-1].kind, moved[-1].line.id, moved[-1].moved) == (CHANGED, 1, True)
    gone = revised(script, long[1], long[2], "a b c d e x y z")[1]
    assert [one.kind for one in gone] == [GONE, SAME, SAME, NEW]


def test_words_are_told_one_by_one():
    assert worded("Then the goat is early.", "But then the goat is late.") == [
        (GONE, "Then"),
        (NEW, "But then"),
        (SAME, "the goat is"),
        (GONE, "early."),
        (NEW, "late."),
    ]


def test_any_revision_gives_just_the_revised_lines_and_loses_none_in_the_telling():
    draw = random.Random(7)
    words = ["fog", "pier", "goat", "ticket", "boot", "gull", "bill", "lighthouse", "overboard", "early"]

    def line():
        return " ".join(draw.choices(words, k=draw.randint(1, 9)))

    for _ in range(300):
        script = add(Script(), [Cue(line()) for _ in range(draw.randint(1, 12))], {})
        texts = [one.text for one in script.lines]
        if draw.random() < 0.3:
            draw.shuffle(texts)
        texts = [line() if draw.random() < 0.2 else text for text in texts if draw.random() < 0.85] or ["fog"]
        now, told = revised(script, *texts)
        assert [one.text for one in now.lines] == texts
        assert len({one.id for one in now.lines}) == len(now.lines)
        there = {one.line.id for one in told if one.kind != NEW}
        assert there == {one.id for one in script.lines}
        assert [one.line for one in told if one.kind != GONE] == list(now.lines)


def test_a_script_of_thousands_of_lines_is_compared_in_seconds():
    draw = random.Random(3)
    texts = [" ".join(draw.choices(TEXTS[3].split() + TEXTS[2].split(), k=8)) for _ in range(3000)]
    script = add(Script(), [Cue(text) for text in texts], {})
    now, _ = revised(script, *(f"{text} indeed" if n % 3 else text for n, text in enumerate(texts)))
    assert len(now.lines) == 3000
