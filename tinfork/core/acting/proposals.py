"""What is proposed for a part while a phrase is said, and in the pause before it: blinks, looks, brows, what a head
does. The same for the same seed; each for itself, so that one can be thrown away and the others stay.

Sizes are units of a face's picture, turns degrees. They are those of somebody's temper; the amount of a phrase, and of
the scene, makes more or less of them.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from ..mouths.parts import HALF, HEAD, SHUT, Part
from .blinks import LEAST_RATE, MOST_RATE, blink, blink_frames
from .bodies import of_body
from .framing import for_framing
from .lanes import Gesture, PlacedLane
from .moves import of_brow, of_head, of_lids, rounded
from .speech import Speech
from .stresses import Stress, stresses
from .temper import TILT
from .thoughts import dice_of, looks, spoken_to, thoughts
from .turns import facing_whom, turn_after
from .wish import Wish

_LOOK, _AGREE, _AGREES = (5.5, 2.5), 2.8, 0.7
_LONG_BLINKS = 0.3
_EYES_LEFT = 0.4
"""How much of a look is left to the eyes once the head has turned there."""


def proposed(part: Part, lane: PlacedLane, speech: Speech, wish: Wish, numbers: Sequence[int]) -> list[Gesture]:
    """Return what a part could do in some phrases, by their places, in frames of the scene. Nothing is proposed where a
    gesture was accepted, or where a person set what the part shows."""
    make = _MAKERS.get(part.role)
    if make is None or not speech.phrases:
        return []
    rate = min(MOST_RATE, max(LEAST_RATE, wish.rate * wish.temper.restless))
    wish = replace(wish, rate=rate, temper=for_framing(wish.temper, wish.framing))
    decided = [range(one.frame, one.end) for one in lane.gestures if one.gesture.accepted]
    decided += [range(pin.frame, pin.end) for pin in lane.shows]
    found = []
    for one in make(part, speech, wish, decided, sorted(set(numbers))):
        over = any(own.start < one.frame + one.frames and one.frame < own.stop for own in decided)
        if not over and one.frame >= 0 and one.frame + one.frames <= speech.frames:
            found.append(one)
    return found


def stresses_in(speech: Speech, wish: Wish, numbers: Sequence[int]) -> list[Stress]:
    """Return what is done on the words of some phrases: all parts do the same."""
    found = []
    for number in numbers:
        phrase = speech.phrases[number]
        dice = dice_of(wish.seed, phrase, 3, wish.again.get(phrase.line, 0))
        found += stresses(phrase, speech, wish.temper, dice, wish.liked)
    return found


def _lids(part: Part, speech: Speech, wish: Wish, decided: Sequence[range], numbers: Sequence[int]) -> list[Gesture]:
    narrow = []
    if HALF in part.drawings:
        narrow = [own for one in stresses_in(speech, wish, numbers) if (own := of_lids(one, speech))]
    return [*_blinks(part, speech, wish, decided, numbers, narrow), *narrow]


def _blinks(
    part: Part,
    speech: Speech,
    wish: Wish,
    decided: Sequence[range],
    numbers: Sequence[int],
    narrow: Sequence[Gesture],
) -> list[Gesture]:
    if SHUT not in part.drawings:
        return []
    turns = looks(speech, wish.seed)
    refractory = speech.frames_of(0.8)
    taken = [range(one.start - refractory, one.stop + refractory) for one in decided]
    taken += [range(one.frame, one.frame + one.frames) for one in narrow]
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
    for one in thoughts(speech, wish.seed, numbers, wish.temper.restless):
        far, quick = one.end - one.frame, speech.frames_of(2 / 24)
        if far > 3 * quick and (one.is_look or wish.framing.darts):
            there = {"x": _LOOK[0] * one.x, "y": _LOOK[1] * one.y}
            followed = wish.turns and one.is_look and far > 3 * quick + wish.eyes_first + speech.frames_of(0.4)
            left = ((quick + wish.eyes_first + speech.frames_of(0.25), _EYES_LEFT),) if followed else ()
            shares = ((0, 0.0), (quick, 1.0), *left, (far - quick, _EYES_LEFT if followed else 1.0), (far, 0.0))
            dials = {dial: tuple((at, v * share) for at, share in shares) for dial, v in there.items()}
            kind = "look" if one.is_look else "dart"
            found.append(Gesture(0, kind, one.frame, one.line, dials=rounded(dials)))
    return found


def _brows(side: int) -> Callable[..., list[Gesture]]:
    """side: -1 for the left one; the right one goes a frame behind it."""

    def make(part: Part, speech: Speech, wish: Wish, decided: Sequence[range], numbers: Sequence[int]) -> list[Gesture]:
        every = (of_brow(one, speech, wish.temper, side, int(side > 0)) for one in stresses_in(speech, wish, numbers))
        return _apart([one for one in every if one])

    return make


def _heads(part: Part, speech: Speech, wish: Wish, decided: Sequence[range], numbers: Sequence[int]) -> list[Gesture]:
    """What is done on stressed words, over a tilt that is held; turns after eyes that go elsewhere, or to somebody; and
    small nods where others end."""
    every = [of_head(one, speech, wish.temper) for one in stresses_in(speech, wish, numbers)]
    found = _apart([one for one in every if one.kind != TILT]) + [one for one in every if one.kind == TILT]
    for one in thoughts(speech, wish.seed, numbers, wish.temper.restless):
        if one.is_look and one.end - one.frame > 2 * speech.frames_of(0.25):
            found.append(turn_after(one, speech, wish, part))
    for number in numbers:
        found += _agreeing(speech, wish, number)
        if wish.turns and part.name == HEAD and (side := spoken_to(speech, number)):
            found.append(facing_whom(side, speech, wish, number))
    return found


def _bodies(part: Part, speech: Speech, wish: Wish, decided: Sequence[range], numbers: Sequence[int]) -> list[Gesture]:
    """What a head does by its dials, followed."""
    return of_body(_heads(replace(part, name=HEAD, drawings=()), speech, wish, decided, numbers), speech)


def _agreeing(speech: Speech, wish: Wish, number: int) -> list[Gesture]:
    """Small nods as others come to an end, while one does not speak oneself."""
    phrase, found = speech.phrases[number], list[Gesture]()
    dice = dice_of(wish.seed, phrase, 4, wish.again.get(phrase.line, 0))
    down, end = speech.frames_of(0.2), speech.frames_of(0.55)
    for wait in speech.waits(number):
        for one in speech.said_elsewhere(wait):
            first = one.end - down
            free = not found or first >= found[-1].frame + found[-1].frames
            if dice.random() < _AGREES and free and wait.start <= first < wait.stop - end:
                size = _AGREE * wish.temper.size * float(dice.uniform(0.7, 1.3))
                dials = rounded({"y": ((0, 0.0), (down, size), (end, 0.0))})
                found.append(Gesture(0, "agree", first, phrase.line, dials=dials))
    return found


def _apart(gestures: Sequence[Gesture]) -> list[Gesture]:
    """Gestures of which none begins while another of its phrase lasts: the first of them stays."""
    found: dict[int, list[Gesture]] = {}
    for one in sorted(gestures, key=lambda one: one.frame):
        own = found.setdefault(one.line, [])
        if not own or one.frame >= own[-1].frame + own[-1].frames:
            own.append(one)
    return [one for own in found.values() for one in own]


_MAKERS: dict[str, Callable[..., list[Gesture]]] = {
    "lids": _lids,
    "eyes": _looks,
    "left brow": _brows(-1),
    "right brow": _brows(1),
    "head": _heads,
    "body": _bodies,
}
