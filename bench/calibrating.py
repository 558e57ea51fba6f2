"""Fits the curve of tinfork.core.speech.confidence on the tuning sentences: python -m bench.calibrating"""

import numpy as np

from tinfork.core.sound.features import STEP_SECONDS
from tinfork.core.speech import confidence, model
from tinfork.core.speech.refine import refined

from . import sentences, truth
from .alignment import WINDOW, searched
from .conditions import echoing, noisy
from .truth import Truth


def main() -> None:
    """Flite's voices and eSpeak's English, clean, in noise and in a room."""
    texts = sentences.tune(sentences.ENGLISH)
    clean = [truth.flite(text, voice) for voice in truth.FLITE_VOICES for text in texts]
    clean += [truth.espeak(text, "en-us") for text in texts]
    heard = [*clean, *map(echoing, clean[::2]), *(noisy(line, level) for level in (10, 5, 0) for line in clean)]
    seen, right = (np.concatenate(part) for part in zip(*map(_boundaries, heard), strict=True))
    weights = np.zeros(seen.shape[1])
    for _ in range(30):
        sure = 1 / (1 + np.exp(-seen @ weights))
        curvature = (seen * (sure * (1 - sure))[:, None]).T @ seen + 1e-3 * np.eye(len(weights))
        weights += np.linalg.solve(curvature, seen.T @ (right - sure))
    print("weights", ", ".join(f"{weight:.2f}" for weight in weights))


def _boundaries(line: Truth) -> tuple[np.ndarray, np.ndarray]:
    """For each sound what the curve sees of it, and whether it begins within a frame of the truth."""
    acoustic = model.load()
    spoken = [phone for phone in line.phones if phone.ipa]
    spans, _, heard = searched(line)
    seen = confidence.evidence(heard.scores, spans)
    placed = refined(spans, heard.energy, acoustic)
    rows = [(n, s) for n, s in enumerate(placed) if s.word >= 0 and s.position == 0]
    off = np.array([s.start * STEP_SECONDS - spoken[s.word].start for _, s in rows])
    return seen[[n for n, _ in rows]], (np.abs(off) <= WINDOW).astype(float)


if __name__ == "__main__":
    main()
