"""The cheapest way through frames x drawings, found exactly by dynamic programming.

A state is a frame, a drawing, how many frames it must still be held, and how many of the events in reach are settled
(seen, or missed at their price). Events are settled in their order. Many stretches are searched side by side, one frame
of each at a time.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .events import Event

_MANY = 8
"""Fewer stretches than this are searched side by side whatever their lengths: a frame costs most by being looked at."""

_AT_ONCE = 4_000_000
"""States that are searched side by side at the most, so that memory stays bounded."""

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class Stretch:
    """Some frames to be planned together.

    cost: (frames, drawings) of showing each drawing on each frame. change: (frames,) cost of a new drawing there,
    infinite where none may begin. hold: (frames,) least frames of a drawing that begins there. entry, leaving:
    (drawings,) extra cost of being first and last. events: in order, their frames counted from the stretch's first.
    """

    cost: Array
    change: Array
    hold: Ints
    entry: Array
    leaving: Array
    events: tuple[Event, ...] = ()


def cheapest(stretches: Sequence[Stretch]) -> list[Ints]:
    """For each stretch the drawing on each frame, numbers of (frames,). All have the same drawings. A stretch shorter
    than its hold is one run."""
    shown: list[Ints] = [np.empty(0, np.int64)] * len(stretches)
    for numbers in _batches(stretches):
        found = _Search([stretches[number] for number in numbers]).shown()
        for number, row in zip(numbers, found, strict=True):
            shown[number] = row[: len(stretches[number].cost)]
    return shown


def _batches(stretches: Sequence[Stretch]) -> Iterator[list[int]]:
    """The numbers of the stretches in groups of like length that fit in memory."""
    order = sorted(range(len(stretches)), key=lambda number: len(stretches[number].cost))
    batch: list[int] = []
    for number in order:
        frames, drawings = stretches[number].cost.shape
        states = frames * drawings * int(stretches[number].hold.max(initial=1)) * 4
        longer = len(batch) >= _MANY and frames > 2 * len(stretches[batch[0]].cost)
        if longer or (batch and (len(batch) + 1) * states > _AT_ONCE):
            yield batch
            batch = []
        batch.append(number)
    if batch:
        yield batch


class _Search:
    """state[p, j, r, d]: in stretch p, least cost so far with j events in reach settled, r frames of drawing d still to
    be held. A shorter stretch goes on past its end at no cost, with nothing new allowed."""

    def __init__(self, stretches: Sequence[Stretch]) -> None:
        self._stretches = stretches
        self._frames = max(len(s.cost) for s in stretches)
        drawings = stretches[0].cost.shape[1]
        pieces = len(stretches)
        self._piece = np.arange(pieces)
        reach = [_in_reach(s.events, self._frames) for s in stretches]
        self._settled = np.array([settled for settled, _ in reach])
        width = 1 + max(int((begun - settled).max(initial=0)) for settled, begun in reach)
        self._cost = np.zeros((self._frames, pieces, 1, 1, drawings))
        self._change = np.full((self._frames, pieces, 1, 1), np.inf)
        self._layer = np.zeros((self._frames, pieces), np.int64)
        for p, s in enumerate(stretches):
            frames = len(s.cost)
            hold = np.minimum(s.hold, frames - np.arange(frames))
            self._cost[:frames, p, 0, 0] = s.cost
            self._change[:frames, p, 0, 0] = np.where(hold == s.hold, s.change, np.inf)
            self._layer[:frames, p] = hold - 1
        layers = int(self._layer.max(initial=0)) + 1
        self._open: list[int] = np.max([begun - settled for settled, begun in reach], axis=0).tolist()
        self._gone: Ints = np.diff(self._settled, axis=1, prepend=0).T
        self._any_gone: list[bool] = [bool(one.any()) for one in self._gone]
        self._prices = self._price_table(width, drawings)
        self._state = np.full((pieces, width, layers, drawings), np.inf)
        self._one_layer = [int(one[0]) if (one == one[0]).all() else None for one in self._layer]
        record = (self._frames, pieces, width, drawings)
        self._stayed, self._started = np.ones(record, bool), np.zeros(record, bool)
        self._origin = np.zeros(record[:3], np.int64)
        self._seen = np.zeros((self._frames, pieces, width, layers, drawings), bool)

    def _price_table(self, width: int, drawings: int) -> Array:
        """(frames, stretches, rows, drawings): what it costs to settle the event of a row by the drawing shown."""
        table = np.full((self._frames, len(self._stretches), width - 1, 1, drawings), np.inf)
        for p, stretch in enumerate(self._stretches):
            over, begun = _bounds(stretch.events)
            for number, event in enumerate(stretch.events):
                frames = np.arange(begun[number], min(over[number] + 1, self._frames))
                rows = number - self._settled[p, frames]
                table[frames, p, rows, 0] = event.missed
                own = np.arange(max(event.first, begun[number]), min(event.last, over[number]) + 1)
                beside = np.minimum(np.array(event.beside)[own - event.first], event.missed)
                rows = number - self._settled[p, own]
                table[own[:, None], p, rows[:, None], 0, event.drawings[None, :]] = beside[:, None]
        return table

    def shown(self) -> Ints:
        """(stretches, frames) the drawing on each frame; what lies past the end of a stretch means nothing."""
        for frame in range(self._frames):
            if frame:
                self._step(frame)
            else:
                self._state[self._piece, 0, self._layer[0]] = [s.entry for s in self._stretches]
            self._state += self._cost[frame]
            self._settle(frame)
        return self._trace()

    def _step(self, frame: int) -> None:
        """Every drawing goes on, or a new one begins after the cheapest that may end. Where that is the same drawing,
        going on with it is cheaper still, so nothing need be done to rule it out."""
        old = self._state
        new = np.empty_like(old)
        new[:, :, :-1] = old[:, :, 1:]
        new[:, :, -1] = np.inf
        free = old[:, :, 0]
        if old.shape[2] > 1:
            np.less_equal(free, old[:, :, 1], out=self._stayed[frame])
            np.minimum(free, old[:, :, 1], out=new[:, :, 0])
        else:
            new[:, :, 0] = free
        free.argmin(axis=2, out=self._origin[frame])
        offer = free.min(axis=2, keepdims=True) + self._change[frame]
        layer = self._one_layer[frame]
        if layer is not None:
            into = new[:, :, layer]
            np.less(offer, into, out=self._started[frame])
            np.minimum(into, offer, out=into)
        else:
            into = new[self._piece, :, self._layer[frame]]
            np.less(offer, into, out=self._started[frame])
            new[self._piece, :, self._layer[frame]] = np.minimum(into, offer)
        self._state = self._without_past(new, frame) if self._any_gone[frame] else new

    def _without_past(self, state: Array, frame: int) -> Array:
        """The state less the rows of events that are over."""
        gone = self._gone[frame]
        for piece in np.flatnonzero(gone):
            kept = state.shape[1] - gone[piece]
            state[piece, :kept] = state[piece, gone[piece] :].copy()
            state[piece, kept:] = np.inf
        return state

    def _settle(self, frame: int) -> None:
        """Events in reach of a frame are seen on it, or given up."""
        for row in range(self._open[frame]):
            offer = self._state[:, row] + self._prices[frame, :, row]
            after = self._state[:, row + 1]
            np.less(offer, after, out=self._seen[frame, :, row + 1])
            np.minimum(offer, after, out=after)

    def _trace(self) -> Ints:
        """The way back from the cheapest end of each stretch."""
        rows = np.array([len(s.events) for s in self._stretches]) - self._settled[:, -1]
        leaving = np.array([s.leaving for s in self._stretches])
        drawings = (self._state[self._piece, rows, 0] + leaving).argmin(axis=1)
        ends = zip(rows.tolist(), drawings.tolist(), strict=True)
        return np.array([self._way(piece, row, drawing) for piece, (row, drawing) in enumerate(ends)])

    def _way(self, piece: int, row: int, drawing: int) -> list[int]:
        """The drawings on the way to a stretch's last frame."""
        seen, started, stayed = self._seen[:, piece], self._started[:, piece], self._stayed[:, piece]
        origin, layer, gone = self._origin[:, piece], self._layer[:, piece].tolist(), self._gone[:, piece].tolist()
        shown, left = [0] * self._frames, 0
        for frame in range(self._frames - 1, -1, -1):
            shown[frame] = drawing
            while seen[frame, row, left, drawing]:
                row -= 1
            row += gone[frame]
            if left == layer[frame] and started[frame, row, drawing]:
                drawing, left = int(origin[frame, row]), 0
            elif left or not stayed[frame, row, drawing]:
                left += 1
        return shown


def _bounds(events: Sequence[Event]) -> tuple[Ints, Ints]:
    """For each event the frame after which it is over, and the one on which it begins. Both only grow: an event is over
    when a later one is, and does not begin before an earlier one has."""
    begun = np.maximum.accumulate(np.array([e.first for e in events], np.int64))
    over = np.minimum.accumulate(np.array([e.last for e in events], np.int64)[::-1])[::-1]
    return np.maximum(over, begun), begun


def _in_reach(events: Sequence[Event], frames: int) -> tuple[Ints, Ints]:
    """For each frame, how many events are over before it, and how many have begun."""
    numbers = np.arange(frames)
    over, begun = _bounds(events)
    return np.searchsorted(over, numbers, side="left"), np.searchsorted(begun, numbers, side="right")
