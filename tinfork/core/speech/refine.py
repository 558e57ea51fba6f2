"""Boundaries moved to where the sound itself changes: a correction learned by regression.

A search in steps of 10 ms over whole-phone models puts boundaries a little off, each kind in its own way. Around each
boundary the energy of eight bands is taken, near it every 5 ms; a small network of that, of the phones before and
after, and of how long these last says how far off it is (as Toledano 2000 and Lee 2006 have it). Applied twice. The
networks were fitted by bench/refining.py on made sentences of known timing, in rooms, in noise and among talkers; no
boundary moves over 60 ms at a time.
"""

import functools
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ..sound.features import SAMPLE_RATE, STEP_SECONDS, Singles, Warp, by_warp, warped
from .align import Span
from .model import AcousticModel

HOP_SECONDS = 0.005
OFFSETS = np.array([
    -28, -22, -17, -14, -11, -9, -7, -6, -5, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5, 6, 7, 9, 11, 14, 17, 22, 28,
])  # fmt: skip
_EDGES_HZ = np.array([0.0, 300, 600, 1000, 1700, 2600, 4000, 5500, 8001])
_WINDOW, _BLOCK = 256, 4096
_FLOOR = 1e-6
_SCALE = 0.2
_MOST_SECONDS, OUT_SCALE = 0.06, 0.05
_LEAST_STEPS, _ARRAYS = 1.0, 6
_SHORTEST, _USUAL, _LONGEST = 0.01, 0.08, 0.5

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Layers = Sequence[Floats]
"""The weights, (inputs, outputs), and the offsets, (outputs,), of each layer in turn."""


def bands(samples: Singles, warp: Warp = 1.0) -> Singles:
    """Return log energy in eight bands every 5 ms of 16 kHz sound; (hops, 8). warp: how much higher the formants of the
    voice lie than usual."""
    hop = round(HOP_SECONDS * SAMPLE_RATE)
    total = len(samples) // hop + 1
    padded = np.pad(samples, (_WINDOW // 2, _WINDOW + hop))
    windows = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW)[::hop][:total]
    hz = np.fft.rfftfreq(_WINDOW, 1 / SAMPLE_RATE)
    window = np.hanning(_WINDOW).astype(np.float32)
    by_hop = warp if isinstance(warp, float) else warp[np.minimum(np.arange(total) // 2, len(warp) - 1)]
    energy = np.empty((total, len(_EDGES_HZ) - 1), np.float32)
    for at in range(0, total, _BLOCK):
        power = (np.abs(np.fft.rfft(windows[at : at + _BLOCK] * window, axis=1)) ** 2).astype(np.float32)
        for own, there in by_warp(by_hop, slice(at, at + _BLOCK)):
            edges = np.concatenate([[0.0], warped(_EDGES_HZ[1:-1], own), [_EDGES_HZ[-1]]])
            member = ((hz[:, None] >= edges[:-1]) & (hz[:, None] < edges[1:])).astype(np.float32)
            energy[at : at + _BLOCK][there] = power[there] @ member
    return np.asarray(np.log(energy + energy.max() * _FLOOR + _FLOOR), np.float32)


def described(energy: Singles, edges: Floats, phones: Ints, acoustic: AcousticModel) -> Floats:
    """Return what the networks see of each boundary between two spans, (spans - 1, inputs). edges: (spans + 1,) in
    seconds; phones: (spans,) of the model, or added to its own."""
    hops = np.round(edges[1:-1] / HOP_SECONDS).astype(int)
    around = energy[np.clip(hops[:, None] + OFFSETS, 0, len(energy) - 1)].astype(np.float64)
    shape = ((around - around.mean(axis=1, keepdims=True)) * _SCALE).reshape(len(hops), -1)
    total = len(acoustic.phones)
    names = np.eye(total)[np.where(phones < total, phones, acoustic.index("SIL"))]
    lengths = np.log(np.clip(np.diff(edges), _SHORTEST, _LONGEST) / _USUAL)[:, None]
    return np.concatenate([shape, names[:-1], names[1:], lengths[:-1], lengths[1:]], axis=1)


def said_by(layers: Layers, seen: Floats) -> Floats:
    """Return how far off boundaries are, in seconds, as a network says of what it sees of them."""
    for weights, offsets in zip(layers[:-2:2], layers[1:-2:2], strict=True):
        seen = np.maximum(seen @ weights + offsets, 0)
    return np.asarray((seen @ layers[-2] + layers[-1])[:, 0] * OUT_SCALE)


def moved(energy: Singles, edges: Floats, phones: Ints, acoustic: AcousticModel, networks: Sequence[Layers]) -> Floats:
    """Return edges after all networks, the first and the last where they were, and those beside what is no phone of the
    model."""
    edges = np.array(edges, np.float64)
    known = phones < len(acoustic.phones)
    known = known[:-1] & known[1:]
    for layers in networks:
        off = said_by(layers, described(energy, edges, phones, acoustic))
        edges[1:-1] += known * np.clip(off, -_MOST_SECONDS, _MOST_SECONDS)
    return edges


def refined(spans: Sequence[Span], energy: Singles, acoustic: AcousticModel) -> tuple[Span, ...]:
    """Return spans that follow one another, with the boundaries between them moved; the first and the last edge stay.

    No span becomes shorter than 10 ms, or than it was.
    """
    if len(spans) < 2:
        return tuple(spans)
    phones = np.array([span.phone for span in spans])
    edges = np.array([span.start for span in spans] + [spans[-1].end])
    inner = moved(energy, edges * STEP_SECONDS, phones, acoustic, _networks())[1:-1] / STEP_SECONDS
    placed = [float(edges[0])]
    for number, frame in enumerate(inner, 1):
        room = min(_LEAST_STEPS, edges[number + 1] - edges[number])
        placed.append(
            float(
                min(
                    max(frame, placed[-1] + min(_LEAST_STEPS, edges[number] - edges[number - 1])),
                    edges[number + 1] - room,
                )
            )
        )
    placed.append(float(edges[-1]))
    return tuple(replace(s, start=a, end=b) for s, a, b in zip(spans, placed[:-1], placed[1:], strict=True))


@functools.cache
def _networks() -> list[list[Floats]]:
    """Those that come with the engine, in the order in which they are applied."""
    with np.load(Path(__file__).with_name("refine.npz")) as kept:
        layers = [np.asarray(kept[name], np.float64) for name in sorted(kept)]
    return [layers[at : at + _ARRAYS] for at in range(0, len(layers), _ARRAYS)]
