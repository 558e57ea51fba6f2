"""Fits the networks of tinfork.core.speech.refine on made sentences: python -m bench.refining

Every voice of both synthesisers at several speeds, plain and in four of the ways of bench.rooms and bench.acted each,
by chance in how far; what is told of the result is told of other sentences. Takes about half an hour on two cores.
"""

import itertools
import random
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from tinfork.core.sound.features import STEP_SECONDS
from tinfork.core.speech import model, refine

from . import acted, made, rooms, truth
from .alignment import WINDOW, searched
from .rooms import TEST, TUNE
from .truth import Truth

_COUNTS = {TUNE: 700, TEST: 140}
_VOICES = (*truth.FLITE_VOICES, *rooms.ESPEAK_VOICES)
_OTHERS, _WAYS, _SIZED = 28, 4, 0.4
_ROUNDS, _HIDDEN, _EPOCHS, _BATCH = 2, 96, 8, 256
_RATE, _DECAY, _NEAR, _FAR = 2e-3, 1e-3, 0.1, 0.15
_ESPEAK_WEIGHS = 1.6
"""Each of eSpeak's boundaries counts for so many of flite's: there are fewer of them."""

Floats = np.ndarray


@dataclass(frozen=True)
class Bounded:
    """A line as it was searched. energy: as refine.bands has it; edges: (spans + 1,) in seconds; phones: (spans,);
    true: (spans - 1,) where the boundaries truly are, nan where nobody knows."""

    way: str
    voice: str
    energy: Floats
    edges: Floats
    phones: Floats
    true: Floats

    @property
    def weight(self) -> float:
        """How much each of its boundaries counts."""
        return 1.0 if self.voice in truth.FLITE_VOICES else _ESPEAK_WEIGHS


def main() -> None:
    """Fit on the tune half, save, and print what it does to the test half."""
    with ProcessPoolExecutor() as workers:
        halves = {
            seed: [one for own in workers.map(lines, itertools.repeat(seed), range(count)) for one in own]
            for seed, count in _COUNTS.items()
        }
    networks = fitted(halves[TUNE])
    path = Path(refine.__file__).with_name("refine.npz")
    arrays = [array.astype(np.float16) for layers in networks for array in layers]
    np.savez_compressed(path, **{f"{number:02}": array for number, array in enumerate(arrays)})
    print(f"{sum(len(one.true) for one in halves[TUNE])} boundaries, {path.stat().st_size / 1024:.0f} KB")
    table(halves[TEST], [])
    table(halves[TEST], networks)


def lines(seed: int, number: int) -> list[Bounded]:
    """One sentence, plain and in some of the ways; of the test half in all of them."""
    chance = random.Random(f"{seed}.{number}")
    text, voice = made.sentences(seed, number + 1)[number], _VOICES[number % len(_VOICES)]
    line = rooms.spoken(text, voice, chance)
    dice = np.random.default_rng([seed, number])
    others = list(rooms.lines(seed, _OTHERS))
    ways = _in_all(line, others, dice) if seed == TEST else _in_some(line, voice, others, dice)
    return [bounded(heard, way, voice) for way, heard in ways]


def _in_all(line: Truth, others: Sequence[Truth], dice: np.random.Generator) -> Iterator[tuple[str, Truth]]:
    for name, way in rooms.ways(others).items():
        yield name, way(line, dice)


def _in_some(
    line: Truth, voice: str, others: Sequence[Truth], dice: np.random.Generator
) -> Iterator[tuple[str, Truth]]:
    ways: dict[str, Callable[[], Truth]] = {
        "room": lambda: rooms.room(line, dice, dice.uniform(0.2, 0.8), dice.uniform(0.3, 0.9)),
        "talkers": lambda: rooms.among_talkers(others, dice.uniform(5, 20))(line, dice),
        "saturated": lambda: rooms.saturated(line, dice, dice.uniform(6, 20)),
        "compressed": lambda: rooms.compressed(line, dice),
        "telephone": lambda: rooms.by_telephone(line, dice),
        "music": lambda: acted.over_music(line, dice.uniform(8, 15), bool(dice.integers(2))),
        "noise": lambda: rooms.in_noise(line, dice, dice.uniform(5, 25)),
        "shouted": lambda: acted.shouted(line),
        "whispered": lambda: acted.whispered(line),
    }
    yield "plain", line
    for name in dice.choice(list(ways), _WAYS, replace=False):
        yield name, ways[name]()
    if voice in truth.FLITE_VOICES and dice.random() < _SIZED:
        yield "sized", acted.sized(line.text, voice, dice.choice([acted.SQUEAKY, acted.HUGE]))


def bounded(line: Truth, way: str, voice: str) -> Bounded:
    """Return a line as the search finds it, with where its boundaries truly are."""
    spoken = [phone for phone in line.phones if phone.ipa]
    spans, _, heard = searched(line)
    true = np.full(len(spans) - 1, np.nan)
    for at, (before, after) in enumerate(itertools.pairwise(spans)):
        if after.word >= 0 and after.position == 0:
            true[at] = spoken[after.word].start
        elif after.word < 0 and before.word >= 0:
            true[at] = spoken[before.word].end
    edges = np.array([span.start for span in spans] + [spans[-1].end]) * STEP_SECONDS
    return Bounded(way, voice, heard.energy.astype(np.float16), edges, np.array([s.phone for s in spans]), true)


def fitted(found: Sequence[Bounded]) -> list[list[Floats]]:
    """Return the networks: each for what is left to correct after those before it."""
    networks: list[list[Floats]] = []
    acoustic = model.load()
    for number in range(_ROUNDS):
        seen, off, weights = [], [], []
        for one in found:
            edges = refine.moved(one.energy, one.edges, one.phones, acoustic, networks)
            left = one.true - edges[1:-1]
            near = np.abs(left) < _FAR
            seen.append(refine.described(one.energy, edges, one.phones, acoustic)[near].astype(np.float32))
            off.append(left[near])
            weights.append(np.full(near.sum(), one.weight))
        networks.append(_network(*map(np.concatenate, (seen, off, weights)), np.random.default_rng(number)))
    return networks


def _network(seen: Floats, off: Floats, weights: Floats, dice: np.random.Generator) -> list[Floats]:
    """Two hidden layers of rectified sums, fitted by Adam (Kingma & Ba 2015) for the least absolute error, but for what
    is nearly right (Huber 1964)."""
    sizes = [seen.shape[1], _HIDDEN, _HIDDEN // 2, 1]
    layers: list[Floats] = []
    for into, out in itertools.pairwise(sizes):
        layers += [dice.standard_normal((into, out)) * np.sqrt(2 / into) * (0.1 if out == 1 else 1), np.zeros(out)]
    layers = [layer.astype(np.float32) for layer in layers]
    means, squares = [np.zeros_like(one) for one in layers], [np.zeros_like(one) for one in layers]
    target, weights = (off / refine.OUT_SCALE).astype(np.float32), weights.astype(np.float32)
    total = _EPOCHS * (len(seen) // _BATCH)
    batches = (order[at : at + _BATCH] for _ in range(_EPOCHS) for order in [dice.permutation(len(seen))]
               for at in range(0, len(seen) - _BATCH + 1, _BATCH))  # fmt: skip
    for step, batch in enumerate(batches, 1):
        rate = _RATE * min(1, step / 200) * (0.5 + 0.5 * np.cos(np.pi * step / total))
        for at, slope in enumerate(_slopes(layers, seen[batch], target[batch], weights[batch])):
            means[at] = 0.9 * means[at] + 0.1 * slope
            squares[at] = 0.999 * squares[at] + 0.001 * slope**2
            way = means[at] / (1 - 0.9**step) / (np.sqrt(squares[at] / (1 - 0.999**step)) + 1e-8)
            layers[at] -= (rate * (way + _DECAY * layers[at] * (layers[at].ndim > 1))).astype(np.float32)
    return layers


def _slopes(layers: Sequence[Floats], seen: Floats, target: Floats, weights: Floats) -> list[Floats]:
    """How the error grows with each weight and offset."""
    passed = [seen]
    for own, offsets in zip(layers[:-2:2], layers[1:-2:2], strict=True):
        passed.append(np.maximum(passed[-1] @ own + offsets, 0))
    off = (passed[-1] @ layers[-2] + layers[-1])[:, 0] - target
    back = (np.clip(off / _NEAR, -1, 1) * weights / len(seen)).astype(np.float32)[:, None]
    found: list[Floats] = []
    for at in range(len(layers) - 2, -1, -2):
        found = [passed[at // 2].T @ back, back.sum(axis=0), *found]
        back = (back @ layers[at].T) * (passed[at // 2] > 0)
    return found


def table(found: Sequence[Bounded], networks: Sequence[Sequence[Floats]]) -> None:
    """A row for each way and synthesiser: mean error in ms, share within a frame."""
    acoustic = model.load()
    rows: dict[tuple[str, str], list[Floats]] = {}
    for one in found:
        off = np.abs(refine.moved(one.energy, one.edges, one.phones, acoustic, networks)[1:-1] - one.true)
        who = "flite" if one.voice in truth.FLITE_VOICES else "espeak"
        rows.setdefault((one.way, who), []).append(off[~np.isnan(off)])
    print(f"{len(networks)} networks")
    for (way, who), errors in sorted(rows.items()):
        off = np.concatenate(errors)
        print(f"{way:<12}{who:<8}{1000 * off.mean():8.1f}{100 * (off <= WINDOW).mean():8.1f}")


if __name__ == "__main__":
    main()
