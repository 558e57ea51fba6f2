"""What is left of a sound beside a seam that a person set."""

import pytest

from tinfork.core.speech.room import needed, with_room

NEEDS = [0.0, 0.03, 0.04, 0.03, 0.0]  # a pause, three sounds, a pause


def room(edges, held, needs=NEEDS):
    return with_room(edges, [at in held for at in range(len(edges))], needs)


def test_a_vowel_needs_four_hundredths_of_a_second_and_another_sound_three():
    assert [needed(ipa) for ipa in ("ɑ", "oʊ", "t", "m", "s")] == [0.04, 0.04, 0.03, 0.03, 0.03]


@pytest.mark.parametrize(("seam", "second"), [(0.42, 0.39), (0.46, 0.43), (0.5, 0.46)])
def test_a_sound_before_a_held_seam_takes_what_it_needs_from_those_before_it(seam, second):
    """The third sound ends on the seam; the one before gives way, and is as long as it needs."""
    found = room([0.0, 0.3, 0.34, 0.46, seam, 1.0], {0, 4, 5})
    assert found[3] == pytest.approx(second)
    assert found[4] == seam
    assert all(b - a >= need - 1e-9 for a, b, need in zip(found, found[1:], NEEDS, strict=False))


def test_a_sound_behind_a_held_seam_takes_from_those_after_it():
    found = room([0.0, 0.3, 0.305, 0.31, 0.5, 1.0], {0, 1, 5})
    assert found == pytest.approx([0.0, 0.3, 0.33, 0.37, 0.5, 1.0])


def test_between_two_held_seams_with_too_little_room_all_stays():
    edges = [0.0, 0.3, 0.32, 0.35, 0.399, 1.0]
    assert room(edges, {0, 1, 4, 5}) == edges
    assert room([0.0, 0.3, 0.31, 0.35, 0.4, 1.0], {0, 1, 4, 5}) == pytest.approx([0.0, 0.3, 0.33, 0.37, 0.4, 1.0])


def test_what_has_room_enough_stays_exactly():
    edges = [0.0, 0.3, 0.4, 0.5, 0.6, 1.0]
    assert room(edges, {0, 3, 5}) == edges
