"""What of one recording is heard in another: by what it sounds like, then by its samples.

Short stretches of the one are looked for in all of the other by their spectra; those that agree on where they lie are
chained (Viterbi 1967) into lines, the samples of both are laid over one another along each (cross-correlation), and on
each frame of the old recording the line on which they agree most is the one it lies on, if they agree on any.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from ..sound.features import SAMPLE_RATE

Singles = NDArray[np.float32]
Doubles = NDArray[np.float64]
Ints = NDArray[np.int64]

STEP = 160
"""Samples between two frames of a spectrum: 10 ms."""

STEP_SECONDS = STEP / SAMPLE_RATE
_WINDOW = 512
_BANDS = 20
_LOW_HZ, _HIGH_HZ = 120.0, 6000.0
_DEEP = 45.0
"""In dB: what lies so far below the loudest is silence."""

_EVERY = 3
"""A stretch that is looked for has every third frame of its spectra."""

_ANCHOR, _ANCHOR_STEP, _SHORT_ANCHOR = 60, 20, 30
"""In frames: how long a stretch is that is looked for, and how far from one to the next; and a short one."""

_CANDIDATES = 4
_APART = 12
"""In places of 20 ms: candidates lie in stretches of so many, one in each."""

_SOME = 400
"""So many stretches tell the speed."""

_ALIKE, _SHORT_ALIKE = 0.55, 0.65
"""The likeness from which on a place may be the one that is looked for; for short stretches."""

_SHORT_TRIES, _MOST_TRIES = 3, 300
_LIVELY = 20.0
"""In dB over silence: something is said."""

_JUMP, _BACK = 1.2, 0.5
_MOST_FASTER = 0.065
_SURELY_ALIKE = 0.68
_PAIR = (60.0, 1600.0)
"""In frames: how far apart two stretches are that tell the speed."""

_HALF_PLACE = 2.5
"""In frames: so far off two places may be, as every second frame is looked at."""

_SAME_SPEED = 0.004
_NO_FASTER = 3e-4
_NEAR = 4
"""In frames: so near two stretches agree on where they lie."""


@dataclass(frozen=True)
class Run:
    """A stretch of the old recording, from first up to end, that begins at to in the new one and goes on there at rate
    new seconds for an old one; all in seconds. likeness: how alike they are, 0..1."""

    first: float
    end: float
    to: float
    rate: float = 1.0
    likeness: float = 1.0

    def at(self, time: float) -> float:
        """Return where a moment of the old recording lies in the new one."""
        return self.to + (time - self.first) * self.rate

    @property
    def to_end(self) -> float:
        """Return where it ends in the new one."""
        return self.at(self.end)


@dataclass(frozen=True)
class Spectra:
    """What a recording sounds like on each frame. bands: (frames, bands), each frame's mean and the recording's mean of
    each band taken off; loud: (frames,) dB below the loudest, at the most _DEEP."""

    bands: Singles
    loud: Singles

    def __len__(self) -> int:
        return len(self.loud)


def spectra(samples: Singles) -> Spectra:
    """Return the spectra of a recording at 16 kHz."""
    hz = scipy.fft.rfftfreq(_WINDOW, 1 / SAMPLE_RATE)
    edges = np.geomspace(_LOW_HZ, _HIGH_HZ, _BANDS + 2)
    rise = (hz[:, None] - edges[:-2]) / (edges[1:-1] - edges[:-2])
    fall = (edges[2:] - hz[:, None]) / (edges[2:] - edges[1:-1])
    bank = np.maximum(0.0, np.minimum(rise, fall)).astype(np.float32)
    bank[:, bank.sum(0) == 0] = 1e-6
    padded = np.pad(np.asarray(samples, np.float32), (_WINDOW // 2, _WINDOW))
    count = max(1, -(-len(samples) // STEP))
    window = np.hanning(_WINDOW).astype(np.float32)
    powers = np.empty((count, _BANDS), np.float32)
    for first in range(0, count, 4096):
        at = np.arange(first, min(first + 4096, count))[:, None] * STEP + np.arange(_WINDOW)
        found = scipy.fft.rfft(padded[at] * window, axis=1)
        powers[first : first + 4096] = (found.real**2 + found.imag**2) @ bank
    levels = 10 * np.log10(powers + 1e-12)
    whole = 10 * np.log10(powers.sum(1) + 1e-12)
    top = np.percentile(whole, 98)
    loud = np.clip(whole - top, -_DEEP, 0.0) + _DEEP
    levels = np.maximum(levels, np.percentile(levels, 98) - _DEEP)
    heard = loud > _DEEP * 0.4
    mean = levels[heard].mean(0) if heard.any() else levels.mean(0)
    flat = levels - mean
    return Spectra(flat.astype(np.float32), loud.astype(np.float32))


def _stretches(own: Spectra, starts: Ints, rate: float = 1.0, anchor: int = _ANCHOR) -> Singles:
    """(starts, values) what lies from each start on, as vectors of length one. rate: how much faster it is read."""
    offsets = np.round(np.arange(0, anchor, _EVERY) * rate).astype(np.int64)
    at = np.minimum(starts[:, None] + offsets, len(own) - 1)
    found = own.bands[at]
    found = found - found.mean(axis=(1,), keepdims=True)
    found = found.reshape(len(starts), -1)
    norm = np.linalg.norm(found, axis=1, keepdims=True)
    return np.asarray(found / np.maximum(norm, 1e-6), np.float32)


@dataclass(frozen=True)
class _Found:
    """Where stretches of the old recording may lie. old: (n,) their first frames; new: (n, candidates); alike: the
    same, 0 for none."""

    old: Ints
    new: Ints
    alike: Singles


def _look(old: Spectra, new: Spectra, rate: float, most: int) -> _Found:
    """Where some of the old recording's stretches may lie in the new one, at the most so many of them."""
    starts = np.arange(0, max(1, len(old) - _ANCHOR // 2), _ANCHOR_STEP)
    lively = np.array(
        [np.ptp(old.loud[s : s + _ANCHOR]) > 10.0 and old.loud[s : s + _ANCHOR].max() > _LIVELY for s in starts]
    )
    starts = starts[lively]
    starts = starts[np.unique(np.linspace(0, len(starts) - 1, min(most, len(starts))).astype(np.int64))]
    places = np.arange(0, max(1, len(new) - _ANCHOR // 2), 2)
    if not len(starts):
        return _Found(starts, np.zeros((0, _CANDIDATES), np.int64), np.zeros((0, _CANDIDATES), np.float32))
    there = _stretches(new, places, rate)
    blank = -len(there) % _APART
    there = np.concatenate([there, np.zeros((blank, there.shape[1]), np.float32)]).T
    found_new = np.zeros((len(starts), _CANDIDATES), np.int64)
    found_alike = np.zeros((len(starts), _CANDIDATES), np.float32)
    for first in range(0, len(starts), 256):
        scores = _stretches(old, starts[first : first + 256]) @ there
        blocks = scores.reshape(len(scores), -1, _APART)
        tops = blocks.max(2)
        rows = np.arange(len(scores))
        for k in range(_CANDIDATES):
            block = tops.argmax(1)
            at = blocks[rows, block].argmax(1)
            found_new[first : first + 256, k] = np.minimum(block * _APART + at, len(places) - 1) * 2
            found_alike[first : first + 256, k] = tops[rows, block]
            tops[rows, block] = -1
    return _Found(starts, found_new, np.where(found_alike >= _ALIKE, found_alike, 0))


def _rate_of(found: _Found) -> float:
    """How much longer the new recording lasts than the old one where both are the same, as most pairs of stretches have
    it."""
    if not len(found.old):
        return 1.0
    best = found.alike[:, 0] > _SURELY_ALIKE
    old, new = found.old[best].astype(float), found.new[best, 0].astype(float)
    by_old, by_new = old[None, :] - old[:, None], new[None, :] - new[:, None]
    near = (by_old >= _PAIR[0]) & (by_old < _PAIR[1]) & (np.abs(by_new / np.maximum(by_old, 1.0) - 1) <= _MOST_FASTER)
    lasted, lasts = by_old[near], by_new[near]
    rates = np.linspace(1 - _MOST_FASTER, 1 + _MOST_FASTER, 261)
    if not len(lasted):
        return 1.0
    votes = [float(lasted[np.abs(lasts - rate * lasted) <= _HALF_PLACE].sum()) for rate in rates]
    own = np.abs(lasts - rates[int(np.argmax(votes))] * lasted) <= _HALF_PLACE
    return float((lasts[own] * lasted[own]).sum() / (lasted[own] ** 2).sum())


def _chains(found: _Found, rate: float) -> list[list[tuple[int, int, float]]]:
    """The stretches that agree on where they lie, (old, new, alike) each, one list for each run."""
    count = len(found.old)
    if not count:
        return []
    # The last state is "nowhere".
    states = _CANDIDATES + 1
    score = np.where(found.alike > 0, found.alike - 0.5, -9.0)
    total = np.full((count, states), -1e9)
    came = np.zeros((count, states), np.int64)
    total[0, :-1], total[0, -1] = score[0], 0.0
    # A run that went nowhere for a while goes on at the place it would be at.
    last_new = np.full((count, states), -1.0)
    last_new[0, :-1] = found.new[0]
    for n in range(1, count):
        by = (found.old[n] - found.old[n - 1]) * rate
        expected = np.where(last_new[n - 1] < 0, -1.0, last_new[n - 1] + by)
        gap = found.new[n][None, :] - expected[:, None]
        allowed = np.maximum(_NEAR, 0.012 * by)
        cost = np.where(np.abs(gap) <= allowed, 0.0, np.where(gap >= 0, _JUMP, _JUMP + _BACK))
        cost = np.where(expected[:, None] < 0, 0.3, cost)
        into = total[n - 1][:, None] - cost + score[n][None, :]
        came[n, :-1] = into.argmax(0)
        total[n, :-1] = into.max(0)
        stay = total[n - 1] - np.where(np.arange(states) == states - 1, 0.0, 0.1)
        came[n, -1] = stay.argmax()
        total[n, -1] = stay.max()
        last_new[n, :-1] = found.new[n]
        last_new[n, -1] = expected[came[n, -1]]
    path = [int(total[-1].argmax())]
    for n in range(count - 1, 0, -1):
        path.append(int(came[n, path[-1]]))
    runs: list[list[tuple[int, int, float]]] = []
    for n, state in enumerate(reversed(path)):
        if state == states - 1 or found.alike[n, state] == 0:
            continue
        one = (int(found.old[n]), int(found.new[n, state]), float(found.alike[n, state]))
        if runs:
            before = runs[-1][-1]
            by = (one[0] - before[0]) * rate
            if abs(one[1] - before[1] - by) <= max(_NEAR, 0.012 * by):
                runs[-1].append(one)
                continue
        runs.append([one])
    return [run for run in runs if len(run) >= 2 or run[0][2] > 0.85]


def runs_of(old: Singles, new: Singles) -> list[Run]:
    """Return what of an old recording is heard in a new one, in the order of the old one; both at 16 kHz."""
    one, other = spectra(old), spectra(new)
    rate = _rate_of(_look(one, other, 1.0, _SOME))
    tries = [_lines(one, other, each, old, new) for each in dict.fromkeys((1.0, rate))]
    found = [(_bounded(one, other, lines, old, new), lines) for lines in tries if lines]
    if not found:
        return []
    runs, lines = max(found, key=lambda pair: sum((run.end - run.first) * run.likeness for run in pair[0]))
    more = _short_ones(one, other, runs, lines[0].rate, old, new)
    return _bounded(one, other, _distinct([*lines, *more]), old, new) if more else runs


def _lines(one: Spectra, other: Spectra, rate: float, old: Singles, new: Singles) -> list["_Line"]:
    """The lines on which both recordings are the same, at about a rate."""
    found = _look(one, other, rate if abs(rate - 1) > _SAME_SPEED else 1.0, len(one))
    # Another who says the same sounds alike; only one recording has the same samples.
    lines = [line for chain in _chains(found, rate) if (line := _line(chain, rate, old, new))]
    return _distinct(_at_one_speed(lines, old, new))


def _short_ones(
    one: Spectra, other: Spectra, runs: Sequence[Run], rate: float, old: Singles, new: Singles
) -> list["_Line"]:
    """What lies between runs and is shorter than what was looked for first: by shorter stretches, in what of the new
    recording is in no run."""
    taken = np.zeros(len(other), bool)
    for run in runs:
        taken[round(run.to / STEP_SECONDS) : round(run.to_end / STEP_SECONDS)] = True
    places = np.arange(0, max(1, len(other) - _SHORT_ANCHOR // 2), 2)
    places = places[~taken[np.minimum(places + _SHORT_ANCHOR // 2, len(other) - 1)]]
    starts = _starts_between(one, runs, len(old) / SAMPLE_RATE)
    if not len(places) or not len(starts):
        return []
    scores = _stretches(one, starts, 1.0, _SHORT_ANCHOR) @ _stretches(other, places, rate, _SHORT_ANCHOR).T
    tries = min(_SHORT_TRIES, len(places))
    rows, best = np.arange(len(starts)).repeat(tries), np.argsort(scores)[:, -tries:].ravel()
    alike = scores[rows, best]
    found: dict[int, _Line] = {}
    for n in np.argsort(-alike)[:_MOST_TRIES].tolist():
        start, place = int(starts[rows[n]]), int(places[best[n]])
        if alike[n] < _SHORT_ALIKE or start in found:
            continue
        line = _line([(start, place, float(alike[n]))], rate, old, new, _SHORT_ANCHOR)
        if line is not None:
            found[start] = line
    return list(found.values())


def _starts_between(one: Spectra, runs: Sequence[Run], seconds: float) -> Ints:
    """Where short stretches begin that are looked for: between runs, where something is said."""
    edges = [0.0, *(edge for run in runs for edge in (run.first, run.end)), seconds]
    found = [np.zeros(0, np.int64)]
    for first, end in zip(edges[::2], edges[1::2], strict=True):
        a, b = round(first / STEP_SECONDS), round(end / STEP_SECONDS) - _SHORT_ANCHOR
        found.append(np.arange(a, b + 1, _SHORT_ANCHOR // 2))
    starts = np.concatenate(found)
    loud = np.array([one.loud[start : start + _SHORT_ANCHOR].max(initial=0.0) for start in starts.tolist()])
    return np.asarray(starts[loud > _LIVELY], np.int64)


@dataclass(frozen=True)
class _Line:
    """Where a run lies: new = to + rate * old, in seconds, for an old recording between first and end as far as it is
    known."""

    first: float
    end: float
    to: float
    rate: float


def _at_one_speed(lines: Sequence[_Line], old: Singles, new: Singles) -> list[_Line]:
    """Lines that all rise as the longest do: one recording goes at one speed, exactly as fast where it seems so."""
    if not lines:
        return []
    weights = np.array([(line.end - line.first) ** 2 for line in lines])
    rates = np.array([line.rate for line in lines])
    order = np.argsort(rates)
    middle = np.searchsorted(np.cumsum(weights[order]), weights.sum() / 2)
    rate = float(rates[order][min(middle, len(rates) - 1)])
    rate = 1.0 if abs(rate - 1) < _NO_FASTER else rate
    found = []
    for line in lines:
        centre = (line.first + line.end) / 2
        turned = _Line(line.first, line.end, line.to + (line.rate - rate) * centre, rate)
        agreed = _agreed(*_lags(old, new, turned, _AROUND), fixed=True)
        if agreed is not None:
            found.append(_Line(line.first, line.end, turned.to + agreed[1], rate))
    return found


def _line(
    chain: Sequence[tuple[int, int, float]], rate: float, old: Singles, new: Singles, anchor: int = _ANCHOR
) -> _Line | None:
    """The line a run lies on, by its samples; None where they do not agree."""
    at = np.array([c[0] for c in chain], float) * STEP_SECONDS
    to = np.array([c[1] for c in chain], float) * STEP_SECONDS
    first, end = float(at[0]), float(at[-1]) + anchor * STEP_SECONDS
    line = _Line(first, end, float(np.median(to - rate * at)), rate)
    for around in (_FAR_OFF, _AROUND):
        found = _agreed(*_lags(old, new, line, around), fixed=end - first < _LONG_ENOUGH)
        if found is None:
            return None
        line = _Line(first, end, line.to + found[1], line.rate + found[0])
    return line


def _agreed(lags: Doubles, places: Doubles, fixed: bool) -> tuple[float, float] | None:
    """By how much more a line rises and how much later it begins, as most places have it; None where they do not agree.
    fixed: it rises as it does."""
    if not len(lags):
        return None
    best: tuple[float, float] = (0.0, float(np.median(lags)))
    most = 0
    far = len(lags) // 3
    slopes = (
        [0.0]
        if fixed or not far
        else [0.0, *((lags[far:] - lags[:-far]) / np.maximum(places[far:] - places[:-far], 0.3))]
    )
    for slope in slopes:
        if abs(slope) > _SAME_SPEED * 3:
            continue
        rest = lags - slope * places
        for shift in rest:
            near = np.abs(rest - shift) < _HAIR
            if near.sum() > most:
                most, best = int(near.sum()), (float(slope), float(np.median(rest[near])))
    if most < max(1, 0.4 * len(lags)):
        return None
    near = np.abs(lags - best[0] * places - best[1]) < _HAIR
    if fixed or near.sum() < _ENOUGH:
        return best
    slope, shift = np.polyfit(places[near], lags[near], 1)
    return float(slope), float(shift)


_SPAN = 0.32
_FAR_OFF, _AROUND = 0.12, 0.03
_AGREE = 0.35
_HAIR = 0.002
_LONG_ENOUGH, _ENOUGH = 2.5, 5


def _lags(old: Singles, new: Singles, line: "_Line", far: float) -> tuple[Doubles, Doubles]:
    """By how many seconds the samples of the new recording lie later than a line says, at places of the old one where
    they agree; and these places. far: how far off they are looked for."""
    first, end, rate, by = line.first, line.end, line.rate, line.to
    count = int(min(40, max(3, (end - first) / 0.4)))
    size, around = int(_SPAN * SAMPLE_RATE), int(far * SAMPLE_RATE)
    lags, places = [], []
    for place in np.linspace(first, max(first, end - _SPAN), count):
        a = int(place * SAMPLE_RATE)
        piece = old[a : a + size]
        b = round((by + rate * a / SAMPLE_RATE) * SAMPLE_RATE) - around
        there = _segment(new, b, int(size * rate) + 2 * around + 2)
        if len(piece) < size or float(np.abs(piece).max(initial=0)) < 1e-4:
            continue
        if abs(rate - 1) > 1e-5:  # As it would be at the speed of the old one.
            grid = np.arange(int(len(there) / rate)) * rate
            there = np.interp(grid, np.arange(len(there)), there).astype(np.float32)
            wide = around / rate
        else:
            wide = float(around)
        lag, alike = _best_lag(piece, there)
        if alike > _AGREE:
            lags.append((lag - wide) * rate / SAMPLE_RATE)
            places.append(place)
    return np.array(lags), np.array(places)


def _segment(samples: Singles, first: int, count: int) -> Singles:
    """Samples from a place on, with silence where there are none."""
    found = np.zeros(count, np.float32)
    a, b = max(0, first), min(len(samples), first + count)
    if b > a:
        found[a - first : b - first] = samples[a:b]
    return found


def _best_lag(piece: Singles, there: Singles) -> tuple[float, float]:
    """By how many samples a piece lies later in another, and how alike they are then, -1..1."""
    size = scipy.fft.next_fast_len(len(there) + len(piece))
    # Flattened: what is said counts, not which frequencies a room or a filter prefers.
    one, other = (np.diff(own, prepend=own[:1]) for own in (piece, there))
    cross = scipy.fft.irfft(scipy.fft.rfft(other, size) * np.conj(scipy.fft.rfft(one, size)), size)
    valid = cross[: len(there) - len(piece) + 1]
    sums = np.concatenate([[0.0], np.cumsum(other.astype(np.float64) ** 2)])
    energy = sums[len(piece) :] - sums[: len(sums) - len(piece)]
    alike = valid / np.sqrt(np.maximum(energy * float((one.astype(float) ** 2).sum()), 1e-12))
    at = int(alike.argmax())
    if 0 < at < len(alike) - 1:
        a, b, c = alike[at - 1 : at + 2]
        if a - 2 * b + c < 0:
            return at + 0.5 * float(a - c) / float(a - 2 * b + c), float(b)
    return float(at), float(alike[at])


def _distinct(lines: Sequence[_Line]) -> list[_Line]:
    """Lines each once: what lies on one line is one run, however often it was left."""
    found: list[_Line] = []
    for line in lines:
        like = next(
            (
                n
                for n, one in enumerate(found)
                if abs(one.to + one.rate * line.first - line.to - line.rate * line.first) < 0.015
                and abs(one.to + one.rate * line.end - line.to - line.rate * line.end) < 0.03
            ),
            None,
        )
        if like is None:
            found.append(line)
        else:
            one = found[like]
            found[like] = _Line(min(one.first, line.first), max(one.end, line.end), one.to, one.rate)
    return found


_GONE_COST, _NOT_THERE = 0.3, -1.0
_SWITCH = 4.0
_QUIET = 12.0
_BEYOND = 12.0
_DOUBTED, _LEAST_LOUD, _WELL = 0.7, 25, 0.6
_SHORTEST = 0.05


def _bounded(one: Spectra, other: Spectra, lines: list[_Line], old: Singles, new: Singles) -> list[Run]:
    """The runs with their ends: on each frame of the old recording the line on which both agree most, or none."""
    count = len(one)
    seconds, to_seconds = len(old) / SAMPLE_RATE, len(new) / SAMPLE_RATE
    likes = np.full((len(lines) + 1, count), _NOT_THERE, np.float32)
    for n, line in enumerate(lines):
        first, end = (round(at / STEP_SECONDS) for at in (line.first - _BEYOND, line.end + _BEYOND))
        frames = np.arange(max(0, first), min(count, end))
        to = np.round(frames * line.rate + line.to / STEP_SECONDS).astype(np.int64)
        frames, to = frames[(to >= 0) & (to < len(other))], to[(to >= 0) & (to < len(other))]
        if not len(frames):
            continue
        alike = _agree(old, new, line, frames)
        quiet_a, quiet_b = one.loud[frames] < _QUIET, other.loud[to] < _QUIET
        alike = np.where(quiet_a & quiet_b, _GONE_COST + 0.02, alike)
        alike = np.where(quiet_a != quiet_b, np.minimum(alike, 0.0), alike)
        likes[n, frames] = alike - _GONE_COST
    likes[-1] = 0.0
    path = _viterbi(likes)
    found = []
    for state, group in itertools.groupby(range(count), key=lambda t: path[t]):
        frames = np.array(list(group))
        if state == len(lines):
            continue
        line = lines[state]
        start = max(float(frames[0]) * STEP_SECONDS, -line.to / line.rate)
        stop = min(seconds, (float(frames[-1]) + 1) * STEP_SECONDS, (to_seconds - line.to) / line.rate)
        loud = frames[one.loud[frames] > _QUIET]
        agreed = float(likes[state, loud if len(loud) else frames].mean()) + _GONE_COST
        # One vowel of a voice is like another: what is short must agree for longer than a vowel, and well.
        doubtful = line.end - line.first < _DOUBTED and (len(loud) < _LEAST_LOUD or agreed < _WELL)
        if stop - start >= _SHORTEST and not doubtful:
            found.append((Run(start, stop, line.to + line.rate * start, line.rate, agreed), likes[state]))
    return _apart(_meeting(found))


def _meeting(found: Sequence[tuple[Run, Singles]]) -> list[Run]:
    """Runs of which one ends on what of the new recording another begins on: parted where both agree with it best.
    found: each with how far both recordings agree on the line it lies on, on each frame of the old one."""
    own = sorted(found, key=lambda pair: pair[0].to)
    runs = [run for run, _ in own]
    for n in range(len(runs) - 1):
        one, other = runs[n], runs[n + 1]
        first, end = other.to, min(one.to_end, other.to_end)
        if end - first < STEP_SECONDS or one.to_end > other.to_end:
            continue
        times = np.arange(first, end, STEP_SECONDS)
        before = _agreement(one, own[n][1], times)
        after = _agreement(other, own[n + 1][1], times)
        gain = np.concatenate([[0.0], np.cumsum(before)]) + np.concatenate([np.cumsum(after[::-1])[::-1], [0.0]])
        at = first + float(gain.argmax()) * STEP_SECONDS
        runs[n] = replace(one, end=one.first + (at - one.to) / one.rate)
        runs[n + 1] = replace(other, first=other.first + (at - other.to) / other.rate, to=at)
    return [run for run in runs if run.end - run.first >= _SHORTEST]


def _agreement(run: Run, likes: Singles, times: Doubles) -> Singles:
    """How far both agree along a run at times of the new recording."""
    at = np.round((run.first + (times - run.to) / run.rate) / STEP_SECONDS).astype(np.int64)
    return np.asarray(likes[np.clip(at, 0, len(likes) - 1)])


_LAGS_SECONDS = (-0.0012, -0.0006, 0.0, 0.0006, 0.0012)


def _agree(old: Singles, new: Singles, line: _Line, frames: Ints) -> Singles:
    """(frames,) how far the samples of both agree around each frame, -1..1."""
    first, end = int(frames[0]) * STEP, min(len(old), (int(frames[-1]) + 1) * STEP)
    own = old[first:end].astype(np.float64)
    best = np.full(len(frames), -1.0)
    at = (np.arange(first, end) / SAMPLE_RATE * line.rate + line.to) * SAMPLE_RATE
    for lag in _LAGS_SECONDS if line.rate != 1.0 else (0.0,):
        if line.rate == 1.0:
            there = _segment(new, round(at[0]), len(own)).astype(np.float64)
        else:
            there = np.interp(at + lag * SAMPLE_RATE, np.arange(len(new)), new, left=0.0, right=0.0)
        sums = [_summed(one * other, len(frames)) for one, other in ((own, there), (own, own), (there, there))]
        best = np.maximum(best, sums[0] / np.sqrt(np.maximum(sums[1] * sums[2], 1e-12)))
    return np.asarray(best, np.float32)


_AGREE_FRAMES = 9


def _summed(values: Doubles, frames: int) -> Doubles:
    """(frames,) the sum over each frame of 10 ms and those around it."""
    padded = np.pad(values, (0, max(0, frames * STEP - len(values))))[: frames * STEP]
    each = padded.reshape(frames, STEP).sum(1)
    return np.asarray(uniform_filter1d(each, min(_AGREE_FRAMES, frames), mode="nearest"))


def _viterbi(likes: Singles) -> Ints:
    states, count = likes.shape
    total = likes[:, 0].astype(np.float64)
    came = np.zeros((states, count), np.int32)
    own = np.arange(states)
    for t in range(1, count):
        best = int(total.argmax())
        switched = total[best] - _SWITCH
        stay = total >= switched
        came[:, t] = np.where(stay, own, best)
        total = np.where(stay, total, switched) + likes[:, t]
    path = np.empty(count, np.int64)
    path[-1] = int(total.argmax())
    for t in range(count - 1, 0, -1):
        path[t - 1] = came[path[t], t]
    return path


def _apart(runs: Sequence[Run]) -> list[Run]:
    """Runs no two of which lie on the same of the new recording: there the more alike one stays."""
    kept: list[Run] = []
    for run in sorted(runs, key=lambda one: -one.likeness * (one.end - one.first)):
        spans = [(run.first, run.end)]
        for other in kept:
            a, b = other.to, other.to_end
            cut = []
            for first, end in spans:
                lo, hi = run.first + (a - run.to) / run.rate, run.first + (b - run.to) / run.rate
                if hi <= first + 1e-9 or lo >= end - 1e-9:
                    cut.append((first, end))
                    continue
                if lo > first:
                    cut.append((first, lo))
                if hi < end:
                    cut.append((hi, end))
            spans = cut
        kept += [Run(a, b, run.at(a), run.rate, run.likeness) for a, b in spans if b - a >= 0.03]
    return sorted(kept, key=lambda one: one.first)
