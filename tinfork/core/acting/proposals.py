"""What is proposed for a part while a phrase is said: blinks, looks, brows, nods. The same for the same seed; each for
itself, so that one can be thrown away and the others stay.

Sizes are units of a face's picture, turns degrees. They are those of a calm person; the amount of a phrase, and of the
scene, makes more or less of them.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..mouths.parts import SHUT, Part
from .blinks import LEAST_RATE, MOST_RATE, USUAL_RATE, blink, blink_frames
from .lanes import Gesture, PlacedLane, Points
from .speech import Phrase, Said, Speech

Dials = dict[str, Points]
_LOOK, _NOD, _BROW = (5.5, 2.5), 7.0, 6.5
_THOUGHT_SECONDS, _LONG_SECONDS, _LONG_BLINKS = 0.9, 2.2, 0.3


@dataclass(frozen=True)
class Wish:
    """What a scene asks of its proposals. rate: blinks a minute; seed: of all that is left to chance; eyes_first: by
    how many frames eyes go before the head."""

    rate: float = USUAL_RATE
    seed: int = 1
    eyes_first: int = 3


@dataclass(frozen=True)
class Thought:
    """Eyes that go elsewhere for a moment, and the head after them. x, y: where to, in shares of how far they go."""

    frame: int
    end: int
    x: float
    y: float
    line: int


def proposed(part: Part, lane: PlacedLane, speech: Speech, wish: Wish, numbers: Sequence[int]) -> list[Gesture]:
    """Return what a part could do in some phrases, by their places, in frames of the scene. Nothing is proposed where a
    gesture was accepted, or where a person set what the part shows."""
    make = _MAKERS.get(part.role)
    if make is None or not speech.phrases:
        return []
    wish = replace(wish, rate=min(MOST_RATE, max(LEAST_RATE, wish.rate)))
    decided = [range(one.frame, one.end) for one in lane.gestures if one.gesture.accepted]
    decided += [range(pin.frame, pin.end) for pin in lane.shows]
    found = []
    for one in make(part, speech, wish, decided, sorted(set(numbers))):
        over = any(own.start < one.frame + one.frames and one.frame < own.stop for own in decided)
        if not over and one.frame >= 0 and one.frame + one.frames <= speech.frames:
            found.append(one)
    return found


def thoughts(speech: Speech, seed: int, numbers: Sequence[int] | None = None) -> list[Thought]:
    """Return where eyes go elsewhere: in the pauses before phrases, and at seams between words of long ones. numbers:
    of which phrases, by their places; of all where they are not given."""
    found = []
    for number in range(len(speech.phrases)) if numbers is None else numbers:
        phrase = speech.phrases[number]
        pause = phrase.frame - speech.territory(number).start
        long = pause >= speech.frames_of(_THOUGHT_SECONDS)
        if not long and len(phrase.words) < 3:
            continue
        dice = _dice(seed, phrase, 1)
        side = float(dice.choice((-1, 1)))
        if long:
            first = phrase.frame - min(pause, speech.frames_of(dice.uniform(0.8, 1.3)))
            found.append(Thought(first, phrase.frame - 1, side, float(dice.uniform(-1, 0.4)), phrase.line))
        for word in _seams(phrase, speech, dice):
            end = min(word.end + speech.frames_of(0.25), phrase.end)
            size = float(dice.uniform(0.3, 0.6)) * float(dice.choice((-1, 1)))
            found.append(
                Thought(word.frame, max(end, word.frame + 4), size, float(dice.uniform(-0.3, 0.3)), phrase.line)
            )
    return found


def _seams(phrase: Phrase, speech: Speech, dice: np.random.Generator) -> list[Said]:
    """Words at which the eyes of somebody who speaks for long go elsewhere for a moment."""
    found, last = [], phrase.frame
    for word in phrase.words[1:-1]:
        if word.frame - last >= speech.frames_of(_LONG_SECONDS * float(dice.uniform(0.7, 1.3))):
            found.append(word)
            last = word.frame
    return found


def _blinks(part: Part, speech: Speech, wish: Wish, decided: Sequence[range], numbers: Sequence[int]) -> list[Gesture]:
    if SHUT not in part.drawings:
        return []
    turns = [one.frame for one in thoughts(speech, wish.seed) if abs(one.x) >= 1]
    refractory = speech.frames_of(0.8)
    taken = [range(one.start - refractory, one.stop + refractory) for one in decided]
    found = []
    own = [(speech.territory(number), speech.phrases[number].line) for number in range(len(speech.phrases))]
    wanted = {speech.phrases[number].line for number in numbers}
    for frame in blink_frames(speech, wish.rate, wish.seed, turns, taken):
        line = next((line for span, line in own if frame in span), own[-1][1])
        if line in wanted:
            long = bool(np.random.default_rng([wish.seed, frame]).random() < _LONG_BLINKS)
            found.append(blink(frame, speech, part.drawings, long, line))
    return found


def _looks(part: Part, speech: Speech, wish: Wish, decided: Sequence[range], numbers: Sequence[int]) -> list[Gesture]:
    found = []
    for one in thoughts(speech, wish.seed, numbers):
        far, quick = one.end - one.frame, speech.frames_of(2 / 24)
        if far > 3 * quick:
            there = {"x": _LOOK[0] * one.x, "y": _LOOK[1] * one.y}
            dials = {d: ((0, 0.0), (quick, v), (far - quick, v), (far, 0.0)) for d, v in there.items()}
            kind = "look" if abs(one.x) >= 1 else "dart"
            found.append(Gesture(0, kind, one.frame, one.line, dials=_rounded(dials)))
    return found


def _brows(later: int) -> Callable[..., list[Gesture]]:
    """later: by how many frames one brow goes behind the other."""

    def make(part: Part, speech: Speech, wish: Wish, decided: Sequence[range], numbers: Sequence[int]) -> list[Gesture]:
        found = []
        for phrase, word in _stressed(speech, numbers):
            up, stay, down = speech.frames_of(0.1), speech.frames_of(0.12), speech.frames_of(0.3)
            first = word.frame - up - speech.frames_of(0.06) + later
            end = up + max(stay, word.end - word.frame) + down
            size = -_BROW * _size(word)
            dials = {"y": ((0, 0.0), (up, size), (end - down, 0.8 * size), (end, 0.0))}
            found.append(Gesture(0, "brows", first, phrase.line, dials=_rounded(dials)))
        return _apart(found)

    return make


def _nods(part: Part, speech: Speech, wish: Wish, decided: Sequence[range], numbers: Sequence[int]) -> list[Gesture]:
    """On stressed words a nod: a small move the other way first, the nod with a squash, and a settling after it; a tilt
    that is held through the phrase; and a turn after eyes that go elsewhere."""
    found = []
    for phrase, word in _stressed(speech, numbers):
        back, hit = speech.frames_of(0.13), speech.frames_of(0.27)
        settle, end = speech.frames_of(0.45), speech.frames_of(0.65)
        middle = word.frame + min(speech.frames_of(0.12), (word.end - word.frame) // 2)
        size = _NOD * _size(word)
        down = ((0, 0.0), (back, -0.35 * size), (hit, size), (settle, -0.12 * size), (end, 0.0))
        tall = tuple((at, -0.005 * y) for at, y in down)
        found.append(Gesture(0, "nod", middle - hit, phrase.line, dials=_rounded({"y": down, "stretch": tall})))
    found = _apart(found)
    for number in numbers:
        found += _tilts(speech.phrases[number], speech, _dice(wish.seed, speech.phrases[number], 2))
    for one in thoughts(speech, wish.seed, numbers):
        if abs(one.x) >= 1:
            late, far = wish.eyes_first, one.end - one.frame
            quick = speech.frames_of(0.25)
            if far > 2 * quick:
                turned = ((0, 0.0), (quick, 3.0 * one.x), (far - quick, 3.0 * one.x), (far, 0.0))
                moved = tuple((at, 1.4 * value) for at, value in turned)
                dials = _rounded({"turn": turned, "x": moved})
                found.append(Gesture(0, "turn", one.frame + late, one.line, dials=dials))
    return found


def _tilts(phrase: Phrase, speech: Speech, dice: np.random.Generator) -> list[Gesture]:
    far, slow = phrase.end - phrase.frame, speech.frames_of(0.4)
    if far < 3 * slow:
        return []
    size = float(dice.uniform(1.2, 2.8)) * float(dice.choice((-1, 1)))
    held = ((0, 0.0), (slow, size), (far, 0.7 * size), (far + slow, 0.0))
    return [Gesture(0, "tilt", phrase.frame - slow // 2, phrase.line, dials=_rounded({"turn": held}))]


def _stressed(speech: Speech, numbers: Sequence[int]) -> list[tuple[Phrase, Said]]:
    own = [speech.phrases[number] for number in numbers]
    return [(phrase, word) for phrase in own for word in phrase.accented()]


def _size(word: Said) -> float:
    return 0.55 + 0.45 * min(2.0, max(0.0, word.accent))


def _apart(gestures: Sequence[Gesture]) -> list[Gesture]:
    """Gestures of which none begins while another of its phrase lasts: the first of them stays."""
    found: dict[int, list[Gesture]] = {}
    for one in sorted(gestures, key=lambda one: one.frame):
        own = found.setdefault(one.line, [])
        if not own or one.frame >= own[-1].frame + own[-1].frames:
            own.append(one)
    return [one for own in found.values() for one in own]


def _rounded(dials: Mapping[str, Points]) -> Dials:
    return {dial: tuple((at, round(value, 3)) for at, value in points) for dial, points in dials.items()}


def _dice(seed: int, phrase: Phrase, use: int) -> np.random.Generator:
    return np.random.default_rng([seed, phrase.line, use])


_MAKERS: dict[str, Callable[..., list[Gesture]]] = {
    "lids": _blinks,
    "eyes": _looks,
    "left brow": _brows(0),
    "right brow": _brows(1),
    "head": _nods,
}
