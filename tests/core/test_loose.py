from tinfork.core.speech.loose import among, over, set_by_hand
from tinfork.core.speech.reading import Line, Reading, Sound, Word


def line(start, end, number=0, source=1, pinned=()):
    word = Word("a", start, end, 0.9, False, (Sound("ʌ", start, end, 0.9),), source, pinned=pinned)
    return Line("a", start, end, (word,), number)


def test_lines_are_over_one_another_in_one_sound_only():
    assert over(line(1, 2), [line(1.9, 3)])
    assert not over(line(1, 2), [line(2, 3), line(0, 1)])
    assert not over(line(1, 2), [line(1, 2, source=2)])


def test_loose_lines_lie_where_they_are_said():
    others = [line(0, 1, 7), line(4, 5, 8), line(0, 9, 9, source=2)]
    found = among(others, [line(2, 3), line(6, 7)])
    assert [(one.start, one.id) for one in found] == [(0, 7), (2, 0), (4, 8), (0, 9), (6, 0)]


def test_only_loose_lines_that_a_person_set_are_by_hand():
    lines = (line(0, 1), line(1, 2, pinned=(0,)), line(2, 3, 5, pinned=(0,)))
    assert set_by_hand(Reading(3, 16_000, "en", lines)) == [lines[1]]
    assert set_by_hand(None) == []
