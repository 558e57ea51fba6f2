"""How what was set on a sound comes along to its next version, by re-edits and other takes whose truth is known; seeds
are fixed."""

import argparse
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np
import scipy.signal
from numpy.typing import NDArray

from tests.speech import encode
from tinfork.core.errors import TinForkError
from tinfork.core.exposure.pins import AnchoredPin
from tinfork.core.following import carrying
from tinfork.core.following.following import Followed, follow, read_plain
from tinfork.core.following.ways import OtherSounds
from tinfork.core.sound import recording
from tinfork.core.sound.recording import READ_RATE, Recording
from tinfork.core.speech.read import LineToRead, read_lines
from tinfork.core.speech.reading import Line

from . import made, truth
from .truth import Phone, Truth

Singles = NDArray[np.float32]
RATE = Fraction(24)
OLD, NEW = 1, 2


@dataclass(frozen=True)
class Spoken:
    """A sound of several lines. phones: of each line; lines: what was read of them."""

    samples: Singles
    texts: tuple[str, ...]
    phones: tuple[tuple[Phone, ...], ...]
    lines: tuple[Line, ...]


@dataclass(frozen=True)
class Edited:
    """Another version: its samples, and of each sample of the old one where it is, in seconds; -1 where it is gone."""

    samples: Singles
    to: NDArray[np.float64]
    what: tuple[str, ...]


def spoken(
    seed: int, voice: str, stretch: float = 1.0, language: str = "", texts: Sequence[str] = (), read: bool = True
) -> Spoken:
    """Return a sound of five to eight lines, with pauses and a little noise."""
    chance = np.random.default_rng(seed)
    own = list(texts) or made.sentences(seed, int(chance.integers(5, 9)))
    lines: list[Truth] = [
        truth.espeak(text, language, int(160 / stretch)) if language else truth.flite(text, voice, stretch)
        for text in own
    ]
    pieces, phones, at = [], [], 0.0
    for line in lines:
        pause = np.zeros(int(READ_RATE * chance.uniform(0.1, 0.9)), np.float32)
        pieces += [pause, line.recording.samples]
        at += len(pause) / READ_RATE
        phones.append(tuple(Phone(p.ipa, p.start + at, p.end + at) for p in line.phones))
        at += len(line.recording.samples) / READ_RATE
    samples = np.concatenate([*pieces, np.zeros(4000, np.float32)])
    samples += chance.standard_normal(len(samples)).astype(np.float32) * 0.0015
    found: tuple[Line, ...] = ()
    if read:
        found = read_lines(_recording(samples), [LineToRead(text, "en", n + 1) for n, text in enumerate(own)]).lines
    return Spoken(samples, tuple(own), tuple(phones), found)


def _recording(samples: Singles) -> Recording:
    return Recording(samples.astype(np.float32), len(samples) / READ_RATE, READ_RATE)


# Re-edits


def edited(old: Spoken, other: Singles, seed: int) -> Edited:
    """Return an old sound as it was cut, moved and treated anew. other: what is put in comes from there."""
    chance = np.random.default_rng(seed)
    cells = np.arange(len(old.samples))
    parts = [cells]  # Places of the old sound, -1 - place for one of the other.
    what = []
    for _ in range(int(chance.integers(0, 4))):
        kind = str(chance.choice(["cut", "insert", "move", "silence"]))
        whole = np.concatenate(parts)
        at = int(chance.integers(0, len(whole)))
        long = int(READ_RATE * chance.uniform(0.3, 4.0))
        if kind == "cut" and len(whole) > 3 * long:
            whole = np.concatenate([whole[:at], whole[at + long :]])
        elif kind == "insert":
            first = int(chance.integers(0, max(1, len(other) - long)))
            whole = np.concatenate([whole[:at], -1 - np.arange(first, min(len(other), first + long)), whole[at:]])
        elif kind == "silence":
            whole = np.concatenate([whole[:at], np.full(long, -1 - len(other)), whole[at:]])
        elif len(whole) > 3 * long:
            long = max(long, 2 * READ_RATE)
            piece, rest = whole[at : at + long], np.concatenate([whole[:at], whole[at + long :]])
            to = int(chance.integers(0, len(rest)))
            whole = np.concatenate([rest[:to], piece, rest[to:]])
        parts = [whole]
        what.append(kind)
    whole = np.concatenate(parts)
    there = np.concatenate([other, np.zeros(1, np.float32)])
    samples = np.where(
        whole >= 0, old.samples[np.maximum(whole, 0)], there[np.maximum(-1 - whole, 0).clip(0, len(other))]
    )
    to = np.full(len(old.samples), -1.0)
    inside = whole >= 0
    to[whole[inside]] = np.flatnonzero(inside) / READ_RATE
    samples, speed = samples.astype(np.float32), 1.0
    for name, share, work in _TREATMENTS:
        if chance.random() < share:
            samples, by = work(samples, chance)
            speed *= by
            what.append(name)
    return Edited(samples, np.where(to >= 0, to * speed, -1.0), tuple(what))


Treated = tuple[Singles, float]


def _gain(samples: Singles, chance: np.random.Generator) -> Treated:
    return np.asarray(samples * 10 ** (chance.uniform(-20, 6) / 20), np.float32), 1.0


def _cleaned(samples: Singles, chance: np.random.Generator) -> Treated:
    """A gate on each frequency, as noise reductions have it."""
    _, _, own = scipy.signal.stft(samples, READ_RATE, nperseg=512)
    level = np.abs(own)
    floor = np.percentile(level, 20, axis=1, keepdims=True) * chance.uniform(2, 5)
    _, back = scipy.signal.istft(
        own * np.clip((level - floor) / np.maximum(level, 1e-9), 0.02, 1), READ_RATE, nperseg=512
    )
    return np.asarray(back[: len(samples)], np.float32), 1.0


def _resampled(samples: Singles, chance: np.random.Generator) -> Treated:
    by = float(chance.uniform(0.945, 1.06))
    at = np.arange(int(len(samples) * by)) / by
    return np.interp(at, np.arange(len(samples)), samples).astype(np.float32), by


def _room(samples: Singles, chance: np.random.Generator) -> Treated:
    seconds = chance.uniform(0.15, 0.5)
    t = np.arange(int(seconds * READ_RATE)) / READ_RATE
    tail = chance.standard_normal(len(t)) * 10 ** (-3 * t / seconds)
    tail *= chance.uniform(0.2, 0.8) / np.sqrt((tail**2).sum())
    tail[0] = 1.0
    return scipy.signal.fftconvolve(samples, tail)[: len(samples)].astype(np.float32), 1.0


def _mp3(samples: Singles, chance: np.random.Generator) -> Treated:
    with tempfile.TemporaryDirectory() as folder:
        path = encode(Path(folder) / "sound.mp3", samples, "libmp3lame", "mp3", READ_RATE)
        found = recording.load(path).samples
    # What the codec puts before is not what is meant here, but what it does to the sound.
    size = min(len(samples), len(found), 20 * READ_RATE)
    cross = scipy.signal.correlate(
        found[: size + 4000], samples[:size], "valid" if len(found) >= size + 4000 else "full"
    )
    lag = int(np.argmax(np.abs(cross))) if len(found) >= size + 4000 else int(np.argmax(np.abs(cross))) - (size - 1)
    found = np.pad(found[max(0, lag) :], (0, max(0, len(samples) + max(0, lag) - len(found))))[: len(samples)]
    return found.astype(np.float32), 1.0


_TREATMENTS: tuple[tuple[str, float, Callable[[Singles, np.random.Generator], Treated]], ...] = (
    ("cleaned", 0.35, _cleaned),
    ("room", 0.3, _room),
    ("speed", 0.3, _resampled),
    ("gain", 0.6, _gain),
    ("mp3", 0.3, _mp3),
)


# What was set


def pins_on(old: Spoken, seed: int, count: int = 30) -> list[AnchoredPin]:
    """Return pins where something is said, of 2 to 7 frames."""
    chance = np.random.default_rng(seed)
    there = [phone for line in old.phones for phone in line if phone.ipa]
    found = []
    for _ in range(count):
        phone = there[int(chance.integers(len(there)))]
        frame = int(chance.uniform(phone.start, phone.end) * 24)
        found.append(AnchoredPin(frame, int(chance.integers(2, 8)), f"drawing {len(found)}", OLD))
    return found


@dataclass
class Tally:
    """Of things that were set: how many have a place in the new sound, are there within a frame, are told to have none;
    how many have none and are told so; and how many are neither there nor told."""

    placed: int = 0
    right: int = 0
    told: int = 0
    gone: int = 0
    gone_told: int = 0
    lost: int = 0

    def add(self, found: "Tally") -> None:
        for name in vars(self):
            setattr(self, name, getattr(self, name) + getattr(found, name))


def _expected(pin: AnchoredPin, to: NDArray[np.float64]) -> float | None:
    """On which frame of the new sound a pin begins: as the longest part of it does that is whole there."""
    first, end = (min(len(to), int(at / 24 * READ_RATE)) for at in (pin.frame, pin.frame + pin.frames))
    own = to[first:end]
    if not len(own) or (own < 0).mean() > 0.5:
        return None
    breaks = np.flatnonzero(np.abs(np.diff(own)) > 0.001) + 1
    runs = [(a, b) for a, b in zip([0, *breaks], [*breaks, len(own)], strict=True) if own[a] >= 0]
    a, _ = max(runs, key=lambda run: run[1] - run[0])
    return float(own[a] * 24)


def tally(pins: Sequence[AnchoredPin], expected: Sequence[float | None], found: Followed | None) -> Tally:
    """Compare where pins are with where they belong."""
    way = OtherSounds(RATE, {OLD: found.legs(24.0, NEW) if found else ()})
    carried = carrying.pins(way, pins)
    left = {id(one) for one in carried.left}
    own = Tally()
    for pin, now, frame in zip(pins, carried.things, expected, strict=True):
        told = id(pin) in left
        own.lost += (now.source_id != NEW) != told
        if frame is None:
            own.gone += 1
            own.gone_told += told
        else:
            own.placed += 1
            own.told += told
            own.right += not told and abs(now.frame - frame) <= 1.5
    return own


def edits(count: int, seed: int) -> Iterator[tuple[str, Tally, float]]:
    """Return of each re-edit what was done, how it went, and the seconds it took."""
    scenes = [spoken(seed + n, truth.FLITE_VOICES[n % 4]) for n in range(max(2, count // 15))]
    for n in range(count):
        old = scenes[n % len(scenes)]
        change = edited(old, scenes[(n + 1) % len(scenes)].samples, seed * 1000 + n)
        pins = pins_on(old, seed * 1000 + n)
        begun = time.perf_counter()
        found = _followed(old, change.samples)
        took = time.perf_counter() - begun
        yield " ".join(change.what) or "nothing", tally(pins, [_expected(pin, change.to) for pin in pins], found), took


def _followed(old: Spoken, samples: Singles) -> Followed | None:
    try:
        return follow(_recording(old.samples), _recording(samples), old.lines, read_plain())
    except TinForkError as refused:
        print("   refused:", refused)
        return None


# Other takes


def takes(count: int, seed: int) -> Iterator[tuple[str, Tally, float]]:
    """Return the same of other takes: another voice, at another speed, in half of them with a word changed."""
    for n in range(count):
        chance = np.random.default_rng(seed * 100 + n)
        old = spoken(seed + n, truth.FLITE_VOICES[n % 4])
        texts, changed = list(old.texts), n % 2 == 1
        which = int(chance.integers(len(texts)))
        if changed:
            own = texts[which].split()
            own[int(chance.integers(len(own)))] = "lantern"
            texts[which] = " ".join(own)
        stretch = float(chance.uniform(0.8, 1.25))
        language = "en-gb" if n % 3 == 2 else ""
        voice = truth.FLITE_VOICES[(n + 1 + n // 4) % 4]
        new = spoken(seed + 500 + n, voice, stretch, language, texts, read=False)
        pins = pins_on(old, seed * 100 + n)
        expected = [_said_again(pin, old, new, which if changed else -1) for pin in pins]
        some = [(pin, frame) for pin, frame in zip(pins, expected, strict=True) if frame != -1]
        begun = time.perf_counter()
        found = _followed(old, new.samples)
        took = time.perf_counter() - begun
        name = f"{language or voice} x{stretch:.2f}{' word' if changed else ''}"
        yield name, tally([pin for pin, _ in some], [frame for _, frame in some], found), took


def _said_again(pin: AnchoredPin, old: Spoken, new: Spoken, changed: int) -> float | None:
    """Where a pin belongs by the sounds it begins in; -1 where that is not known, as other sounds were said."""
    time_of = pin.frame / 24 + 1e-6
    for n, (was, now) in enumerate(zip(old.phones, new.phones, strict=True)):
        one, other = ([phone for phone in line if phone.ipa] for line in (was, now))
        for at, phone in enumerate(one):
            if phone.start <= time_of < phone.end:
                if n == changed or len(one) != len(other):
                    return -1
                share = (time_of - phone.start) / (phone.end - phone.start)
                return (other[at].start + share * (other[at].end - other[at].start)) * 24
    return -1


def main() -> None:
    """Print how both went."""
    asked = argparse.ArgumentParser()
    asked.add_argument("--edits", type=int, default=300)
    asked.add_argument("--takes", type=int, default=60)
    asked.add_argument("--seed", type=int, default=7)
    asked.add_argument("--each", action="store_true")
    given = asked.parse_args()
    for what, rows in (("re-edits", edits(given.edits, given.seed)), ("other takes", takes(given.takes, given.seed))):
        whole, worst, seconds = Tally(), [], []
        for name, own, took in rows:
            whole.add(own)
            seconds.append(took)
            if own.right < own.placed - 1:
                worst.append((own.right - own.placed, name, own))
            if given.each:
                print(f"  {name}: {own} {took:.1f} s", flush=True)
        if not seconds:
            continue
        print(
            f"{what}: {len(seconds)}; within a frame {whole.right / max(1, whole.placed):.2%} of {whole.placed}; told "
            f"to have no place {whole.told} of these, and {whole.gone_told} of {whole.gone} that have none; "
            f"neither there nor told {whole.lost}; {np.median(seconds):.1f} s each, {max(seconds):.1f} at the most"
        )
        for row in sorted(worst, key=lambda one: one[0])[:12]:
            print("   ", *row)


if __name__ == "__main__":
    main()
