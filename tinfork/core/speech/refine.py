"""Boundaries moved to where the sound itself changes: a correction learned by regression.

A search in steps of 10 ms over whole-phone models puts boundaries a little off, each kind in its own way (Toledano,
Hernandez Gomez & Villarrubia Grande 2003). Around each boundary the energy of eight bands is taken every 5 ms; a linear
map, one share of it by the kind of sound before and one by the kind after, says how far off the boundary is. Applied
twice. The maps were fitted by bench/refining.py on synthesised speech of known timing; no boundary moves over 30 ms.
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
OFFSETS = np.array([-14, -10, -7, -5, -3, -2, -1, 0, 1, 2, 3, 5, 7, 10, 14])
_EDGES_HZ = np.array([0.0, 300, 600, 1000, 1700, 2600, 4000, 5500, 8001])
_WINDOW, _BLOCK = 256, 4096
_FLOOR = 1e-6
_SCALE = 0.2
_MOST_SECONDS = 0.03
_LEAST_STEPS = 1.0
_KINDS = (
    "P T K CH", "B D G JH", "F TH S SH HH", "V DH Z ZH", "M N NG", "L", "R W Y",
    "AA AE AH AO AW AY EH ER EY IH IY OW OY UH UW", "SIL +NSN+ +SPN+",
)  # fmt: skip
KINDS = len(_KINDS)
SILENCE = KINDS - 1

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


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


def kind_of(phone: int, acoustic: AcousticModel) -> int:
    """Return which kind of sound a model phone is, 0 to KINDS - 1; a phone added to the model's own counts as
    silence."""
    return _kinds(acoustic.phones)[phone] if phone < len(acoustic.phones) else SILENCE


@functools.cache
def _kinds(phones: tuple[str, ...]) -> list[int]:
    return [next(kind for kind, names in enumerate(_KINDS) if name in names.split()) for name in phones]


def described(energy: Singles, seconds: Floats, before: Ints, after: Ints) -> Floats:
    """Return what the maps see of boundaries at some times between sounds of some kinds; (boundaries, SIZE)."""
    hops = np.round(seconds / HOP_SECONDS).astype(int)
    around = energy[np.clip(hops[:, None] + OFFSETS, 0, len(energy) - 1)]
    shape = ((around - around.mean(axis=1, keepdims=True)) * _SCALE).reshape(len(hops), -1)
    left, right = np.eye(KINDS)[before], np.eye(KINDS)[after]
    pair = (left[:, :, None] * right[:, None, :]).reshape(len(hops), -1)
    by_kind = [(one[:, :, None] * shape[:, None, :]).reshape(len(hops), -1) for one in (left, right)]
    return np.concatenate([pair, shape, *by_kind], axis=1)


def moved(energy: Singles, seconds: Floats, before: Ints, after: Ints, maps: Floats | None = None) -> Floats:
    """Return where boundaries lie after all maps. maps: (rounds, SIZE), or None for those that come with the engine."""
    seconds = np.asarray(seconds, np.float64)
    for weights in _maps() if maps is None else maps:
        off = described(energy, seconds, before, after) @ weights
        seconds = seconds + np.clip(off, -_MOST_SECONDS, _MOST_SECONDS)
    return seconds


def refined(spans: Sequence[Span], energy: Singles, acoustic: AcousticModel) -> tuple[Span, ...]:
    """Return spans that follow one another, with the boundaries between them moved; the first and the last edge stay.

    No span becomes shorter than 10 ms, or than it was.
    """
    if len(spans) < 2:
        return tuple(spans)
    kinds = np.array([kind_of(span.phone, acoustic) for span in spans])
    edges = np.array([span.start for span in spans] + [spans[-1].end])
    inner = moved(energy, edges[1:-1] * STEP_SECONDS, kinds[:-1], kinds[1:]) / STEP_SECONDS
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
def _maps() -> Floats:
    with np.load(Path(__file__).with_name("refine.npz")) as kept:
        return np.asarray(kept["maps"], np.float64)
