"""Articulation: what each articulator does over time, sampled once a frame.

Dominance blending (Cohen & Massaro 1993): z(t) = sum D_i(t) T_i / sum D_i(t) for each articulator, where a sound's
dominance D_i falls off exponentially either side of its span, so that rounding spreads into its neighbours as it does
in life. Two things are added: a sound is firm only in the articulators it needs (lips may be pursed or spread through
an m, but not open), and its dominance grows towards its middle, so that a sound that lasts is reached, not undershot.
"""

import functools
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ..mouths.chart import shape_at
from ..mouths.shapes import ARTICULATORS, CLOSURES, SHAPES, Articulation, shapes_of, visibility
from ..speech.phones import is_vowel
from ..speech.reading import Sound
from ..timebase import all_touched, all_within, frame_count, frames_touched, frames_within

_GLIDE_SECONDS = 0.14
"""A diphthong that is held is held in its first half; the glide into the second takes no longer than this."""

REACH_SECONDS = 0.20
"""No sound has a say farther from it than this."""

_AT_ONCE = 10_000
_ONSET, _OFFSET = 45.0, 38.0
_REST_STRENGTH = 0.5
_QUICK = {"press": 1.9, "tuck": 1.7, "tip": 1.3, "teeth": 1.2, "lift": 1.2, "push": 1.1, "purse": 0.8, "round": 0.85}
_REST_RATE = 25.0

_DEEP_SECONDS, _DEEP_GAIN = 0.05, 12.0
"""A sound this far from its nearer edge outweighs its neighbours by this much more, the more so the more it is seen."""

_LOOSE = 0.3
_LOOSE_IN = {
    "press": ("width", "rounding"),
    "tuck": ("width", "rounding"),
    "tip": ("width", "rounding"),
    "teeth": ("width", "rounding"),
    "lift": ("width", "rounding"),
    "ajar": ("width", "rounding", "upper_teeth", "lower_teeth"),
}

_SPEAKING_LEVEL = 0.6
_QUIETEST_JAW = 0.8
_STRESS_JAW = {0: 0.93, 1: 1.0, 2: 0.97}

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
Stretches = Sequence[tuple[float, float]]
Aims = Mapping[str, Articulation]


@dataclass(frozen=True)
class Target:
    """One aim of the mouth: the sound it serves (its number in the reading), when, at what place.

    nucleus: the vowel of a syllable, of a diphthong the first half; stress and level as the sound has them.
    """

    sound: int
    shape: str
    start: float
    end: float
    place: Array
    visible: float
    nucleus: bool = False
    stress: int = 0
    level: float = 1.0

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return self.end - self.start


@dataclass(frozen=True)
class Curves:
    """The mouth that is asked for on every frame. values: (frames, articulators) 0..1; visible: (frames,) weight of
    being right; silent: (frames,) bool, no sound touches the frame; targets: those that sound on these frames;
    first: which frame of the scene is the first here."""

    rate: Fraction
    values: Array
    visible: Array
    silent: Bools
    targets: tuple[Target, ...]
    first: int = 0

    @property
    def frames(self) -> range:
        """The frames of the scene that these are."""
        return range(self.first, self.first + len(self.values))

    @functools.cached_property
    def all_touched(self) -> tuple[range, ...]:
        """For each aim what touched gives."""
        return self._counted(all_touched)

    @functools.cached_property
    def all_within(self) -> tuple[range, ...]:
        """For each aim what within gives."""
        return self._counted(all_within)

    def _counted(self, of: Callable[[Array, Array, Fraction], tuple[Ints, Ints]]) -> tuple[range, ...]:
        if not self.targets:
            return ()
        starts, ends = np.array([(target.start, target.end) for target in self.targets]).T
        firsts, lasts = (np.maximum(0, one - self.first).tolist() for one in of(starts, ends, self.rate))
        return tuple(map(range, firsts, lasts))

    def touched(self, target: Target) -> range:
        """Return the frames, counted from the first here, during which an aim sounds; at least one."""
        return _counted_from(self.first, frames_touched(target.start, target.end, self.rate))

    def within(self, target: Target) -> range:
        """Return the frames, counted from the first here, in whose middle an aim sounds; at least one."""
        return _counted_from(self.first, frames_within(target.start, target.end, self.rate))


def _counted_from(first: int, frames: range) -> range:
    return range(max(0, frames.start - first), max(0, frames.stop - first))


def targets_of(
    sounds: Iterable[Sound], allowed: Stretches | None = None, aims: Aims | None = None
) -> tuple[Target, ...]:
    """Return the aims of a run of sounds in order; a diphthong has two. Stress and loudness open the jaw further. A
    sound that lasts no time has none: its word was not said.

    allowed: the only stretches (start, end) in seconds where the mouth may move; sounds outside have no aim. aims: for
    some sounds in IPA where their mouth is to be instead, of a diphthong the first half.
    """
    found = []
    for number, sound in enumerate(sounds):
        if not _may_be_seen(sound, allowed):
            continue
        shapes = shapes_of(sound.ipa)
        glide = min((sound.end - sound.start) / 2, _GLIDE_SECONDS)
        edges = (sound.start, *([sound.end - glide] if len(shapes) > 1 else []), sound.end)
        for half, (asked, start, end) in enumerate(zip(shapes, edges[:-1], edges[1:], strict=True)):
            shape = asked
            place = np.array(SHAPES[shape].place)
            if shape not in CLOSURES:
                place[0] *= _jaw_scale(sound)
            if aims and half == 0 and sound.ipa in aims:
                place, shape = np.array(aims[sound.ipa]), shape_at(aims[sound.ipa])
            nucleus = half == 0 and is_vowel(sound.ipa)
            visible = max(visibility(sound.ipa, shape), SHAPES[shape].visible if shape != asked else 0.0)
            found.append(Target(number, shape, start, end, place, visible, nucleus, sound.stress, sound.level))
    return tuple(found)


def _jaw_scale(sound: Sound) -> float:
    """At speaking level a jaw opens as its sound asks; it opens less in a murmur, never so little as to be another."""
    loud = min(1.0, sound.level / _SPEAKING_LEVEL)
    return _STRESS_JAW[sound.stress] * (_QUIETEST_JAW + (1 - _QUIETEST_JAW) * loud)


def curves(
    sounds: Iterable[Sound],
    seconds: float,
    rate: Fraction,
    allowed: Stretches | None = None,
    frames: range | None = None,
    aims: Aims | None = None,
) -> Curves:
    """Return sample the mouth at the middle of each frame of a sound of this length. allowed and aims: as targets_of
    has them.

    frames: only these; sounds may then be left out that lie farther than REACH_SECONDS from all of them on which the
    mouth does not rest for certain.
    """
    own = range(frame_count(seconds, rate)) if frames is None else frames
    times: Array = (np.arange(own.start, own.stop, dtype=np.float64) + 0.5) / float(rate)
    targets = targets_of(sounds, allowed, aims)
    heard = _heard_on(targets, rate, own) if frames else targets
    blended = _blended(targets, times, float(rate), own.start)
    found = Curves(rate, blended, np.zeros(len(own)), np.ones(len(own), bool), heard, own.start)
    for target, touched in zip(heard, found.all_touched, strict=True):
        here = slice(touched.start, touched.stop)
        found.visible[here] = np.maximum(found.visible[here], target.visible)
        found.silent[here] = False
    seen = np.where(found.silent, SHAPES["rest"].visible, found.visible)
    return replace(found, visible=np.maximum(seen, 0.05))


def _heard_on(targets: Sequence[Target], rate: Fraction, frames: range) -> tuple[Target, ...]:
    """The aims that sound on some frames."""
    starts, ends = np.array([(target.start, target.end) for target in targets]).reshape(-1, 2).T
    firsts, lasts = all_touched(starts, ends, rate)
    return tuple(targets[at] for at in np.flatnonzero((firsts < frames.stop) & (lasts > frames.start)).tolist())


def part_of(whole: Curves, frames: range) -> Curves:
    """Return the curves on some of their frames, with the aims that sound there."""
    here = slice(frames.start - whole.first, frames.stop - whole.first)
    heard = _heard_on(whole.targets, whole.rate, frames)
    return Curves(whole.rate, whole.values[here], whole.visible[here], whole.silent[here], heard, frames.start)


def silence(sounds: Iterable[Sound], rate: Fraction, frames: range, allowed: Stretches | None = None) -> Bools:
    """Return (frames,) whether no sound touches a frame; allowed: as targets_of has it."""
    seen = [(sound.start, sound.end) for sound in sounds if _may_be_seen(sound, allowed)]
    starts, ends = np.array(seen, float).reshape(-1, 2).T
    return untouched(starts, ends, rate, frames)


def untouched(starts: Array, ends: Array, rate: Fraction, frames: range) -> Bools:
    """Return (frames,) whether none of these stretches, in seconds, touches a frame."""
    firsts, lasts = (np.clip(one - frames.start, 0, len(frames)) for one in all_touched(starts, ends, rate))
    heard = np.bincount(firsts, minlength=len(frames) + 1) - np.bincount(lasts, minlength=len(frames) + 1)
    return np.asarray(np.cumsum(heard)[:-1] == 0)


def _may_be_seen(sound: Sound, allowed: Stretches | None) -> bool:
    """Whether it lasts, and its middle lies where the mouth may move."""
    if sound.end <= sound.start:
        return False
    middle = (sound.start + sound.end) / 2
    return allowed is None or any(start <= middle < end for start, end in allowed)


def runs(mask: Bools) -> list[tuple[int, int]]:
    """Return the stretches (first, end) where a mask of frames is true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(np.int8)))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def led(silent: Bools, lead: Ints) -> Ints:
    """Return which frame of the curves is shown on each frame: lead later, and one more where a phrase begins. Rest
    does not come early: the end of a phrase is shown until it is over, and a phrase shorter than the lead is not passed
    over."""
    frames = len(silent)
    numbers = np.arange(frames)
    source = np.minimum(numbers + lead, frames - 1)
    following = np.minimum(source + 1, frames - 1)
    begins = silent[source] & ~silent[following] & (lead > 0)
    source[begins] = following[begins]
    ends = ~silent & silent[source]
    still_sounding = np.minimum.accumulate(np.where(silent, numbers, frames)[::-1])[::-1] - 1
    source[ends] = still_sounding[ends]
    latest = np.maximum.accumulate(np.where(silent, -1, numbers))
    passed = silent & silent[source] & (latest[source] > numbers)
    source[passed] = latest[source[passed]]
    return np.maximum.accumulate(source)


def _blended(targets: tuple[Target, ...], times: Array, fps: float, begin: int) -> Array:
    """(frames, articulators): at each time the mean of all aims in reach and of rest, weighted by dominance."""
    idle = _rest_dominance(targets, times)
    weight = np.repeat(idle[:, None], len(ARTICULATORS), axis=1)
    total: Array = weight * np.array(SHAPES["rest"].place)
    for few in _batches(targets):
        which, frame = _in_reach(few, fps, begin, len(times))
        dominance, depth = _dominance(few, which, times[frame])
        firm = np.array([_FIRM[target.shape] for target in few])
        place = np.array([target.place for target in few])
        for articulator in range(len(ARTICULATORS)):
            drawn = dominance * np.where(firm[which, articulator], depth, _LOOSE)
            weight[:, articulator] += np.bincount(frame, drawn, len(times))
            total[:, articulator] += np.bincount(frame, drawn * place[which, articulator], len(times))
    blended: Array = total / weight
    return blended


def _batches(targets: tuple[Target, ...]) -> Iterator[tuple[Target, ...]]:
    """The aims some at a time, so that memory stays bounded."""
    for first in range(0, len(targets), _AT_ONCE):
        yield targets[first : first + _AT_ONCE]


def _in_reach(targets: tuple[Target, ...], fps: float, begin: int, frames: int) -> tuple[Ints, Ints]:
    """All pairs of an aim, by its place among these, and a frame it has a say in, counted from the one begun at."""
    starts, ends = np.array([t.start for t in targets]), np.array([t.end for t in targets])
    first = np.clip(np.floor((starts - REACH_SECONDS) * fps).astype(np.int64) - begin, 0, frames)
    last = np.clip(np.floor((ends + REACH_SECONDS) * fps).astype(np.int64) + 1 - begin, first, frames)
    lengths = last - first
    which = np.repeat(np.arange(len(targets)), lengths)
    before = np.repeat(np.cumsum(lengths) - lengths, lengths)
    return which, np.arange(len(which)) - before + first[which]


def _dominance(targets: tuple[Target, ...], which: Ints, times: Array) -> tuple[Array, Array]:
    """How strongly each aim draws the mouth at a time, and how much more so deep inside it where it is firm."""
    start, end = np.array([t.start for t in targets])[which], np.array([t.end for t in targets])[which]
    visible = np.array([t.visible for t in targets])[which]
    quick = np.array([_QUICK.get(t.shape, 1.0) for t in targets])[which]
    away = np.where(times < start, (start - times) * _ONSET, np.maximum(0, times - end) * _OFFSET)
    depth = np.clip(np.minimum(times - start, end - times) / _DEEP_SECONDS, 0, 1)
    return (0.3 + visible) * np.exp(-away * quick), 1 + _DEEP_GAIN * visible * depth**2


_FIRM = {
    shape: np.array([articulator not in _LOOSE_IN.get(shape, ()) for articulator in ARTICULATORS]) for shape in SHAPES
}


def _rest_dominance(targets: tuple[Target, ...], times: Array) -> Array:
    """How strongly the mouth is drawn to rest: grows with the distance from the nearest sound."""
    if not targets:
        return np.ones(len(times))
    starts, ends = np.array([t.start for t in targets]), np.array([t.end for t in targets])
    after = np.searchsorted(starts, times)
    until = np.where(after < len(starts), starts[np.minimum(after, len(starts) - 1)] - times, np.inf)
    since = np.where(after > 0, times - ends[np.maximum(after - 1, 0)], np.inf)
    nearest = np.maximum(0.0, np.minimum(since, until))
    return _REST_STRENGTH * (1 - np.exp(-nearest * _REST_RATE)) + 1e-6
