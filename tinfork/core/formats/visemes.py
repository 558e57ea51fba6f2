"""Visemes of MPEG-4 facial animation (ISO/IEC 14496-2, facial animation parameter 1), by number, for each frame.

A text of our own that a program can take into its stream: not the coded stream itself.
"""

from collections.abc import Iterator

from ..shot.shot import Role, Shot
from ..speech.phones import plain
from ..timebase import format_rate

_SOUNDS = (
    "",
    "p b m",
    "f v",
    "θ ð",
    "t d",
    "k ɡ g",
    "tʃ dʒ ʃ ʒ",
    "s z",
    "n l",
    "r ɹ ɾ",
    "ɑ a",
    "e ɛ æ",
    "ɪ i j",
    "ɒ ɔ o",
    "ʊ u w",
)
NUMBERS = {ipa: number for number, sounds in enumerate(_SOUNDS) for ipa in sounds.split()}
"""The viseme of each sound; 0 is none."""

_SHAPES = {
    "rest": 0, "press": 1, "tuck": 2, "tip": 3, "lift": 8, "teeth": 7, "push": 6, "ajar": 5, "spread": 12, "half": 11,
    "open": 10, "round": 13, "purse": 14,
}  # fmt: skip
FULL = 63
"""viseme_blend where only the first of both visemes is seen."""


def text(shot: Shot) -> str:
    """Return for each character and frame: the frame, viseme_select1, viseme_select2 and viseme_blend, apart by
    spaces."""
    rows = [f"# ISO/IEC 14496-2 visemes; {format_rate(shot.rate)} frames a second", "# frame select1 select2 blend"]
    for role in shot.roles:
        rows += [f"# character {' '.join(role.name.split())}", *_rows(role, shot.start_frame)]
    return "\n".join(rows) + "\n"


def _rows(role: Role, start_frame: int) -> Iterator[str]:
    numbers = viseme_of(role)
    for e in role.exposures:
        for frame in range(e.frame, e.end):
            blend = role.blends.get(frame)
            one, other, share = numbers[e.frame], 0, FULL
            if blend:
                one, other = numbers[blend.before.frame], numbers[blend.after.frame]
                share = round(FULL * (1 - blend.weight))
            yield f"{frame + start_frame} {one} {other} {share}"


def viseme_of(role: Role) -> dict[int, int]:
    """Return the viseme of each exposure, by its first frame: of the first of its sounds that has one, else of its
    shape."""
    ipa = [sound.ipa for sound in role.reading.sounds()]
    found = {}
    for e in role.exposures:
        own = (NUMBERS.get(plain(ipa[n])) or NUMBERS.get(plain(ipa[n])[:1]) for n in e.sounds if n < len(ipa))
        shape = _SHAPES[role.chart.shape_of(e.drawing)] if e.drawing else 0
        found[e.frame] = (next((number for number in own if number), shape)) if shape else 0
    return found
