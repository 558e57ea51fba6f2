import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tinfork.core.sound import features
from tinfork.core.speech import align, model

ACOUSTIC = model.load()
PHONES = [ACOUSTIC.index(name) for name in ("F", "AA", "G", "S")]


def random_scores(frames, seed):
    return np.random.default_rng(seed).normal(-50, 20, (frames, len(ACOUSTIC.phones) * 3)).astype(np.float32)


def path_score(states, graph, scores):
    """Log likelihood of a state sequence, or None when it is no path."""
    if states[0] not in graph.starts or states[-1] not in graph.ends:
        return None
    total = 0.0
    for t, state in enumerate(states):
        total += scores[t, graph.emit[state]]
        if t == 0:
            continue
        before = states[t - 1]
        ways = []
        if state == before:
            ways.append(graph.stay[state])
        if state == before + 1 and graph.chain[state] > align.IMPOSSIBLE / 2:
            ways.append(graph.chain[state])
        for row in np.flatnonzero(graph.joins == state):
            gate = graph.gate_of[row]
            known = graph.way_scores[:, gate] > align.IMPOSSIBLE / 2
            for source, score in zip(graph.ways[known, gate], graph.way_scores[known, gate], strict=True):
                if source == before:
                    ways.append(score + graph.penalty[row])
        if not ways:
            return None
        total += max(ways)
    return total


@pytest.mark.parametrize("seed", range(5))
def test_the_path_is_the_best_of_all_paths(seed):
    graph = align.build_graph([[(PHONES[0],), (PHONES[1],)]], ACOUSTIC)
    scores = random_scores(4, seed)
    every = itertools.product(range(len(graph.emit)), repeat=4)
    best = max(s for s in (path_score(states, graph, scores) for states in every) if s is not None)
    found = path_score(align._best_states(scores, graph, None), graph, scores)
    assert found == pytest.approx(best, rel=1e-5)


words = st.lists(
    st.lists(st.lists(st.sampled_from(PHONES), min_size=1, max_size=4).map(tuple), min_size=1, max_size=3),
    min_size=1,
    max_size=6,
)


@settings(max_examples=60, deadline=None)
@given(words, st.integers(0, 300), st.integers(0, 99))
def test_alignment_is_total_and_monotone(spoken, spare, seed):
    frames = align.fewest_frames(spoken) + spare
    path = align.best_path(random_scores(frames, seed), align.build_graph(spoken, ACOUSTIC))
    assert path[0].start == 0
    assert path[-1].end == frames
    assert all(a.end == b.start for a, b in itertools.pairwise(path))
    said = [(s.word, s.variant, s.position, s.phone) for s in path if s.word >= 0]
    variant = {word: v for word, v, _, _ in said}
    assert said == [(w, variant[w], k, p) for w in range(len(spoken)) for k, p in enumerate(spoken[w][variant[w]])]


@pytest.mark.parametrize("seed", range(5))
def test_the_coarse_search_finds_the_path_the_exact_one_finds(seed):
    spoken = [[tuple(PHONES[:3])], [tuple(PHONES[1:])], [(PHONES[0],)]]
    graph = align.build_graph(spoken, ACOUSTIC, states=1)
    scores = np.random.default_rng(seed).normal(-50, 20, (80, len(ACOUSTIC.phones))).astype(np.float32)
    exact = align._best_states(scores, graph, None)
    coarse = align._coarse_states(scores, graph, None)
    assert path_score(coarse, graph, scores) == pytest.approx(path_score(exact, graph, scores), rel=1e-5)


def test_too_few_frames_are_an_error_not_a_wrong_path():
    with pytest.raises(ValueError, match="fewer frames"):
        align.best_path(random_scores(5, 1), align.build_graph([[tuple(PHONES)]], ACOUSTIC))


@given(st.integers(1, 5000))
@settings(max_examples=20, deadline=None)
def test_features_cover_any_sound(count):
    static = features.cepstra(np.zeros(count, np.float32))
    assert static.shape == (features.frame_total(count), 13)
    assert np.isfinite(features.with_differences(static)).all()


def test_scores_are_finite_on_any_features():
    wild = np.random.default_rng(1).normal(0, 500, (20, 3, 13)).astype(np.float32)
    assert np.isfinite(ACOUSTIC.scores(wild)).all()
