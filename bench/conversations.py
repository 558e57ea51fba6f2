"""Made conversations of one to three voices on one microphone, and how well their voices are told apart."""

import random
import subprocess
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
import soxr
from numpy.typing import NDArray

from tinfork.core.sound import voices
from tinfork.core.sound.recording import READ_RATE

from .sentences import ENGLISH

_FLITE = ("slt", "rms", "awb", "kal16")
_ESPEAK = (("en+m3", 40), ("en+f2", 60), ("en-us+m7", 55), ("en+m1", 50), ("en+f4", 70), ("en-gb-x-rp+m5", 35))
TUNED_ON = (_FLITE[0], _FLITE[1], *_ESPEAK[:3])
OTHERS = (*_FLITE, *_ESPEAK[3:])


@dataclass(frozen=True)
class Conversation:
    """samples: 16 kHz; turns: start and end in seconds, and who speaks, counted from 0; speakers: how many."""

    samples: NDArray[np.float32]
    turns: tuple[tuple[float, float, int], ...]
    speakers: int


def conversation(seed: int, cast: tuple[object, ...] = OTHERS, speakers: int | None = None) -> Conversation:
    """Return one made by dice: who of the cast speaks, how often, what, how loud, with what noise between."""
    rng = random.Random(seed)
    count = speakers or rng.choice([1, 2, 2, 3])
    own = rng.sample(cast, count)
    order = [*range(count), *(rng.randrange(count) for _ in range(rng.randint(2 * count + 1, 4 * count)))]
    pieces, turns, at = [np.zeros(READ_RATE // 2)], [], READ_RATE // 2
    for who in order:
        spoken = _spoken(own[who], rng.choice(ENGLISH)) * rng.uniform(0.3, 0.6)
        turns.append((at / READ_RATE, (at + len(spoken)) / READ_RATE, who))
        pieces += [spoken, np.zeros(int(rng.uniform(0.25, 0.9) * READ_RATE))]
        at += len(spoken) + len(pieces[-1])
    samples = np.concatenate(pieces)
    noise = np.random.default_rng(seed).normal(0, rng.choice([0.0, 0.001, 0.004]), len(samples))
    return Conversation((samples + noise).astype(np.float32), tuple(turns), count)


def _spoken(voice: object, text: str) -> NDArray[np.float64]:
    """A sentence, its peak at 1."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "line.wav"
        if isinstance(voice, tuple):
            asked = ["espeak-ng", "-v", voice[0], "-p", str(voice[1]), "-w", str(path), text]
        else:
            asked = ["flite", "-voice", str(voice), "-t", text, "-o", str(path)]
        subprocess.run(asked, check=True, capture_output=True)
        samples, rate = soundfile.read(path)
    samples = soxr.resample(samples, rate, READ_RATE)
    return np.asarray(samples / np.abs(samples).max())


def right(made: Conversation, count: int | None = None) -> tuple[int, float]:
    """Return how many voices are heard, and of the speech that is told apart the share that is given to the voice
    which says most of its speaker's."""
    heard = voices.group(made.samples, count)
    found = len({one.voice for one in heard})
    shares = np.zeros((made.speakers, found))
    for one in heard:
        for start, end, who in made.turns:
            shares[who, one.voice] += max(0.0, min(end, one.end) - max(start, one.start))
    return found, float(shares.max(axis=1).sum() / shares.sum())


def table(made: int = 60) -> None:
    """Print how often the number of voices is right, by how many there are."""
    for name, cast, first in (("tuned on", TUNED_ON, 0), ("others", OTHERS, 1000)):
        for speakers, rows in _by_speakers(cast, first, made):
            counted = np.mean([found == speakers for found, _ in rows])
            shares = np.mean([share for _, share in rows])
            print(f"{name}: {speakers} voices, {len(rows)} made: count right {counted:.0%}, speech right {shares:.1%}")


def _by_speakers(cast: tuple[object, ...], first: int, made: int) -> Iterator[tuple[int, list[tuple[int, float]]]]:
    for speakers in (1, 2, 3):
        seeds = range(first + speakers * 100, first + speakers * 100 + made // 3)
        yield speakers, [right(conversation(seed, cast, speakers)) for seed in seeds]
