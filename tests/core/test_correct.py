import itertools

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bench.truth import flite
from tests.core.test_read import check_total_and_monotone
from tests.speech import LINE
from tinfork.core.errors import ReadingError
from tinfork.core.plain import plain, restore
from tinfork.core.speech import correct
from tinfork.core.speech.read import LineToRead, read_lines
from tinfork.core.speech.reading import Line, Reading, Sound, Word
from tinfork.core.speech.room import needed

SCRIPT = "My left boot went overboard\nnear the lighthouse"


def word(text, *edges, **what):
    sounds = tuple(Sound("a", a, b, 0.5) for a, b in itertools.pairwise(edges))
    return Word(text, edges[0], edges[-1], 0.5, False, sounds, **what)


@pytest.fixture
def reading():
    """Fog bell, close together; then, after a pause, goat."""
    one = Line("fog bell", 1.0, 2.0, (word("fog", 1.0, 1.2, 1.6), word("bell", 1.6, 1.8, 1.9, 2.0)))
    two = Line("goat", 3.0, 3.4, (word("goat", 3.0, 3.2, 3.4),), id=1)
    return Reading(5.0, 16_000, "en", (one, two))


def edges(reading, line, number):
    return reading.lines[line].words[number].edges


def test_a_seam_moves_both_words_in_proportion_and_nothing_else(reading):
    moved = correct.move_edge(reading, (0, 1), 0, 1.4)
    assert edges(moved, 0, 0) == pytest.approx((1.0, 1.0 + 0.2 * 0.4 / 0.6, 1.4), abs=1e-6)
    assert edges(moved, 0, 1) == pytest.approx((1.4, 1.7, 1.85, 2.0))
    assert moved.lines[0].words[0].pinned == (2,)
    assert moved.lines[0].words[1].pinned == (0,)
    assert moved.lines[1] == reading.lines[1]


def test_beside_a_pause_only_the_named_edge_moves(reading):
    moved = correct.move_edge(reading, (0, 1), 3, 2.4)
    assert moved.lines[1] == reading.lines[1]
    assert moved.lines[0].words[0] == reading.lines[0].words[0]
    assert edges(moved, 0, 1)[-1] == 2.4
    assert moved.lines[0].end == 2.4


def test_a_word_or_a_line_moves_with_the_seams_it_shares(reading):
    moved = correct.move_word(reading, (0, 1), 0.1)
    assert edges(moved, 0, 1) == pytest.approx((1.7, 1.9, 2.0, 2.1))
    assert edges(moved, 0, 0)[0] == 1.0
    assert edges(moved, 0, 0)[-1] == 1.7
    assert moved.lines[1] == reading.lines[1]
    line = correct.move_line(reading, 0, 0.5)
    assert [word.start for word in line.lines[0].words] == [1.5, 2.1]
    assert (line.lines[0].words[0].pinned, line.lines[0].words[1].pinned) == ((0,), (3,))


def test_a_pinned_edge_inside_stops_the_stretching(reading):
    inner = correct.move_edge(reading, (0, 1), 1, 1.85)
    assert edges(inner, 0, 1) == (1.6, 1.85, 1.9, 2.0)
    moved = correct.move_edge(inner, (0, 1), 3, 2.2)
    assert edges(moved, 0, 1)[:2] == (1.6, 1.85)
    assert moved.lines[0].words[1].decided


@pytest.mark.parametrize(
    "change",
    [
        lambda r: correct.move_edge(r, (0, 1), 0, 0.5),
        lambda r: correct.move_edge(r, (0, 1), 3, 3.1),
        lambda r: correct.move_edge(r, (0, 0), 1, 1.6),
        lambda r: correct.move_edge(r, (0, 0), 0, -0.2),
        lambda r: correct.move_edge(r, (5, 0), 0, 1.0),
        lambda r: correct.move_word(r, (1, 0), -1.2),
        lambda r: correct.move_word(r, (1, 0), 1.7),
        lambda r: correct.move_line(r, 0, 1.5),
        lambda r: correct.set_sound(r, (0, 0), 0, "ts ts"),
        lambda r: correct.set_sound(r, (0, 0), 9, "m"),
        lambda r: correct.delete_sound(correct.delete_sound(r, (1, 0), 0), (1, 0), 0),
        lambda r: correct.split_word(r, (1, 0), 0, "go", "at"),
        lambda r: correct.merge_words(r, (1, 0)),
        lambda r: correct.insert_word(r, 0, "the", [("ð", 0)], 1.5, 1.7),
        lambda r: correct.insert_word(r, 0, "the", [], 2.5, 2.7),
        lambda r: correct.place_lost(r, 0, (0, 0)),
    ],
)
def test_what_does_not_fit_is_refused_with_a_sentence(reading, change):
    with pytest.raises(ReadingError, match=r"\."):
        change(reading)


def test_words_and_sounds_are_split_joined_put_in_and_taken_out(reading):
    parted = correct.split_word(reading, (1, 0), 1, "go", "at")
    assert [w.text for w in parted.lines[1].words] == ["go", "at"]
    assert edges(parted, 1, 1) == (3.2, 3.4)
    joined = correct.merge_words(parted, (1, 0))
    assert joined.lines[1].words[0].text == "go at"
    assert edges(joined, 1, 0) == edges(reading, 1, 0)
    more = correct.insert_sound(reading, (1, 0), 1, "m")
    assert [s.ipa for s in more.lines[1].words[0].sounds] == ["a", "m", "a"]
    assert edges(more, 1, 0) == pytest.approx((3.0, 3.2, 3.3, 3.4))
    assert [s.ipa for s in correct.delete_sound(more, (1, 0), 0).lines[1].words[0].sounds] == ["m", "a"]
    assert edges(correct.delete_sound(more, (1, 0), 1), 1, 0) == pytest.approx((3.0, 3.3, 3.4))
    put = correct.insert_word(reading, 0, "the", [("ð", 0), ("ə", 0)], 2.2, 2.4)
    assert [w.text for w in put.lines[0].words] == ["fog", "bell", "the"]
    gone = correct.delete_word(put, (0, 0)).lines[0].words[0]
    assert (gone.said, gone.decided, gone.end - gone.start) == (False, True, 0)


def test_a_word_looked_at_is_pinned_at_every_edge_and_can_be_unpinned(reading):
    right = correct.approve(reading, (0, 1))
    assert right.lines[0].words[1].pinned == (0, 1, 2, 3)
    assert correct.unpin(right, (0, 1)) == reading


@pytest.fixture(scope="module")
def spoken():
    return flite(LINE, "rms").recording


@pytest.fixture(scope="module")
def first(spoken):
    return read_lines(spoken, script())


def script(text=SCRIPT):
    return [LineToRead(line, id=number) for number, line in enumerate(text.splitlines())]


def again(spoken, reading, text=SCRIPT):
    return read_lines(spoken, script(text), before={line.id: line for line in reading.lines})


def set_by_hand(reading):
    """Everything a person set: for each word its pinned edges, and its sounds if they were decided."""
    return {
        (line.id, word.text, number): (
            [word.edges[k] for k in word.pinned],
            [s.ipa for s in word.sounds] if word.decided else None,
            word.said,
        )
        for line in reading.lines
        for number, word in enumerate(word for word in line.words if not word.is_unwritten)
        if word.is_set
    }


EDITS = st.lists(
    st.tuples(
        st.sampled_from(
            ["edge", "edge", "word", "line", "approve", "sound", "insert", "delete", "split", "merge", "gone"]
        ),
        st.integers(0, 1),
        st.integers(0, 5),
        st.integers(0, 8),
        st.floats(-0.2, 0.2),
    ),
    min_size=1,
    max_size=8,
)


def edited(reading, edits):
    """The edits that can be done, done."""
    for verb, line, number, k, by in edits:
        try:
            at = (line, number % len(reading.lines[line].words))
            own = correct.word_at(reading, at)
            edge = k % (len(own.sounds) + 1)
            reading = {
                "edge": lambda r: correct.move_edge(r, at, edge, own.edges[edge] + by),  # noqa: B023
                "word": lambda r: correct.move_word(r, at, by),  # noqa: B023
                "line": lambda r: correct.move_line(r, line, by),  # noqa: B023
                "approve": lambda r: correct.approve(r, at),  # noqa: B023
                "sound": lambda r: correct.set_sound(r, at, edge, "m"),  # noqa: B023
                "insert": lambda r: correct.insert_sound(r, at, edge, "ʃ"),  # noqa: B023
                "delete": lambda r: correct.delete_sound(r, at, edge),  # noqa: B023
                "split": lambda r: correct.split_word(r, at, edge, "one", "two"),  # noqa: B023
                "merge": lambda r: correct.merge_words(r, at),  # noqa: B023
                "gone": lambda r: correct.delete_word(r, at),  # noqa: B023
            }[verb](reading)
        except ReadingError:
            continue
    return reading


@settings(max_examples=20, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(EDITS)
def test_reading_again_keeps_what_was_set_exactly(spoken, first, edits):
    by_hand = edited(first, edits)
    found = again(spoken, by_hand)
    assert set_by_hand(found) == set_by_hand(by_hand)
    assert not found.lost
    check_total_and_monotone(found, spoken.seconds)
    assert restore(plain(found), Reading) == found


@settings(max_examples=20, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    EDITS, st.sampled_from(["My boot went overboard\nnear a lighthouse", "near the lighthouse\nMy left boot", "fog"])
)
def test_with_other_words_every_pin_is_kept_or_listed(spoken, first, edits, text):
    by_hand = edited(first, edits)
    found = again(spoken, by_hand, text)
    check_total_and_monotone(found, spoken.seconds)
    kept = [w for w in found.words() if w.pinned]
    before = [w for line in by_hand.lines for w in line.words if w.pinned and line.id < len(script(text))]
    assert len(kept) + sum(bool(w.pinned) for _, w in found.lost) == len(before)


def test_a_lost_pin_is_placed_on_another_word_or_dropped(spoken, first):
    pinned = correct.approve(first, (0, 2))
    found = again(spoken, pinned, SCRIPT.replace("boot", "sock"))
    ((line, was),) = found.lost
    assert (line, was.text) == (0, "boot")
    placed = correct.place_lost(found, 0, (0, 2))
    assert placed.lines[0].words[2].edges == was.edges
    assert not placed.lost
    assert not correct.drop_lost(found, 0).lost


def test_a_line_of_which_nothing_is_said_stays_silent(spoken, first):
    silent = first
    for line, own in enumerate(first.lines):
        for number in range(len(own.words)):
            silent = correct.delete_word(silent, (line, number))
    found = again(spoken, silent)
    assert not any(word.said for word in found.words())
    assert all(sound.start == sound.end for sound in found.sounds())
    assert set_by_hand(found) == set_by_hand(silent)


def test_read_again_sounds_beside_a_set_seam_keep_what_they_need(spoken, first):
    """The word begins a hair before its first sound ended: it was squeezed to half a frame."""
    word = first.lines[0].words[2]
    early = correct.move_edge(first, (0, 2), 0, word.start + 0.005)
    late = correct.move_edge(early, (0, 2), 0, word.sounds[0].end + 0.02)
    after = again(spoken, late).lines[0].words[2]
    assert after.start == pytest.approx(word.sounds[0].end + 0.02)
    assert all(s.end - s.start >= needed(s.ipa) - 1e-6 for s in after.sounds)
    assert not after.tight


def test_a_word_with_too_little_room_between_set_seams_is_to_be_looked_at(spoken, first):
    word = first.lines[0].words[2]
    last = len(word.sounds)
    pinned = correct.move_edge(first, (0, 2), last, word.end)
    tight = correct.move_edge(pinned, (0, 2), 0, word.end - 0.02 * last)
    after = again(spoken, tight).lines[0].words[2]
    assert (after.start, after.end) == (pytest.approx(word.end - 0.02 * last), pytest.approx(word.end))
    assert after.tight
    looked_at = correct.approve(again(spoken, tight), (0, 2))
    assert not looked_at.lines[0].words[2].tight
