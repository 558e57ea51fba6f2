"""Sounds without words: the best path through a free loop of all phones (a Viterbi search, as in align).

In English a phone is the likelier the oftener it comes after the two before it: the phone model that comes with the
recogniser library says how often.
"""

import functools
import itertools
from dataclasses import replace

import numpy as np
import pocketsphinx
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from ..sound.features import Singles
from .align import IMPOSSIBLE, Span
from .model import STATES, AcousticModel

_NEW_PHONE = -14.0
_NEW_SILENCE = -6.0
_ENGLISH_WEIGHT, _NEW_ENGLISH, _NEW_ENGLISH_SILENCE = 4.0, -2.0, -8.0

_LEAST_PIECE, _MOST_PIECE, _PAUSE = 1000, 2000, 9


def best_loop(scores: Singles, acoustic: AcousticModel) -> list[Span]:
    """Return spans that cover every frame once, each a phone of the model; scores: (frames, model states)."""
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


def _search(scores: Singles, acoustic: AcousticModel) -> tuple[NDArray[np.int16], int]:
    """For each frame and state the state before it, and the last state of the best path."""
    stay, leave = acoustic.stay.ravel(), acoustic.leave.ravel()
    entries = np.arange(0, len(stay), STATES)
    exits = entries + STATES - 1
    penalty = np.full(len(entries), _NEW_PHONE, np.float32)
    penalty[acoustic.index("SIL")] = _NEW_SILENCE
    known = np.arange(len(stay), dtype=np.int16)
    origins = np.empty((len(scores), len(stay)), np.int16)
    score = np.full(len(stay), IMPOSSIBLE, np.float32)
    score[entries] = penalty + scores[0, entries]
    origins[0] = known
    for t in range(1, len(scores)):
        staying = score + stay
        arriving = np.concatenate([[IMPOSSIBLE], score[:-1] + leave[:-1]]).astype(np.float32)
        origin = np.concatenate([[0], known[:-1]])
        offers = score[exits] + leave[exits]
        best = int(offers.argmax())
        arriving[entries] = offers[best] + penalty
        origin[entries] = exits[best]
        moved = arriving > staying
        origins[t] = np.where(moved, origin, known)
        score = np.where(moved, arriving, staying) + scores[t]
    return origins, int(exits[score[exits].argmax()])


def best_english(scores: Singles, acoustic: AcousticModel) -> list[Span]:
    """Return the same for English, in pieces of about half a minute, each parted where silence is likeliest."""
    silence = scores[:, acoustic.index("SIL") * STATES] - scores.max(axis=1)
    quiet = uniform_filter1d(silence, _PAUSE)
    bounds = [0]
    while len(scores) - bounds[-1] > _MOST_PIECE:
        first = bounds[-1] + _LEAST_PIECE
        bounds.append(first + int(quiet[first : bounds[-1] + _MOST_PIECE].argmax()))
    return [
        replace(span, start=span.start + begin, end=span.end + begin)
        for begin, end in itertools.pairwise([*bounds, len(scores)])
        for span in _best_pairs(scores[begin:end], acoustic)
    ]


def _best_pairs(scores: Singles, acoustic: AcousticModel) -> list[Span]:
    """A search whose states are all pairs of phones, a phone and the one before it. All its scores are held at once, 19
    kB for each frame."""
    rows, silence, after = _english(acoustic.phones)
    stay, leave = acoustic.stay[rows], acoustic.leave[rows]
    heard = scores.reshape(len(scores), -1, STATES)[:, rows]
    history = np.empty((len(scores), *after.shape[:2], STATES), np.float32)
    history[0] = IMPOSSIBLE
    history[0, silence, :, 0] = after[silence, silence] + heard[0, :, 0]
    history[0, silence, silence, 0] = heard[0, silence, 0]
    offers = np.empty_like(after)
    for t in range(1, len(scores)):
        before, now = history[t - 1], history[t]
        np.add((before[:, :, -1] + leave[:, -1])[:, :, None], after, out=offers)
        np.add(before, stay, out=now)
        np.maximum(now[:, :, 1:], before[:, :, :-1] + leave[:, :-1], out=now[:, :, 1:])
        np.maximum(now[:, :, 0], offers.max(axis=0), out=now[:, :, 0])
        now += heard[t]
    return _traced(history, after, stay, leave, rows)


def _traced(history: Singles, after: Singles, stay: Singles, leave: Singles, rows: list[int]) -> list[Span]:
    """The best path backwards through the scores of all pairs on all frames."""
    last = history[-1, :, :, -1]
    one, two = (int(place) for place in np.unravel_index(int(last.argmax()), last.shape))
    state, end, spans = STATES - 1, len(history), []
    for t in range(len(history) - 1, 0, -1):
        before = history[t - 1]
        stayed = before[one, two, state] + stay[two, state]
        if state > 0:
            state -= int(before[one, two, state - 1] + leave[two, state - 1] > stayed)
            continue
        offers = before[:, one, -1] + leave[one, -1] + after[:, one, two]
        earlier = int(offers.argmax())
        if offers[earlier] > stayed:
            spans.append(Span(t, end, rows[two], -1, 0, 0))
            one, two, state, end = earlier, one, STATES - 1, t
    return [Span(0, end, rows[two], -1, 0, 0), *spans[::-1]]


@functools.cache
def _english(phones: tuple[str, ...]) -> tuple[list[int], int, Singles]:
    """The rows of the phones that English has, which of them is silence, and how likely each is after two others."""
    names = [name for name in phones if name.isalpha()]
    logs = pocketsphinx.LogMath()
    path = pocketsphinx.get_model_path("en-us/en-us-phone.lm.bin")
    model = pocketsphinx.NGramModel(pocketsphinx.Config(), logs, path)
    likely = [[[logs.log_to_ln(model.prob([c, b, a])) for c in names] for b in names] for a in names]
    after = np.array(likely, np.float32) * np.float32(_ENGLISH_WEIGHT) + np.float32(_NEW_ENGLISH)
    silence = names.index("SIL")
    after[:, :, silence] += _NEW_ENGLISH_SILENCE - _NEW_ENGLISH
    after[:, silence, silence] = IMPOSSIBLE
    return [phones.index(name) for name in names], silence, after
