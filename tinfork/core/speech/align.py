"""The exact alignment: the single best path of sound through every way the words may be said.

A Viterbi search (Viterbi 1967; Rabiner 1989) over hidden Markov states, three to a phone. No beam: every state is
kept in every frame, so a path is always found. Scores are kept at checkpoints and the back pointers recomputed one
block at a time (Grice, Hughey & Speck 1997), so memory grows with states x sqrt(frames), not states x frames.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .features import Array
from .model import STATES, AcousticModel

IMPOSSIBLE = np.float32(-1e30)
SILENCE_PENALTY = -8.0
NOISE_PENALTY = -30.0

Phones = tuple[int, ...]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Span:
    """A phone on the path: frames start (inclusive) to end (exclusive) of 10 ms. word and position: which word's
    which phone it is, or word -1 for silence and noise between words."""

    start: float
    end: float
    phone: int
    word: int
    variant: int
    position: int


@dataclass(frozen=True)
class Graph:
    """Every way the words may be said. States in topological order, three to a node.

    emit, stay: (states,); chain: log probability of coming from the state before, IMPOSSIBLE where there is none;
    joins, sources, entries: the states entered from several places, from where (padded), at what score.
    """

    emit: Ints
    stay: Array
    chain: Array
    joins: Ints
    sources: Ints
    entries: Array
    starts: Ints
    ends: Ints
    nodes: tuple[tuple[int, int, int, int], ...]


def build_graph(words: Sequence[Sequence[Phones]], model: AcousticModel) -> Graph:
    """words[i] lists the variants of word i as model phone indices. Silence or noise may stand around any word."""
    nodes: list[tuple[int, int, int, int]] = []
    arrivals: dict[int, list[tuple[int, float]]] = {}
    fillers = [(model.index("SIL"), SILENCE_PENALTY), (model.index("+NSN+"), NOISE_PENALTY)]
    exits: list[int] = []
    starts: list[int] = []

    def add_fillers() -> None:
        before = list(exits)
        for phone, penalty in fillers:
            nodes.append((phone, -1, 0, 0))
            node = len(nodes) - 1
            arrivals[node] = [(source, penalty) for source in before]
            exits.append(node)
            if not before:
                starts.append(node)

    add_fillers()
    for word, variants in enumerate(words):
        before = list(exits)
        exits = []
        for v, phones in enumerate(variants):
            first = len(nodes)
            nodes.extend((phone, word, v, k) for k, phone in enumerate(phones))
            arrivals[first] = [(source, 0.0) for source in before]
            if word == 0:
                starts.append(first)
            exits.append(len(nodes) - 1)
        add_fillers()
    return _compile(nodes, arrivals, starts, exits, model)


def _compile(
    nodes: list[tuple[int, int, int, int]],
    arrivals: dict[int, list[tuple[int, float]]],
    starts: list[int],
    exits: list[int],
    model: AcousticModel,
) -> Graph:
    phone = np.array([node[0] for node in nodes])
    emit = (phone[:, None] * STATES + np.arange(STATES)).ravel()
    leave = model.leave[phone].ravel()
    chain = np.concatenate([[IMPOSSIBLE], leave[:-1]]).astype(np.float32)
    chain[[node * STATES for node in arrivals]] = IMPOSSIBLE
    joined = [node for node, sources in arrivals.items() if sources]
    width = max((len(arrivals[node]) for node in joined), default=1)
    sources = np.zeros((len(joined), width), np.int64)
    entries = np.full((len(joined), width), IMPOSSIBLE, np.float32)
    for row, node in enumerate(joined):
        for column, (source, penalty) in enumerate(arrivals[node]):
            sources[row, column] = source * STATES + STATES - 1
            entries[row, column] = leave[sources[row, column]] + penalty
    return Graph(
        emit=emit,
        stay=model.stay[phone].ravel(),
        chain=chain,
        joins=np.array(joined, np.int64) * STATES,
        sources=sources,
        entries=entries,
        starts=np.array(starts, np.int64) * STATES,
        ends=np.array(exits, np.int64) * STATES + STATES - 1,
        nodes=tuple(nodes),
    )


def fewest_frames(words: Sequence[Sequence[Phones]]) -> int:
    """The least number of 10 ms frames the words need: three for each phone of the shortest variants."""
    return STATES * sum(min(len(v) for v in variants) for variants in words)


def best_path(scores: Array, graph: Graph) -> list[Span]:
    """The most likely path, as spans that cover every frame once in order.

    scores: (frames, model states). There must be at least fewest_frames frames; ValueError otherwise.
    """
    states = _best_states(scores, graph)
    nodes = states // STATES
    changed = np.flatnonzero(nodes[1:] != nodes[:-1]) + 1
    bounds = [0, *changed.tolist(), len(states)]
    spans = []
    for start, end in itertools.pairwise(bounds):
        phone, word, variant, position = graph.nodes[nodes[start]]
        spans.append(Span(start, end, phone, word, variant, position))
    return spans


def _best_states(scores: Array, graph: Graph) -> Ints:
    total = len(scores)
    block = max(16, math.isqrt(total))
    first = np.full(len(graph.emit), IMPOSSIBLE, np.float32)
    first[graph.starts] = 0.0
    first += scores[0, graph.emit]
    checkpoints = [first]
    for start in range(1, total, block):
        checkpoints.append(_advance(checkpoints[-1], scores[start : start + block], graph, None))
    last = checkpoints[-1][graph.ends]
    if last.max() < IMPOSSIBLE / 2:
        raise ValueError("fewer frames than states on the shortest path")
    states = np.empty(total, np.int64)
    states[-1] = graph.ends[int(last.argmax())]
    for number, start in reversed(list(enumerate(range(1, total, block)))):
        rows = scores[start : start + block]
        back = np.empty((len(rows), len(graph.emit)), np.uint8)
        _advance(checkpoints[number], rows, graph, back)
        for t in range(start + len(rows) - 1, start - 1, -1):
            states[t - 1] = _step_back(states[t], back[t - start], graph)
    return states


def _advance(score: Array, rows: Array, graph: Graph, back: NDArray[np.uint8] | None) -> Array:
    """Carry the scores through some frames; note in back where each came from: 0 stayed, 1 chain, 2+ a join."""
    arrived = np.full_like(score, IMPOSSIBLE)
    joins, every = graph.joins, np.arange(len(graph.joins))
    for t, row in enumerate(rows):
        offered = score[graph.sources] + graph.entries
        choice = offered.argmax(axis=1)
        best = offered[every, choice]
        np.add(score[:-1], graph.chain[1:], out=arrived[1:])
        score = score + graph.stay
        if back is not None:
            back[t] = arrived > score
        np.maximum(score, arrived, out=score)
        entering = best > score[joins]
        where = joins[entering]
        score[where] = best[entering]
        if back is not None:
            back[t, where] = choice[entering] + 2
        score += row[graph.emit]
    return score


def _step_back(state: int, back: NDArray[np.uint8], graph: Graph) -> int:
    code = int(back[state])
    if code < 2:
        return state - code
    row = int(np.searchsorted(graph.joins, state))
    return int(graph.sources[row, code - 2])
