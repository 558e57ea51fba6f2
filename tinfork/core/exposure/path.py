"""The cheapest way through frames x drawings, found exactly by dynamic programming.

A state is a frame, a drawing, for how many frames it has been shown, and how many of the events in reach are settled
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
class PlannedStretch:
    """Some frames to be planned together.

    cost: (frames, drawings) of showing each drawing on each frame. change: (frames,) cost of a new drawing there,
    infinite where none may begin. hold: (frames,) least frames of a drawing that begins there. still: (frames, ages)
    extra cost of a drawing that has been shown for so many frames before, the last column for so many or more; at least
    as many columns as any hold. entry, leaving: (drawings,) extra cost of being first and last; shown: (drawings,) for
    how many frames each was shown before the first. events: in order, their frames counted from the stretch's first.
    """

    cost: Array
    change: Array
    hold: Ints
    still: Array
    entry: Array
    leaving: Array
    shown: Ints
    events: tuple[Event, ...] = ()


def cheapest(stretches: Sequence[PlannedStretch]) -> list[Ints]:
    """Return for each stretch the drawing on each frame, numbers of (frames,). All have the same drawings. A stretch
    shorter than its hold is one run."""
    shown: list[Ints] = [np.empty(0, np.int64)] * len(stretches)
    for numbers in _batches(stretches):
        found = _Search([stretches[number] for number in numbers]).shown()
        for number, row in zip(numbers, found, strict=True):
            shown[number] = row[: len(stretches[number].cost)]
    return shown


def _batches(stretches: Sequence[PlannedStretch]) -> Iterator[list[int]]:
    """The numbers of the stretches in groups of like length that fit in memory."""
    order = sorted(range(len(stretches)), key=lambda number: len(stretches[number].cost))
    batch: list[int] = []
    for number in order:
        frames, drawings = stretches[number].cost.shape
        states = frames * drawings * stretches[number].still.shape[1] * 4
        longer = len(batch) >= _MANY and frames > 2 * len(stretches[batch[0]].cost)
        if longer or (batch and (len(batch) + 1) * states > _AT_ONCE):
            yield batch
            batch = []
        batch.append(number)
    if batch:
        yield batch


class _Search:
    """state[p, j, a, d]: in stretch p, least cost so far with j events in reach settled, drawing d shown for a frames
    before this one, the last a for that many or more. A shorter stretch goes on past its end at no cost, with nothing
    new allowed."""

    def __init__(self, stretches: Sequence[PlannedStretch]) -> None:
        self._stretches = stretches
        self._frames = max(len(s.cost) for s in stretches)
        drawings = stretches[0].cost.shape[1]
        pieces = len(stretches)
        self._piece = np.arange(pieces)
        self._drawing = np.arange(drawings)
        reach = [_in_reach(s.events, self._frames) for s in stretches]
        self._settled = np.array([settled for settled, _ in reach])
        width = 1 + max(int((begun - settled).max(initial=0)) for settled, begun in reach)
        self._ages = max(2, *(s.still.shape[1] for s in stretches))
        self._cost = np.zeros((self._frames, pieces, 1, 1, drawings))
        self._still = np.zeros((self._frames, pieces, 1, self._ages, 1))
        self._change = np.full((self._frames, pieces, 1), np.inf)
        self._held = np.zeros((self._frames, pieces, 1, self._ages, 1))
        for p, s in enumerate(stretches):
            frames = len(s.cost)
            hold = np.minimum(s.hold, frames - np.arange(frames))
            self._cost[:frames, p, 0, 0] = s.cost
            self._still[:frames, p, 0, :, 0] = s.still[:, np.minimum(np.arange(self._ages), s.still.shape[1] - 1)]
            self._change[:frames, p, 0] = np.where(hold == s.hold, s.change, np.inf)
            self._held[:frames, p, 0, :, 0] = _not_yet_held(hold, self._ages)
        self._open: list[int] = np.max([begun - settled for settled, begun in reach], axis=0).tolist()
        self._gone: Ints = np.diff(self._settled, axis=1, prepend=0).T
        self._any_gone: list[bool] = [bool(one.any()) for one in self._gone]
        self._prices = self._price_table(width, drawings)
        self._state = np.full((pieces, width, self._ages, drawings), np.inf)
        record = (self._frames, pieces, width)
        self._stayed = np.zeros((*record, drawings), bool)
        self._shown_for = np.zeros((*record, drawings), np.int64)
        self._before = np.zeros((self._frames, 2, pieces, width), np.int64)
        self._row_of_piece, self._row = np.arange(pieces)[:, None], np.arange(width)
        self._seen = np.zeros((*record, self._ages, drawings), bool)

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
        """Return (stretches, frames) the drawing on each frame; what lies past the end of a stretch means nothing."""
        for frame in range(self._frames):
            if frame:
                self._step(frame)
            else:
                for p, one in enumerate(self._stretches):
                    self._state[p, 0, np.minimum(one.shown, self._ages - 1), self._drawing] = one.entry
            self._state += self._cost[frame]
            self._state += self._still[frame]
            self._settle(frame)
        return self._trace()

    def _step(self, frame: int) -> None:
        """Every drawing goes on, or another one begins after the cheapest that may end."""
        old = self._state
        new = np.empty_like(old)
        new[:, :, 1:] = old[:, :, :-1]
        np.less(old[:, :, -1], new[:, :, -1], out=self._stayed[frame])
        np.minimum(old[:, :, -1], new[:, :, -1], out=new[:, :, -1])
        free = old + self._held[frame - 1]
        free.argmin(axis=2, out=self._shown_for[frame])
        least = free.min(axis=2)
        first, second = self._before[frame]
        least.argmin(axis=2, out=first)
        begun = least.min(axis=2)
        least[self._row_of_piece, self._row, first] = np.inf
        least.argmin(axis=2, out=second)
        new[:, :, 0] = (begun + self._change[frame])[:, :, None]
        new[self._row_of_piece, self._row, 0, first] = least.min(axis=2) + self._change[frame]
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
        ends = self._state[self._piece, rows] + self._held[-1, :, 0] + leaving[:, None]
        found = ends.reshape(len(ends), -1).argmin(axis=1)
        begins = (divmod(one, len(self._drawing)) for one in found.tolist())
        ways = (self._way(p, row, *one) for p, (row, one) in enumerate(zip(rows.tolist(), begins, strict=True)))
        return np.array(list(ways))

    def _way(self, piece: int, row: int, age: int, drawing: int) -> list[int]:
        """The drawings on the way to a stretch's last frame."""
        seen, stayed, gone = self._seen[:, piece], self._stayed[:, piece], self._gone[:, piece].tolist()
        before, shown_for = self._before[:, :, piece], self._shown_for[:, piece]
        shown, last = [0] * self._frames, self._ages - 1
        for frame in range(self._frames - 1, -1, -1):
            shown[frame] = drawing
            while seen[frame, row, age, drawing]:
                row -= 1
            row += gone[frame]
            if age == 0:
                first, second = before[frame, :, row]
                drawing = int(second if first == drawing else first)
                age = int(shown_for[frame, row, drawing])
            elif age < last or not stayed[frame, row, drawing]:
                age -= 1
        return shown


def _not_yet_held(hold: Ints, ages: int) -> Array:
    """(frames, ages): 0 where a drawing that was shown for so many frames before may end after a frame, infinite where
    it must be held on. What was shown before the first frame may."""
    begins = np.arange(len(hold))[:, None] - np.arange(ages)[None, :]
    held = (np.arange(ages) + 1)[None, :] >= hold[np.maximum(begins, 0)]
    held |= begins < 0
    held[:, -1] = True
    return np.where(held, 0.0, np.inf)


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
