"""Where eyes go while somebody speaks, waits or listens: elsewhere in thought, and to whoever speaks."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .speech import Phrase, Said, Speech

_THOUGHT_SECONDS, _LONG_SECONDS = 0.9, 2.2
_SILENT_SECONDS = 3.0
"""In longer silence eyes wander every so often."""

_NEAR_SECONDS = 5.0
"""Who spoke so long ago, or answers in half of that, is spoken to."""

_LATE_SECONDS, _LEAST_SECONDS = 0.25, 0.6
"""Who listens looks up a beat after somebody began, and not for less than the other."""


@dataclass(frozen=True)
class Thought:
    """Eyes that go elsewhere for a moment, and the head after them. x, y: where to, in shares of how far they go;
    listening: whether they go to somebody who speaks."""

    frame: int
    end: int
    x: float
    y: float
    line: int
    listening: bool = False

    @property
    def is_look(self) -> bool:
        """Whether it goes as far as a look does, so that the head goes after it; the others are darts."""
        return self.listening or abs(self.x) >= 1


def dice_of(seed: int, phrase: Phrase, use: int, again: int = 0) -> np.random.Generator:
    """Return the chances of a phrase: the same for the same seed; again: how often others were asked for."""
    return np.random.default_rng([seed, phrase.line, use, *([again] if again else [])])


def thoughts(speech: Speech, seed: int, numbers: Sequence[int] | None = None, restless: float = 1.0) -> list[Thought]:
    """Return where eyes go: elsewhere in the pauses before phrases, in long silence, and at seams between words of long
    phrases; to others while they speak. numbers: of which phrases, by their places; of all where they are not
    given."""
    found = []
    for number in range(len(speech.phrases)) if numbers is None else numbers:
        phrase = speech.phrases[number]
        heard = _to_speakers(speech, number)
        found += heard
        found += _waiting(speech, number, heard, seed, restless)
        first = _free_from(speech, number, heard)
        if phrase.is_silent or (first is None and len(phrase.words) < 3):
            continue
        dice = dice_of(seed, phrase, 1)
        if first is not None:
            found.append(_before(first, phrase, speech, dice))
            found += _wandering(first, found[-1].frame, phrase, speech, restless, dice)
        else:
            dice.choice((-1, 1))  # The side of a thought that does not come: what is drawn after it is the same.
        for word in _seams(phrase, speech, restless, dice):
            end = min(word.end + speech.frames_of(0.25), phrase.end)
            size = float(dice.uniform(0.3, 0.6)) * float(dice.choice((-1, 1)))
            end = max(end, word.frame + 4)
            found.append(Thought(word.frame, end, size, float(dice.uniform(-0.3, 0.3)), phrase.line))
    return found


def looks(speech: Speech, seed: int) -> list[int]:
    """Return the frames on which eyes go as far as a look does, as thoughts has them, of all phrases."""
    found = []
    for number, phrase in enumerate(speech.phrases):
        heard = _to_speakers(speech, number)
        found += [one.frame for one in heard]
        first = _free_from(speech, number, heard)
        if first is not None and not phrase.is_silent:
            found.append(_before(first, phrase, speech, dice_of(seed, phrase, 1)).frame)
    return found


def _free_from(speech: Speech, number: int, heard: Sequence[Thought]) -> int | None:
    """The frame from which on nobody is listened to before a phrase; None where that is no pause to think in."""
    phrase = speech.phrases[number]
    first = max([speech.territory(number).start, *(one.end for one in heard if one.end <= phrase.frame)])
    return first if phrase.frame - first >= speech.frames_of(_THOUGHT_SECONDS) else None


def _before(first: int, phrase: Phrase, speech: Speech, dice: np.random.Generator) -> Thought:
    """Eyes that go elsewhere before somebody speaks."""
    side = float(dice.choice((-1, 1)))
    own = phrase.frame - min(phrase.frame - first, speech.frames_of(dice.uniform(0.8, 1.3)))
    return Thought(own, phrase.frame - 1, side, float(dice.uniform(-1, 0.4)), phrase.line)


def spoken_to(speech: Speech, number: int) -> float:
    """Return at which side somebody is who is spoken to in a phrase: who spoke last before it, or else answers; 0 where
    nobody is near in time."""
    phrase, near = speech.phrases[number], speech.frames_of(_NEAR_SECONDS)
    before = [one for one in speech.others if one.frame < phrase.frame and one.end > phrase.frame - near]
    after = [one for one in speech.others if phrase.frame <= one.frame < phrase.end + near // 2]
    if before:
        return max(before, key=lambda one: one.end).side
    return min(after, key=lambda one: one.frame).side if after else 0.0


def _to_speakers(speech: Speech, number: int) -> list[Thought]:
    """Looks to others who speak while a phrase is not said yet, or the last is over; while two speak on, at the one who
    is looked at."""
    phrase, found = speech.phrases[number], list[Thought]()
    least, late = speech.frames_of(_LEAST_SECONDS), speech.frames_of(_LATE_SECONDS)
    for wait in speech.waits(number):
        own: list[Thought] = []
        for one in speech.said_elsewhere(wait):
            first = max(wait.start, one.frame + late, own[-1].end if own else 0)
            end = min(one.end + late, wait.stop - 1)
            if end - first < least:
                continue
            if own and own[-1].x == one.side and first - own[-1].end <= least:
                own[-1] = Thought(own[-1].frame, end, one.side, 0.0, phrase.line, True)
            else:
                own.append(Thought(first, end, one.side, 0.0, phrase.line, True))
        found += own
    return found


def _waiting(speech: Speech, number: int, heard: Sequence[Thought], seed: int, restless: float) -> list[Thought]:
    """Small looks while nobody speaks, but for the pause right before a phrase."""
    phrase, found = speech.phrases[number], list[Thought]()
    dice = dice_of(seed, phrase, 6)
    for wait in speech.waits(number):
        own = [one for one in heard if one.frame in wait]
        begins = [wait.start, *(one.end for one in own)]
        for first, end in zip(begins, [*(one.frame for one in own), wait.stop], strict=True):
            if phrase.is_silent or end != phrase.frame:
                found += _wandering(first, end, phrase, speech, restless, dice)
    return found


def _wandering(
    first: int, end: int, phrase: Phrase, speech: Speech, restless: float, dice: np.random.Generator
) -> list[Thought]:
    """Small looks in silence that lasts."""
    found, at = list[Thought](), first
    while True:
        at += speech.frames_of(_SILENT_SECONDS / restless * float(dice.uniform(0.6, 1.4)))
        far = speech.frames_of(float(dice.uniform(0.5, 1.1)))
        if at + far > end:
            return found
        size = float(dice.uniform(0.4, 0.8)) * float(dice.choice((-1, 1)))
        found.append(Thought(at, at + far, size, float(dice.uniform(-0.4, 0.4)), phrase.line))
        at += far


def _seams(phrase: Phrase, speech: Speech, restless: float, dice: np.random.Generator) -> list[Said]:
    """Words at which the eyes of somebody who speaks for long go elsewhere for a moment."""
    found, last = [], phrase.frame
    for word in phrase.words[1:-1]:
        if word.frame - last >= speech.frames_of(_LONG_SECONDS / restless * float(dice.uniform(0.7, 1.3))):
            found.append(word)
            last = word.frame
    return found
