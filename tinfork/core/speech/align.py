"""The exact alignment: the single best path of sound through every way the words may be said.

A Viterbi search (Viterbi 1967; Rabiner 1989) over hidden Markov states, three to a phone. No beam: every state is
kept in every frame, so a path is always found. In a long search scores are kept at checkpoints and computed again one
block at a time (Grice, Hughey & Speck 1997), so memory grows with states x sqrt(frames), not states x frames.
"""

import itertools
import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..sound.features import Singles
from .model import STATES, AcousticModel

IMPOSSIBLE = np.float32(-1e30)
SILENCE_PENALTY = -8.0
NOISE_PENALTY = -30.0
_SPEECH_STAY, _UNSAID_STAY = -0.1, -0.7
_COARSE_STAY, _COARSE_LEAVE = -0.6, -0.8
_SPEECHES = 2
_HELD_AT_ONCE = 16_000_000
_PREPARED = 128

Phones = tuple[int, ...]
Ints = NDArray[np.int64]
Progress = Callable[[float], None]
Bias = Callable[[int], Singles]
"""For a frame of 10 ms, what each group of words loses or gains there; the last group is silence between words."""


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
    """Every way the words may be said. States in topological order, as many to a node as states says.

    emit, stay: (states,); chain: log probability of coming from the state before, IMPOSSIBLE where there is none.
    A gate stands before and after the silence of each seam: ways and way_scores: (widest, gates), the states that lead
    to it and what leaving them costs; joins, gate_of, penalty: the states entered through a gate, which one, at what
    cost. start_scores: what beginning in each of the starts costs.
    """

    emit: Ints
    stay: Singles
    chain: Singles
    ways: Ints
    way_scores: Singles
    joins: Ints
    gate_of: Ints
    penalty: Singles
    starts: Ints
    start_scores: Singles
    ends: Ints
    nodes: tuple[tuple[int, int, int, int], ...]
    states: int


class _Builder:
    """Nodes laid down from left to right, each entered from the start of the sound or through a gate."""

    def __init__(self) -> None:
        self.nodes: list[tuple[int, int, int, int]] = []
        self.gates: list[tuple[int, ...]] = []
        self.joins: list[tuple[int, int, float]] = []
        self.starts: list[tuple[int, float]] = []

    def chain(self, first_of_sound: bool, nodes: Iterable[tuple[int, int, int, int]], penalty: float = 0.0) -> int:
        """Return nodes one after the other, the first entered through the newest gate; returns the last."""
        first = len(self.nodes)
        self.nodes.extend(nodes)
        if self.gates:
            self.joins.append((first, len(self.gates) - 1, penalty))
        if first_of_sound:
            self.starts.append((first, penalty))
        return len(self.nodes) - 1


@dataclass(frozen=True)
class Freedom:
    """What a path may do besides saying its words. lead, trail: whether silence may come first and last; unsaid: for
    each word what leaving it out costs, None where it may not be, or nothing at all; speech: what it costs to hear
    speech that is not written, None where that may not be. Scores then have the columns of SPEECH and UNSAID too."""

    lead: bool = True
    trail: bool = True
    unsaid: Sequence[float | None] = ()
    speech: float | None = None


STRICT = Freedom()


def speech_phone(model: AcousticModel) -> int:
    """Return the phone that stands for any speech, after the model's own."""
    return len(model.phones)


def unsaid_phone(model: AcousticModel) -> int:
    """Return the phone that stands for a word left out: whatever is heard in its place, for a moment."""
    return len(model.phones) + 1


def build_graph(
    words: Sequence[Sequence[Phones]], model: AcousticModel, freedom: Freedom = STRICT, states: int = STATES
) -> Graph:
    """words[i] lists the variants of word i as model phone indices. Silence or noise may stand around any word.

    states: to a phone; 1 for a coarse search over scores that have one column a phone, without noise between words.
    """
    built = _Builder()
    exits = _between(built, [], model, freedom, states) if freedom.lead else []
    for word, variants in enumerate(words):
        if exits:
            built.gates.append(tuple(exits))
        exits = [
            built.chain(word == 0, [(phone, word, v, k) for k, phone in enumerate(phones)])
            for v, phones in enumerate(variants)
        ]
        if freedom.unsaid and freedom.unsaid[word] is not None:
            exits.append(built.chain(word == 0, [(unsaid_phone(model), word, 0, 0)], float(freedom.unsaid[word] or 0)))
        if word < len(words) - 1 or freedom.trail:
            exits += _between(built, exits, model, freedom, states)
    return _compile(built, exits, model, states)


def _between(built: _Builder, exits: Sequence[int], model: AcousticModel, freedom: Freedom, states: int) -> list[int]:
    """What may stand between words, entered from the exits of one, or at the start of the sound where there are none:
    silence or noise, and speech that is not written, once or twice, with silence around it. The exits of all that."""
    first = not exits
    if exits:
        built.gates.append(tuple(exits))
    silence = [built.chain(first, [(model.index("SIL"), -1, 0, 0)], 0.0 if first else SILENCE_PENALTY)]
    if states > 1:
        silence.append(built.chain(first, [(model.index("+NSN+"), -1, 0, 0)], 0.0 if first else NOISE_PENALTY))
    if freedom.speech is None:
        return silence
    found = silence
    for _ in range(_SPEECHES):
        built.gates.append((*exits, *found))
        speech = built.chain(first, [(speech_phone(model), -1, 0, 0)], freedom.speech)
        built.gates.append((speech,))
        found = [*found, speech, built.chain(False, [(model.index("SIL"), -1, 0, 0)], SILENCE_PENALTY)]
    return found


def _moves(model: AcousticModel, states: int) -> tuple[Singles, Singles]:
    """Log probabilities of staying in and leaving each state, with those of the two phones added to the model's."""
    if states == 1:
        size = (len(model.phones) + 2, 1)
        return np.full(size, _COARSE_STAY, np.float32), np.full(size, _COARSE_LEAVE, np.float32)
    added = np.array([[_SPEECH_STAY], [_UNSAID_STAY]], np.float32).repeat(states, axis=1)
    return np.concatenate([model.stay, added]), np.concatenate([model.leave, np.log(1 - np.exp(added))])


def _compile(built: _Builder, exits: list[int], model: AcousticModel, states: int) -> Graph:
    phone = np.array([node[0] for node in built.nodes])
    stay, leave = (moves[phone].ravel() for moves in _moves(model, states))
    chain = np.concatenate([[IMPOSSIBLE], leave[:-1]]).astype(np.float32)
    joins = np.array([node for node, _, _ in built.joins], np.int64)
    chain[joins * states] = IMPOSSIBLE
    starts = np.array([node for node, _ in built.starts], np.int64)
    chain[starts * states] = IMPOSSIBLE
    widest = max((len(gate) for gate in built.gates), default=1)
    ways = np.zeros((widest, len(built.gates)), np.int64)
    way_scores = np.full(ways.shape, IMPOSSIBLE, np.float32)
    for column, gate in enumerate(built.gates):
        ways[: len(gate), column] = [node * states + states - 1 for node in gate]
        way_scores[: len(gate), column] = leave[ways[: len(gate), column]]
    return Graph(
        emit=(phone[:, None] * states + np.arange(states)).ravel(),
        stay=stay,
        chain=chain,
        ways=ways,
        way_scores=way_scores,
        joins=joins * states,
        gate_of=np.array([gate for _, gate, _ in built.joins], np.int64),
        penalty=np.array([penalty for _, _, penalty in built.joins], np.float32),
        starts=starts * states,
        start_scores=np.array([penalty for _, penalty in built.starts], np.float32),
        ends=np.array(exits, np.int64) * states + states - 1,
        nodes=tuple(built.nodes),
        states=states,
    )


def fewest_frames(words: Sequence[Sequence[Phones]]) -> int:
    """Return the least number of 10 ms frames the words need: three for each phone of the shortest variants."""
    return STATES * sum(min(len(v) for v in variants) for variants in words)


def best_path(
    scores: Singles,
    graph: Graph,
    bias: Bias | None = None,
    group_of: Sequence[int] = (),
    progress: Progress = lambda share: None,
) -> list[Span]:
    """Return the most likely path, as spans that cover every frame once in order.

    scores: (frames, model states). There must be at least fewest_frames frames; ValueError otherwise.
    bias: what is known beforehand of where words may lie; group_of: for each word which of its groups it is in.
    """
    search = _coarse_states if graph.states == 1 else _best_states
    states = search(scores, graph, _per_state(bias, group_of, graph), progress)
    nodes = states // graph.states
    changed = np.flatnonzero(nodes[1:] != nodes[:-1]) + 1
    bounds = [0, *changed.tolist(), len(states)]
    spans = []
    for start, end in itertools.pairwise(bounds):
        phone, word, variant, position = graph.nodes[nodes[start]]
        spans.append(Span(start, end, phone, word, variant, position))
    return spans


def _per_state(bias: Bias | None, group_of: Sequence[int], graph: Graph) -> Bias | None:
    """The bias of groups as one of states."""
    if bias is None:
        return None
    groups = np.repeat([group_of[word] if word >= 0 else -1 for _, word, _, _ in graph.nodes], graph.states)
    return lambda t: np.asarray(bias(t)[groups])


def _best_states(scores: Singles, graph: Graph, bias: Bias | None, progress: Progress = lambda share: None) -> Ints:
    total = len(scores)
    first = np.full(len(graph.emit), IMPOSSIBLE, np.float32)
    first[graph.starts] = graph.start_scores
    first += scores[0, graph.emit]
    if bias is not None:
        first += bias(0)
    at_once = total * len(graph.emit) <= _HELD_AT_ONCE
    block = total if at_once else max(16, math.isqrt(total))
    checkpoints = [first]
    held = np.empty((0, len(graph.emit)), np.float32)
    for start in range(1, total, block):
        rows = scores[start : start + block]
        if at_once:
            held = np.empty((len(rows) + 1, len(graph.emit)), np.float32)
            held[0] = first
        checkpoints.append(_advance(checkpoints[-1], rows, graph, bias, start, held[1:] if at_once else None))
        progress(start / total / 2)
    last = checkpoints[-1][graph.ends]
    if last.max() < IMPOSSIBLE / 2:
        raise ValueError("fewer frames than states on the shortest path")
    states = np.empty(total, np.int64)
    states[-1] = graph.ends[int(last.argmax())]
    gate_of = dict(zip(graph.joins.tolist(), zip(graph.gate_of, graph.penalty, strict=True), strict=True))
    for number, start in reversed(list(enumerate(range(1, total, block)))):
        rows = scores[start : start + block]
        history = held
        if not at_once:
            history = np.empty((len(rows), len(graph.emit)), np.float32)
            history[0] = checkpoints[number]
            _advance(checkpoints[number], rows[:-1], graph, bias, start, history[1:])
        progress(1 - start / total / 2)
        for t in range(start + len(rows) - 1, start - 1, -1):
            states[t - 1] = _before(int(states[t]), history[t - start], graph, gate_of)
    return states


def _coarse_states(scores: Singles, graph: Graph, bias: Bias | None, progress: Progress = lambda share: None) -> Ints:
    """As _best_states, for graphs with no more than two ways to any gate: every decision is kept, in one bit."""
    total, size = len(scores), len(graph.emit)
    score = np.full(size, IMPOSSIBLE, np.float32)
    score[graph.starts] = graph.start_scores
    score += scores[0, graph.emit]
    score += 0.0 if bias is None else bias(0)
    ways = np.vstack([graph.ways, graph.ways])[:2]
    way_scores = np.vstack([graph.way_scores, np.full_like(graph.way_scores, IMPOSSIBLE)])[:2]
    moved = np.zeros((total, -(-size // 8)), np.uint8)
    second = np.zeros((total, -(-ways.shape[1] // 8)), np.uint8)
    arrived = np.full_like(score, IMPOSSIBLE)
    for t in range(1, total):
        offers = score.take(ways) + way_scores
        second[t] = np.packbits(offers[1] > offers[0])
        np.add(score[:-1], graph.chain[1:], out=arrived[1:])
        arrived[graph.joins] = np.maximum(offers[0], offers[1])[graph.gate_of] + graph.penalty
        score += graph.stay
        moved[t] = np.packbits(arrived > score)
        np.maximum(score, arrived, out=score)
        score += scores[t].take(graph.emit)
        if bias is not None:
            score += bias(t)
        progress(t / total)
    if score[graph.ends].max() < IMPOSSIBLE / 2:
        raise ValueError("fewer frames than states on the shortest path")
    gate_of = dict(zip(graph.joins.tolist(), graph.gate_of.tolist(), strict=True))
    states = np.empty(total, np.int64)
    state = int(graph.ends[int(score[graph.ends].argmax())])
    for t in range(total - 1, -1, -1):
        states[t] = state
        if moved[t, state >> 3] >> (7 - (state & 7)) & 1:
            gate = gate_of.get(state)
            if gate is None:
                state -= 1
            else:
                state = int(ways[second[t, gate >> 3] >> (7 - (gate & 7)) & 1, gate])
    return states


def _advance(
    score: Singles, rows: Singles, graph: Graph, bias: Bias | None, start: int, history: Singles | None = None
) -> Singles:
    """Carry the scores through the frames from start on; keep those after each frame in history where it is given."""
    arrived = np.full_like(score, IMPOSSIBLE)
    offers = np.empty_like(graph.way_scores)
    best = np.empty(offers.shape[1], np.float32)
    entering = np.empty(len(graph.joins), np.float32)
    chained, chain = arrived[1:], graph.chain[1:]
    score = score.copy()
    for first in range(0, len(rows), _PREPARED):
        emitted = rows[first : first + _PREPARED].take(graph.emit, axis=1)
        for t, heard in enumerate(emitted, first):
            score.take(graph.ways, out=offers, mode="clip")
            np.add(offers, graph.way_scores, out=offers)
            np.maximum.reduce(offers, axis=0, out=best)
            best.take(graph.gate_of, out=entering, mode="clip")
            np.add(entering, graph.penalty, out=entering)
            np.add(score[:-1], chain, out=chained)
            arrived[graph.joins] = entering
            np.add(score, graph.stay, out=score)
            np.maximum(score, arrived, out=score)
            np.add(score, heard, out=score)
            if bias is not None:
                score += bias(start + t)
            if history is not None:
                history[t] = score
    return score


def _before(state: int, score: Singles, graph: Graph, gate_of: dict[int, tuple[int, float]]) -> int:
    """The state the best path was in a frame earlier, when it is now in this state; score: a frame earlier."""
    stayed = score[state] + graph.stay[state]
    if state not in gate_of:
        return state - 1 if score[state - 1] + graph.chain[state] > stayed else state
    gate, penalty = gate_of[state]
    offers = score[graph.ways[:, gate]] + graph.way_scores[:, gate]
    best = int(offers.argmax())
    return int(graph.ways[best, gate]) if offers[best] + penalty > stayed else state
