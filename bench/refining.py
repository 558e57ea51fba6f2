"""Fits the maps of tinfork.core.speech.refine on the tuning sentences: python -m bench.refining"""

import itertools
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from tinfork.core.sound.features import STEP_SECONDS
from tinfork.core.speech import model, refine

from . import acted, sentences, truth
from .alignment import searched
from .conditions import echoing, noisy
from .truth import Truth

_ROUNDS, _PENALTY, _FAR = 2, 20.0, 0.06
_NEAR = 0.004
_ESPEAK = 3


def main() -> None:
    """Flite's voices and eSpeak's English, clean, in a room and in noise; other languages stay unheard.

    Each of eSpeak's lines counts for three: the two do not agree where an l begins, and flite has many more lines.
    """
    texts = sentences.tune(sentences.ENGLISH)
    clean = [truth.flite(text, voice) for voice in truth.FLITE_VOICES for text in texts]
    clean += [truth.espeak(text, "en-us") for text in texts] * _ESPEAK
    lines = [*clean, *map(echoing, clean[::3])]
    lines += [*(noisy(line, 20) for line in clean[::2]), *(noisy(line, 10) for line in clean[1::2])]
    for number, make in enumerate(acted.VOICES.values()):
        voices = itertools.cycle(truth.FLITE_VOICES[number % 4 :] + truth.FLITE_VOICES[: number % 4])
        lines += [make(text, voice) for text, voice in zip(texts, voices, strict=False)]
    found = [boundaries(line) for line in lines]
    maps: list[np.ndarray] = []
    for _ in range(_ROUNDS):
        maps.append(_fit(found, np.array(maps) if maps else np.zeros((0, 1))))
    path = Path(refine.__file__).with_name("refine.npz")
    np.savez_compressed(path, maps=np.array(maps, np.float16))
    print(f"{sum(len(one[1]) for one in found)} boundaries, {path.stat().st_size / 1024:.0f} KB")


Found = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]


def boundaries(line: Truth) -> Found:
    """Return band energies, and of each boundary: where the search puts it, the kinds around it, where it truly is."""
    acoustic = model.load()
    spoken = [phone for phone in line.phones if phone.ipa]
    spans, _, heard = searched(line)
    rows = []
    for before, after in itertools.pairwise(spans):
        kinds = [refine.kind_of(span.phone, acoustic) for span in (before, after)]
        if after.word >= 0 and after.position == 0:
            rows.append((after.start, *kinds, spoken[after.word].start))
        elif after.word < 0 and before.word >= 0:
            rows.append((after.start, *kinds, spoken[before.word].end))
    start, left, right, true = (np.array(column) for column in zip(*rows, strict=True))
    return heard.energy, start * STEP_SECONDS, left, right, true


def _fit(found: Sequence[Found], maps: np.ndarray) -> np.ndarray:
    """The map for what is left to correct after those before it: ridge regression of least absolute error."""
    rows, targets = [], []
    for energy, start, left, right, true in found:
        now = refine.moved(energy, start, left, right, maps)
        rows.append(refine.described(energy, now, left, right))
        targets.append(true - now)
    seen, off = np.concatenate(rows), np.concatenate(targets)
    near = np.abs(off) < _FAR
    seen, off = seen[near], off[near]
    weights = np.ones(len(off))
    fitted = np.zeros(seen.shape[1])
    for _ in range(8):
        heavy = seen * weights[:, None]
        fitted = np.linalg.solve(heavy.T @ seen + _PENALTY * np.eye(seen.shape[1]), heavy.T @ off)
        weights = 0.01 / np.maximum(np.abs(off - seen @ fitted), _NEAR)
    return fitted


if __name__ == "__main__":
    main()
