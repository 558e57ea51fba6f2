import numpy as np
import pytest

from tinfork.core.speech import refine

SIZE = refine.described(np.zeros((9, 8)), np.zeros(1), np.zeros(1, int), np.zeros(1, int)).shape[1]


@pytest.mark.parametrize("asked, allowed", [(5.0, 0.03), (-5.0, -0.03), (0.012, 0.012)])
def test_a_boundary_is_moved_thirty_milliseconds_a_round_at_the_most(asked, allowed):
    """A map that asks for the same of every boundary: its weights of pairs of kinds are all that."""
    always = np.zeros(SIZE)
    always[: refine.KINDS**2] = asked
    energy, kinds = np.zeros((400, 8)), np.array([3, 6])
    once = refine.moved(energy, np.array([0.5, 1.0]), kinds, kinds[::-1], always[None])
    twice = refine.moved(energy, np.array([0.5, 1.0]), kinds, kinds[::-1], np.stack([always, always]))
    np.testing.assert_allclose(once, [0.5 + allowed, 1.0 + allowed])
    np.testing.assert_allclose(twice, [0.5 + 2 * allowed, 1.0 + 2 * allowed])
