"""Blinks at a human rate: seldom twice in a second, in pauses and where a thought begins or ends, and never where they
would hide something: a closure, or a word that is stressed."""

from bisect import bisect_left, bisect_right, insort
from collections.abc import Collection, Sequence

import numpy as np

from ..mouths.parts import HALF, SHUT
from .lanes import Gesture, ShownFor
from .speech import Phrase, Speech, near

USUAL_RATE = 16.0
"""Blinks a minute: people blink 10 to 25 times while they talk (Bentivoglio et al. 1997)."""

LEAST_RATE, MOST_RATE = 1.0, 60.0
_REFRACTORY = 0.6
"""In seconds: nobody blinks again sooner."""

_SPREAD = 0.55
"""How much waits between blinks differ: their deviation as a share of their mean."""

_PULL = 0.5
"""A blink goes to a thought's beginning or end within so much of the mean wait."""

_DODGE = 4
"""In frames: how far it gives way to what it would hide."""

_BEFORE, _AFTER, _PAUSE_SECONDS = 0.12, 0.1, 0.12
"""In seconds: how long before somebody speaks they blink, and after; and what is a pause of theirs."""

_STRESSED = 0.35
"""Over a word from this score on nobody blinks."""

_FASTER = 1.05
"""By so much more often it is thought of, as some find no room."""


def blink(frame: int, speech: Speech, drawings: Collection[str], long: bool, line: int) -> Gesture:
    """Return a blink of 2 to 4 frames at 24 a second: half shut, shut, half open again, as far as there are
    drawings."""
    beat = speech.frames_of(1 / 24)
    steps = [(HALF, beat), (SHUT, 2 * beat if long else beat), (HALF, beat)]
    shown, at = [], 0
    for drawing, frames in steps if HALF in drawings else [(SHUT, 2 * beat)]:
        shown.append(ShownFor(at, frames, drawing))
        at += frames
    return Gesture(0, "blink", frame, line, shown=tuple(shown))


def blink_frames(speech: Speech, rate: float, seed: int, turns: Sequence[int], taken: Sequence[range]) -> list[int]:
    """Return the first frames of blinks, the same for the same seed. rate: blinks a minute; turns: frames on which a
    head turns or eyes go elsewhere; taken: where none can be (a stare that was set, a blink that was accepted)."""
    stressed = [
        range(word.frame, word.end)
        for phrase in speech.phrases
        for word in phrase.words
        if word.accent >= _STRESSED and len(phrase.words) > 1
    ]
    hidden = [*taken, *stressed]
    found = []
    for frame in _in_pauses(_scheduled(speech, rate, seed, turns), speech, turns):
        free = _dodged(frame, hidden, speech)
        if free is not None:
            found.append(free)
    return found


def _in_pauses(frames: Sequence[int], speech: Speech, turns: Sequence[int]) -> list[int]:
    """Frames of blinks as they are, but those within a phrase in a pause of it, where it begins or ends, at a turn or,
    where all that is taken, between two words; none that would come too soon before or after another."""
    apart = int(np.ceil(_REFRACTORY * speech.fps + 2 * _DODGE))
    begins = [phrase.frame for phrase in speech.phrases]
    within = [_phrase_on(frame, speech, begins) for frame in frames]
    found = [frame for frame, phrase in zip(frames, within, strict=True) if phrase is None]
    for frame, phrase in zip(frames, within, strict=True):
        if phrase is None:
            continue
        for places in _places(phrase, speech, turns):
            free = [at for at in places if not near(at, found, apart - 1)]
            if free:
                insort(found, min(free, key=lambda at: abs(at - frame)))
                break
    return found


def _phrase_on(frame: int, speech: Speech, begins: Sequence[int]) -> Phrase | None:
    """The phrase that is being said on a frame."""
    at = bisect_right(begins, frame) - 1
    return speech.phrases[at] if at >= 0 and frame < speech.phrases[at].end else None


def _places(phrase: Phrase, speech: Speech, turns: Sequence[int]) -> list[list[int]]:
    """Where one may blink about a phrase: at best, else."""
    pauses = [own.start for own in phrase.pauses(speech.frames_of(_PAUSE_SECONDS))]
    turned = [turn for turn in turns if phrase.frame <= turn < phrase.end]
    edges = [max(0, phrase.frame - speech.frames_of(_BEFORE)), phrase.end + speech.frames_of(_AFTER)]
    seams = [word.end for word in phrase.words[:-1] if word.accent < _STRESSED]
    return [[*pauses, *turned, *edges], seams]


def _scheduled(speech: Speech, rate: float, seed: int, turns: Sequence[int]) -> list[int]:
    """When somebody would blink if there were nothing to hide: it goes by where phrases begin and end alone, so that it
    is the same whatever is asked for."""
    dice = np.random.default_rng(seed)
    refractory = _REFRACTORY * speech.fps + 2 * _DODGE
    mean = max(60.0 / rate / _FASTER - refractory / speech.fps, 0.05) * speech.fps
    wanted = sorted({*turns, *_begins(speech), *_ends(speech)})
    found, at, last = list[int](), float(dice.uniform(0, mean)), -refractory
    while at < speech.frames:
        frame = max(_pulled(int(at), wanted, int(min(mean, 60 * speech.fps) * _PULL)), int(np.ceil(last + refractory)))
        found.append(frame)
        last = float(frame)
        shape = 1 / _SPREAD**2
        at = max(at, last) + refractory + dice.gamma(shape, mean / shape)
    return found


def _begins(speech: Speech) -> list[int]:
    """The frame before somebody begins to speak."""
    return [max(0, phrase.frame - speech.frames_of(_BEFORE)) for phrase in speech.phrases]


def _ends(speech: Speech) -> list[int]:
    """Just after somebody has spoken."""
    return [phrase.end + speech.frames_of(_AFTER) for phrase in speech.phrases]


def _pulled(frame: int, wanted: Sequence[int], within: int) -> int:
    """The nearest of the frames that are wanted, if one is near."""
    close = wanted[bisect_left(wanted, frame - within) : bisect_right(wanted, frame + within)]
    return min(close, key=lambda one: abs(one - frame)) if close else frame


def _dodged(frame: int, taken: Sequence[range], speech: Speech) -> int | None:
    """A frame near one where lids may be shut for a moment; None where there is none."""
    long = speech.frames_of(4 / 24)
    for by in sorted(range(-_DODGE, _DODGE + 1), key=abs):
        first = frame + by
        shut = first + long // 2
        hidden = any(one.start < first + long and one.stop > first for one in taken)
        if not hidden and not near(shut, speech.closures, long // 4) and 0 <= first < speech.frames - long:
            return first
    return None
