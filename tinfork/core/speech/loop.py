"""Sounds without words: the best path through a free loop of all phones (a Viterbi search, as in align)."""

import numpy as np
from numpy.typing import NDArray

from .align import Span
from .features import Array
from .model import STATES, AcousticModel

_NEW_PHONE = -14.0
_NEW_SILENCE = -6.0


def best_loop(scores: Array, acoustic: AcousticModel) -> list[Span]:
    """Spans that cover every frame once, each a phone of the model; scores: (frames, model states)."""
    came_from = _search(scores, acoustic)
    state = came_from[1]
    origins = came_from[0]
    spans: list[Span] = []
    end = len(scores)
    for t in range(len(scores) - 1, -1, -1):
        before = int(origins[t, state])
        entered = state % STATES == 0 and before != state
        if t == 0 or entered:
            spans.append(Span(t, end, state // STATES, -1, 0, 0))
            end = t
        state = before
    return spans[::-1]


def _search(scores: Array, acoustic: AcousticModel) -> tuple[NDArray[np.int16], int]:
    """For each frame and state the state before it, and the last state of the best path."""
    stay, leave = acoustic.stay.ravel(), acoustic.leave.ravel()
    entries = np.arange(0, len(stay), STATES)
    exits = entries + STATES - 1
    penalty = np.full(len(entries), _NEW_PHONE, np.float32)
    penalty[acoustic.index("SIL")] = _NEW_SILENCE
    known = np.arange(len(stay), dtype=np.int16)
    origins = np.empty((len(scores), len(stay)), np.int16)
    score = np.full(len(stay), -1e30, np.float32)
    score[entries] = penalty + scores[0, entries]
    origins[0] = known
    for t in range(1, len(scores)):
        staying = score + stay
        arriving = np.concatenate([[-1e30], score[:-1] + leave[:-1]]).astype(np.float32)
        origin = np.concatenate([[0], known[:-1]])
        offers = score[exits] + leave[exits]
        best = int(offers.argmax())
        arriving[entries] = offers[best] + penalty
        origin[entries] = exits[best]
        moved = arriving > staying
        origins[t] = np.where(moved, origin, known)
        score = np.where(moved, arriving, staying) + scores[t]
    return origins, int(exits[score[exits].argmax()])
