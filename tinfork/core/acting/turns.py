"""Heads that turn to somebody: by a dial where what lies on them slides, by views where they are drawn."""

from ..mouths.parts import FACING, HEAD, Part
from ..mouths.views import towards
from .lanes import Gesture, ShownFor
from .moves import rounded
from .speech import Speech
from .thoughts import Thought, dice_of
from .wish import Wish

_FACES_SPEAKER, _FACES_THOUGHT, _FACES_LISTENER = 34.0, 13.0, 20.0
"""By how many degrees a head turns to somebody who speaks, elsewhere in thought, and to whom it speaks."""

_TURNS = (60.0, 90.0)
"""A drawn head turns to somebody by no more than the first, in degrees, if it is drawn so; else by the other."""


def turn_after(thought: Thought, speech: Speech, wish: Wish, part: Part) -> Gesture:
    """Return what a head does after eyes that go elsewhere, or to somebody who speaks: by the views it is drawn in,
    where it has some that look there; or facing there; or leaning."""
    far = thought.end - thought.frame
    faces = wish.turns and part.name == HEAD
    if thought.listening and not faces and (shown := through_views(part, thought.x, far, speech.frames_of(2 / 24))):
        return Gesture(0, "turn", thought.frame + wish.eyes_first, thought.line, shown=shown)
    quick, far = speech.frames_of(0.25), thought.end - thought.frame
    shape = ((0, 0.0), (quick, 1.0), (far - quick, 1.0), (far, 0.0))
    size = thought.x * min(1.3, wish.temper.size)
    sizes = {"turn": 3.0 if thought.listening else 2.4, "x": 4.2 if thought.listening else 3.4}
    if faces:
        sizes = {"turn": 1.0, "x": 1.5, FACING: _FACES_SPEAKER if thought.listening else _FACES_THOUGHT}
    dials = {dial: tuple((at, size * most * share) for at, share in shape) for dial, most in sizes.items()}
    return Gesture(0, "turn", thought.frame + wish.eyes_first, thought.line, dials=rounded(dials))


def through_views(part: Part, side: float, far: int, between: int, least: float = 0.0) -> tuple[ShownFor, ...]:
    """Return the views a drawn head shows on its way to a side, there, and on its way back, in so many frames; nothing
    where it has none that looks there, or no time. side: -1 for the left; between: how long a view on the way is shown;
    least: how far it is to turn at the least, in degrees, where it can."""
    views = next((own for most in _TURNS if most >= least and (own := towards(side, most, part.drawings))), [])
    way = views[:-1]
    if not views or far < (2 * len(way) + 2) * between:
        return ()
    stay = len(way) * between
    shown = [ShownFor(at * between, between, view) for at, view in enumerate(way)]
    shown.append(ShownFor(stay, far - 2 * stay, views[-1]))
    return (*shown, *(ShownFor(far - stay + at * between, between, view) for at, view in enumerate(reversed(way))))


def facing_whom(side: float, speech: Speech, wish: Wish, number: int) -> Gesture:
    """Return a head that faces whom it speaks to while it does: it gets there as the phrase begins, and lets go as it
    ends."""
    phrase, quick = speech.phrases[number], speech.frames_of(0.3)
    dice = dice_of(wish.seed, phrase, 5, wish.again.get(phrase.line, 0))
    size = side * _FACES_LISTENER * min(1.3, wish.temper.size) * float(dice.uniform(0.75, 1.2))
    first, far = phrase.frame - quick, phrase.end - phrase.frame + quick
    end = max(2 * quick, far) + quick
    shape = ((0, 0.0), (quick, 1.0), (max(quick + 1, end - quick), 0.8), (end, 0.0))
    dials = {FACING: tuple((at, size * share) for at, share in shape)}
    return Gesture(0, "turn", first, phrase.line, dials=rounded(dials))
