import itertools

import numpy as np
import pytest

from tinfork.core.exposure.events import Event
from tinfork.core.exposure.path import PlannedStretch, cheapest


def price(stretch, shown):
    """What a way through costs, worked out without the search."""
    runs = [(drawing, len(list(run))) for drawing, run in itertools.groupby(shown)]
    starts = np.cumsum([0, *(length for _, length in runs[:-1])])
    frames, total = len(shown), 0.0
    for start, (_, length) in zip(starts, runs, strict=True):
        shown_before = int(stretch.shown[shown[0]]) if start == 0 else 0
        if not shown_before and length < (min(stretch.hold[0], frames) if start == 0 else stretch.hold[start]):
            return np.inf
        ages = shown_before + np.arange(length)
        total += stretch.still[start + np.arange(length), np.minimum(ages, stretch.still.shape[1] - 1)].sum()
    total += stretch.entry[shown[0]] + stretch.leaving[shown[-1]]
    total += sum(stretch.cost[frame, drawing] for frame, drawing in enumerate(shown))
    total += sum(stretch.change[start] for start in starts[1:])
    return total + settled(stretch.events, shown, 0)


def settled(events, shown, since):
    """The least price of the events, each seen on a frame or missed, in their order."""
    if not events:
        return 0.0
    first, *rest = events
    best = first.missed + settled(rest, shown, since)
    for frame in range(max(first.first, since), first.last + 1):
        if shown[frame] in first.drawings:
            best = min(best, first.beside[frame - first.first] + settled(rest, shown, frame))
    return best


def stretch_of(seed, frames=7, drawings=3):
    random = np.random.default_rng(seed)
    cost, change = random.uniform(0, 1, (frames, drawings)), random.uniform(0.01, 0.6, frames)
    change[random.uniform(size=frames) < 0.2] = np.inf
    entry, leaving = random.uniform(0, 0.4, (2, drawings))
    hold = random.integers(1, 4, frames)
    events = []
    for start in sorted(random.integers(0, frames, random.integers(0, 4)).tolist()):
        last = min(frames - 1, start + int(random.integers(0, 3)))
        shows = np.flatnonzero(random.uniform(size=drawings) < 0.5)
        beside = tuple(random.choice([0.0, 0.3], last - start + 1).tolist())
        events.append(Event(0, shows, start, last, beside, float(random.uniform(0, 3))))
    events.sort(key=lambda event: (event.first, event.last))
    ends = [event.last for event in events]
    if ends != sorted(ends):
        events = []
    still, shown = random.uniform(0, 0.3, (frames, 3)), random.integers(0, 3, drawings)
    return PlannedStretch(cost, change, hold, still, entry, leaving, shown, tuple(events))


@pytest.mark.parametrize("seed", range(60))
def test_the_path_is_the_cheapest_of_all(seed):
    stretch = stretch_of(seed)
    best = min(price(stretch, shown) for shown in itertools.product(range(3), repeat=7))
    [found] = cheapest([stretch])
    assert price(stretch, tuple(found.tolist())) == pytest.approx(best)


def test_stretches_searched_side_by_side_are_as_they_are_alone():
    stretches = [stretch_of(seed, frames) for seed, frames in enumerate([3, 9, 1, 7, 20, 6, 2, 14])]
    together = cheapest(stretches)
    for stretch, found in zip(stretches, together, strict=True):
        assert found.tolist() == cheapest([stretch])[0].tolist()


def test_a_stretch_shorter_than_its_hold_is_one_run():
    still, shown = np.zeros((3, 9)), np.zeros(3, np.int64)
    leaving = np.array([0.5, 0.2, 0.0])
    stretch = PlannedStretch(np.eye(3), np.full(3, 0.1), np.full(3, 9), still, np.zeros(3), leaving, shown)
    assert cheapest([stretch])[0].tolist() == [2, 2, 2]


def test_nothing_is_no_path():
    assert cheapest([]) == []
