import numpy as np
import pytest

from bench import rooms, truth
from bench.alignment import WINDOW, measure, own_pronunciation
from tinfork.core.speech import model, refine

ACOUSTIC = model.load()
EDGES = np.array([0.0, 0.5, 1.0, 1.5])
PHONES = np.array([3, 6, 9])
ENERGY = np.zeros((400, 8))
SEEN = refine.described(ENERGY, EDGES, PHONES, ACOUSTIC)


def asking(seconds):
    """A network that asks for the same of every boundary, whatever it sees."""
    return [
        np.zeros((SEEN.shape[1], 4)),
        np.zeros(4),
        np.zeros((4, 2)),
        np.zeros(2),
        np.zeros((2, 1)),
        np.array([seconds / refine.OUT_SCALE]),
    ]


@pytest.mark.parametrize("asked, allowed", [(5.0, 0.06), (-5.0, -0.06), (0.012, 0.012)])
def test_a_boundary_is_moved_sixty_milliseconds_a_round_at_the_most(asked, allowed):
    once, twice = (refine.moved(ENERGY, EDGES, PHONES, ACOUSTIC, [asking(asked)] * rounds) for rounds in (1, 2))
    np.testing.assert_allclose(once, EDGES + allowed * np.array([0, 1, 1, 0]))
    np.testing.assert_allclose(twice, EDGES + 2 * allowed * np.array([0, 1, 1, 0]))


def test_what_is_seen_of_a_boundary_is_which_phones_and_how_long_they_last():
    longer = refine.described(ENERGY, np.array([0.0, 0.5, 1.2, 1.5]), PHONES, ACOUSTIC)
    other = refine.described(ENERGY, EDGES, np.array([3, 7, 9]), ACOUSTIC)
    assert not np.array_equal(SEEN, longer)
    assert (other != SEEN).sum() == 4
    added = np.array([3, len(ACOUSTIC.phones), 9])
    silent = np.array([3, ACOUSTIC.index("SIL"), 9])
    np.testing.assert_array_equal(
        refine.described(ENERGY, EDGES, added, ACOUSTIC), refine.described(ENERGY, EDGES, silent, ACOUSTIC)
    )


@pytest.mark.parametrize("way, mean, share", [("plain", 7, 99), ("room", 12, 95), ("saturated", 10, 97)])
def test_sentences_that_were_not_fitted_on_are_read_to_some_milliseconds(way, mean, share):
    """Told of 140 by bench/rooms.py: plain 4.8 ms, in a room 8.5, saturated 5.0."""
    own = list(rooms.lines(rooms.TEST + 1, 14))
    heard = [rooms.ways(own)[way](line, np.random.default_rng(number)) for number, line in enumerate(own)]
    tally = measure(heard, own_pronunciation)
    off = np.abs(np.array(tally.true) - tally.found)
    assert 1000 * off.mean() < mean
    assert 100 * (off <= WINDOW).mean() > share


def test_both_synthesisers_agree_on_where_sounds_begin():
    """A network that leans to one of them puts the other's boundaries to one side."""
    for voice in (truth.FLITE_VOICES[0], rooms.ESPEAK_VOICES[0]):
        tally = measure(list(rooms.lines(rooms.TEST + 2, 6, (voice,))), own_pronunciation)
        assert abs(np.median(np.array(tally.found) - tally.true)) < 0.004
