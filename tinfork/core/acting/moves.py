"""What a head, brows and lids do for each kind of what is done on a word. Sizes are those of somebody even; times are
what an animator gives a head of two kilograms: a quarter of a second into a nod, more into a lean."""

from collections.abc import Callable, Mapping

from ..mouths.parts import HALF
from .lanes import Gesture, Points, ShownFor
from .speech import Speech
from .stresses import Stress
from .temper import LEAN, NARROW, NOD, ONE_BROW, RISE, SHAKE, SHRUG, TILT, Temper

Dials = dict[str, Points]
Seconds = Callable[[float], int]

_NOD, _RISE, _LEAN, _SHAKE, _BROW = 7.0, 6.0, 0.045, 4.5, 6.5
_MOST_TILTED = 1.6
_UP = {NOD: 0.35, NARROW: -0.55, SHAKE: -0.45, RISE: 1.0, SHRUG: 1.0, LEAN: 0.5, TILT: 0.4, ONE_BROW: 0.0}
"""How far both brows go up with it."""


def of_head(stress: Stress, speech: Speech, temper: Temper) -> Gesture:
    """Return what a head does."""
    first, dials = _HEADS[stress.kind](stress, _clock(speech, temper))
    return Gesture(0, stress.kind, first, stress.phrase.line, dials=rounded(dials))


def of_brow(stress: Stress, speech: Speech, temper: Temper, side: int, later: int) -> Gesture | None:
    """Return what one brow does, None for nothing. side: -1 for the left one; later: by how many frames it goes behind
    the other."""
    share = _UP[stress.kind] if stress.kind != ONE_BROW else 1.15 * (stress.side == side)
    if not share:
        return None
    seconds, word = _clock(speech, temper), stress.word
    up, stay, down = seconds(0.1), _for(stress, seconds, 0.12), seconds(0.3)
    size = -_BROW * share * stress.size
    end = up + stay + down
    dials = {"y": ((0, 0.0), (up, size), (end - down, 0.8 * size), (end, 0.0))}
    first = word.frame - up - seconds(0.06) + later
    return Gesture(0, "brows", first, stress.phrase.line, dials=rounded(dials))


def of_lids(stress: Stress, speech: Speech) -> Gesture | None:
    """Return lids that are half shut while something is said with narrow eyes; None for everything else."""
    if stress.kind != NARROW:
        return None
    frames = min(speech.frames_of(0.8), max(speech.frames_of(0.3), stress.word.end - stress.word.frame))
    shown = (ShownFor(0, frames, HALF),)
    return Gesture(0, NARROW, stress.word.frame - 1, stress.phrase.line, shown=shown)


def _clock(speech: Speech, temper: Temper) -> Seconds:
    return lambda seconds: speech.frames_of(seconds / temper.quick)


def _middle(stress: Stress, seconds: Seconds) -> int:
    """On which frame it is seen most: in the word's first half."""
    word = stress.word
    return word.frame + min(seconds(0.12), (word.end - word.frame) // 2)


def _nod(stress: Stress, seconds: Seconds) -> tuple[int, Dials]:
    """A small move the other way first, the nod with a squash, and a settling after it; longer on a long word."""
    long = min(1.5, max(0.8, (stress.word.end - stress.word.frame) / seconds(0.3)))
    back, hit = seconds(0.13), seconds(0.27)
    settle, end = hit + seconds(0.18 * long), hit + seconds(0.38 * long) + 1
    size = _NOD * stress.size
    down = ((0, 0.0), (back, -0.35 * size), (hit, size), (settle, -0.12 * size), (end, 0.0))
    return _middle(stress, seconds) - hit, {"y": down, "stretch": _times(down, -0.005)}


def _for(stress: Stress, seconds: Seconds, least: float) -> int:
    """How long something stays that stays for a word, and for so many seconds at the least."""
    return max(seconds(least), stress.word.end - stress.word.frame)


def _there(go: int, stay: int, back: int, left: float = 1.0) -> Points:
    """Somewhere, for a while, and back again, in shares; left: what is left of it at the end of the while."""
    return ((0, 0.0), (go, 1.0), (go + stay, left), (go + stay + back, 0.0))


def _times(points: Points, size: float) -> Points:
    return tuple((at, size * share) for at, share in points)


def _rise(stress: Stress, seconds: Seconds) -> tuple[int, Dials]:
    up = seconds(0.22)
    points = _times(_there(up, _for(stress, seconds, 0.2), seconds(0.4), 0.75), -_RISE * stress.size)
    return _middle(stress, seconds) - up, {"y": points, "stretch": _times(points, -0.004)}


def _tilt(stress: Stress, seconds: Seconds) -> tuple[int, Dials]:
    """Held until the clause ends, but not for ever."""
    go, first = seconds(0.3), stress.word.frame - seconds(0.15)
    far = min(max(stress.until - first, 2 * go), seconds(_MOST_TILTED))
    size = 3.2 * stress.side * stress.size
    return first, {"turn": ((0, 0.0), (go, size), (far, 0.7 * size), (far + seconds(0.4), 0.0))}


def _lean(stress: Stress, seconds: Seconds) -> tuple[int, Dials]:
    go = seconds(0.3)
    shape = _times(_there(go, _for(stress, seconds, 0.25), seconds(0.5), 0.85), stress.size)
    return _middle(stress, seconds) - go, {"size": _times(shape, _LEAN), "y": _times(shape, 3.5)}


def _narrow(stress: Stress, seconds: Seconds) -> tuple[int, Dials]:
    go = seconds(0.25)
    shape = _there(go, _for(stress, seconds, 0.2), seconds(0.4))
    return stress.word.frame - go // 2, {"y": _times(shape, 2.2 * stress.size)}


def _one_brow(stress: Stress, seconds: Seconds) -> tuple[int, Dials]:
    go = seconds(0.25)
    shape = _there(go, _for(stress, seconds, 0.25), seconds(0.35))
    return stress.word.frame - go // 2, {"turn": _times(shape, 1.6 * stress.side * stress.size)}


def _shake(stress: Stress, seconds: Seconds) -> tuple[int, Dials]:
    swing, size = seconds(0.15), _SHAKE * stress.side * stress.size
    way = (0.0, 0.6, -1.0, 0.8, -0.35, 0.0)
    turned = tuple((n * swing, size * share) for n, share in enumerate(way))
    return _middle(stress, seconds) - 2 * swing, {"turn": _times(turned, 0.4), "x": _times(turned, 1.4)}


def _shrug(stress: Stress, seconds: Seconds) -> tuple[int, Dials]:
    go = seconds(0.25)
    shape = _times(_there(go, seconds(0.35), seconds(0.5), 0.9), stress.size)
    up, turned = _times(shape, -3.0), _times(shape, 4.0 * stress.side)
    return _middle(stress, seconds) - go, {"y": up, "turn": turned, "stretch": _times(up, 0.006)}


_HEADS: Mapping[str, Callable[[Stress, Seconds], tuple[int, Dials]]] = {
    NOD: _nod,
    RISE: _rise,
    TILT: _tilt,
    LEAN: _lean,
    NARROW: _narrow,
    ONE_BROW: _one_brow,
    SHAKE: _shake,
    SHRUG: _shrug,
}


def rounded(dials: Mapping[str, Points]) -> Dials:
    """Return dials to three places."""
    return {dial: tuple((at, round(value, 3)) for at, value in points) for dial, points in dials.items()}
