"""What heads of ours look like: each build drawn around the mouth's anchor, as pieces that lie somewhere on it."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from .draw import Palette
from .parts import EDGE, NEAR, OUT, Relief

INK = "#22302f"
_LINE = f'stroke="{INK}" stroke-width="3" stroke-linejoin="round" stroke-linecap="round"'
_PALE = "#f4f1ea"


@dataclass(frozen=True)
class FaceStyle:
    """How a face of ours is drawn. form: one of FORMS; the rest CSS colours: of skin or fur, of hair or what is worn,
    and of lips."""

    form: str = "round"
    skin: str = "#e3c3a5"
    trim: str = "#2f4a57"
    lip: str = "#b8705a"

    @property
    def palette(self) -> Palette:
        """The mouth's colours on this face."""
        return Palette(lip=self.lip)


Layer = tuple[str, Relief | None]
"""SVG, and where it lies on the head; None for what every side of the head shows alike."""


@dataclass(frozen=True)
class Build:
    """A head. said: what it is, in words; under, over: below and above the eyes; eyes: how far from the middle, how
    high and how large; pupil: how large; brow: how far over the eye, 0 for none, and how heavy; deep: how far before
    the head's axis its face lies; lid: the name of the colour of FaceStyle that lids have."""

    said: str
    under: Callable[[FaceStyle], Sequence[Layer]]
    over: Callable[[FaceStyle], Sequence[Layer]] = lambda look: ()
    eyes: tuple[float, float, float] = (46.0, -56.0, 15.0)
    pupil: float = 7.5
    brow: tuple[float, float] = (27.0, 5.0)
    deep: float = 66.0
    lid: str = "skin"


def _path(d: str, fill: str, line: str = _LINE) -> str:
    return f'<path d="{d}" fill="{fill}" {line}/>'


def skull(wide: float, top: float, chin: float, jaw: float = 0.75) -> str:
    """Return the outline of a head, as SVG writes a path. wide: half of it at the cheeks; jaw: how wide it is near the
    chin, in shares of that."""
    low = wide * jaw
    return (
        f"M{-wide:g} -60C{-wide * 1.03:g} {top * 0.72:g} {-wide * 0.68:g} {top:g} 0 {top:g}"
        f"C{wide * 0.68:g} {top:g} {wide * 1.03:g} {top * 0.72:g} {wide:g} -60"
        f"C{wide:g} {chin * 0.34:g} {low:g} {chin:g} 0 {chin:g}C{-low:g} {chin:g} {-wide:g} {chin * 0.34:g} "
        f"{-wide:g} -60Z"
    )


def _ears(wide: float, look: FaceStyle, y: float = -38.0) -> tuple[list[Layer], list[Layer]]:
    """Ears under the head, and the same over it, for the one that comes round."""
    far: list[Layer] = []
    near: list[Layer] = []
    for side in (-1, 1):
        x = side * wide
        d = f"M{x:g} {y - 18:g}C{x + side * 26:g} {y - 30:g} {x + side * 24:g} {y + 22:g} {x:g} {y + 20:g}Z"
        drawn = _path(d, look.skin)
        far.append((drawn, Relief(x, 0.0, OUT)))
        round_d = (
            f"M{x - side * 3:g} {y - 18:g}C{x + side * 26:g} {y - 30:g} {x + side * 24:g} {y + 22:g} {x - side * 3:g} "
            f"{y + 20:g}"
        )
        near.append((_path(round_d, look.skin), Relief(x, 0.0, NEAR)))
    return far, near


def _nose(d: str, look: FaceStyle, z: float = 88.0) -> Layer:
    return f'<path d="{d}" fill="none" stroke="{INK}" stroke-width="3.5" stroke-linecap="round"/>', Relief(0, z, OUT)


def _blush(look: FaceStyle, x: float, y: float, r: float = 13.0) -> list[Layer]:
    return [
        (f'<circle cx="{side * x:g}" cy="{y:g}" r="{r:g}" fill="{look.lip}" opacity=".32"/>', Relief(side * x, 60.0))
        for side in (-1, 1)
    ]


_BUTTON = "M-9 -32Q0 -24 9 -32"
_HOOK = "M-2 -50C-14 -34 -14 -28 2 -28"


def _captain(look: FaceStyle) -> list[Layer]:
    far, near = _ears(110, look)
    return [*far, (_path(skull(112, -150, 118, 0.74), look.skin), None), *near]


def _captain_cap(look: FaceStyle) -> list[Layer]:
    return [
        (_path("M-118 -122C-70 -146 70 -146 118 -122L116 -84C66 -106 -66 -106 -116 -84Z", INK), None),
        (
            _path(
                "M-126 -110C-140 -176 -70 -198 0 -198C70 -198 140 -176 126 -110C70 -138 -70 -138 -126 -110Z", look.trim
            ),
            None,
        ),
        (_path("M-104 -92C-50 -108 50 -108 104 -92C60 -76 -60 -76 -104 -92Z", INK), Relief(0, 12)),
        (f'<circle cx="0" cy="-152" r="11" fill="{_PALE}" {_LINE}/>', Relief(0, 80)),
        _nose(_HOOK, look),
    ]


def _long(look: FaceStyle) -> list[Layer]:
    far, near = _ears(86, look, -30)
    whiskers = [
        (
            _path(
                f"M{s * 90} -44C{s * 94} 34 {s * 74} 92 {s * 52} 104C{s * 66} 52 {s * 72} 0 {s * 74} -44Z",
                look.trim,
            ),
            Relief(s * 84, 20, NEAR),
        )
        for s in (-1, 1)
    ]
    return [*far, (_path(skull(88, -150, 134, 0.8), look.skin), None), *near, *whiskers]


def _long_hat(look: FaceStyle) -> list[Layer]:
    ribs = "".join(f'<path d="M{x} -110V-88" fill="none" stroke="{INK}" stroke-width="2"/>' for x in range(-80, 81, 20))
    return [
        (_path("M-96 -100C-102 -176 -54 -202 0 -202C54 -202 102 -176 96 -100Z", look.trim), None),
        (_path("M-102 -112H102V-86H-102Z", _PALE) + ribs, None),
        (f'<circle cx="0" cy="-198" r="15" fill="{_PALE}" {_LINE}/>', Relief(0, -10, OUT)),
        _nose("M-4 -56C-18 -34 -14 -24 4 -26", look),
    ]


def _box(look: FaceStyle) -> list[Layer]:
    return [
        (f'<rect x="-118" y="-186" width="236" height="324" rx="14" fill="{look.trim}" {_LINE}/>', None),
        (f'<rect x="-98" y="-66" width="196" height="178" rx="10" fill="{look.skin}" {_LINE}/>', Relief(0, 18)),
        (f'<rect x="-60" y="-172" width="120" height="14" rx="5" fill="{INK}" {_LINE}/>', Relief(0, 18)),
        (
            _path(
                "M-40 -165H40V-146L32 -152L24 -146L16 -152L8 -146L0 -152L-8 -146L-16 -152L-24 -146L-32 -152L-40 -146Z",
                _PALE,
                f'stroke="{INK}" stroke-width="2" stroke-linejoin="round"',
            ),
            Relief(0, 18),
        ),
    ]


def _bob(look: FaceStyle) -> list[Layer]:
    back = "M-122 -60C-132 -176 -60 -206 0 -206C60 -206 132 -176 122 -60C126 0 124 56 104 84C60 96 -60 96 -104 84C-124 56 -126 0 -122 -60Z"
    return [
        (_path(back, look.trim), Relief(0, -26, OUT)),
        (_path(skull(98, -168, 112, 0.68), look.skin), None),
        *_blush(look, 62, -14),
    ]


def _bob_fringe(look: FaceStyle) -> list[Layer]:
    fringe = "M-108 -72C-116 -172 -54 -200 0 -200C54 -200 116 -172 108 -72C96 -90 88 -104 80 -116C30 -98 -40 -98 -84 -112C-92 -100 -100 -88 -108 -72Z"
    sides: list[Layer] = []
    for side in (-1, 1):
        inner = f"{side * 84} 74C{side * 86} 40 {side * 86} -20 {side * 84} -104"
        outer = f"M{side * 116} -96C{side * 122} -20 {side * 118} 40 {side * 110} 82L"
        sides.append((_path(f"{outer}{inner}Z", look.trim, "stroke='none'"), Relief(side * 84, 24, EDGE)))
        sides.append((_path(f"M{inner}", "none"), Relief(side * 84, 24, NEAR)))
    return [*sides, (_path(fringe, look.trim), Relief(0, 4, OUT)), _nose(_BUTTON, look)]


def _curls(look: FaceStyle) -> list[Layer]:
    around = [(math.cos(t), math.sin(t)) for t in (math.pi * k / 9 for k in range(-1, 11))]
    curls = "".join(
        f'<circle cx="{104 * c:.0f}" cy="{-78 - 88 * s:.0f}" r="32" fill="{look.trim}" {_LINE}/>' for c, s in around
    )
    return [
        (curls, Relief(0, -18, OUT)),
        (_path(skull(100, -160, 114, 0.72), look.skin), None),
        *_blush(look, 64, -12, 11),
    ]


def _curls_front(look: FaceStyle) -> list[Layer]:
    row = ((-78, -112, 28), (-40, -142, 32), (4, -150, 33), (48, -140, 31), (82, -108, 27))
    curls = "".join(f'<circle cx="{x}" cy="{y}" r="{r}" fill="{look.trim}" {_LINE}/>' for x, y, r in row)
    spots = ((58, -22), (66, -10), (50, -10))
    dots = [
        (
            "".join(f'<circle cx="{s * x}" cy="{y}" r="2.4" fill="{INK}" opacity=".5"/>' for x, y in spots),
            Relief(s * 58, 60),
        )
        for s in (-1, 1)
    ]
    return [(curls, Relief(0, 10, OUT)), *dots, _nose("M-8 -30Q0 -40 8 -30", look)]


def _bald(look: FaceStyle) -> list[Layer]:
    far, near = _ears(104, look, -34)
    shine = f'<path d="M-52 -158C-34 -176 -8 -180 10 -176" fill="none" stroke="{_PALE}" stroke-width="8" stroke-linecap="round"/>'
    side = [
        (
            _path(
                f"M{s * 104} -62C{s * 112} -84 {s * 110} -104 {s * 100} -116C{s * 92} -96 {s * 92} -76 {s * 94} -58Z",
                look.trim,
            ),
            Relief(s * 102, 30, NEAR),
        )
        for s in (-1, 1)
    ]
    return [*far, (_path(skull(106, -194, 122, 0.82), look.skin), None), *near, (shine, Relief(-20, 40)), *side]


def _bald_glasses(look: FaceStyle) -> list[Layer]:
    rings = [
        (f'<circle cx="{s * 46}" cy="-56" r="27" fill="none" stroke="{INK}" stroke-width="4"/>', Relief(s * 46, 72))
        for s in (-1, 1)
    ]
    bridge = f'<path d="M-19 -60Q0 -70 19 -60" fill="none" stroke="{INK}" stroke-width="4"/>'
    return [_nose("M-3 -48C-22 -26 -14 -16 8 -22", look), *rings, (bridge, Relief(0, 78))]


def _elder(look: FaceStyle) -> list[Layer]:
    far, near = _ears(92, look, -30)
    bun = f'<circle cx="0" cy="-180" r="32" fill="{look.trim}" {_LINE}/>'
    return [
        (bun, Relief(0, -46, OUT)),
        *far,
        (_path(skull(94, -156, 112, 0.62), look.skin), None),
        *near,
        *_blush(look, 60, -8, 10),
    ]


def _elder_hair(look: FaceStyle) -> list[Layer]:
    hair = (
        "M-96 -66C-104 -150 -56 -178 0 -178C56 -178 104 -150 96 -66C84 -112 50 -140 4 -142C-48 -140 -84 -112 -96 -66Z"
    )
    crease = f'fill="none" stroke="{INK}" stroke-width="2" stroke-linecap="round" opacity=".7"'
    lines = [
        (
            f'<path d="M{s * 62} -54q{s * 9} -4 {s * 13} -11M{s * 62} -46q{s * 10} 2 {s * 15} 0" {crease}/>'
            f'<path d="M{s * 52} -22C{s * 64} -8 {s * 64} -4 {s * 64} 0" {crease}/>',
            Relief(s * 62, 58),
        )
        for s in (-1, 1)
    ]
    return [
        (_path(hair, look.trim), Relief(0, 4, OUT)),
        *lines,
        _nose("M-2 -50C-16 -30 -14 -22 4 -24", look),
    ]


def _child(look: FaceStyle) -> list[Layer]:
    far, near = _ears(108, look, -22)
    return [*far, (_path(skull(112, -172, 104, 0.66), look.skin), None), *near, *_blush(look, 72, 2, 15)]


def _child_tuft(look: FaceStyle) -> list[Layer]:
    cap = "M-104 -92C-98 -160 -50 -184 0 -184C50 -184 98 -160 104 -92C70 -124 40 -132 26 -130C30 -120 30 -118 22 -108C10 -124 -2 -130 -20 -130C-50 -128 -80 -116 -104 -92Z"
    tuft = "M-10 -176C-18 -192 0 -206 18 -210C14 -198 22 -190 16 -176Z"
    return [
        (_path(tuft, look.trim), Relief(0, 0, OUT)),
        (_path(cap, look.trim), Relief(0, 6, OUT)),
        _nose("M-6 -26Q0 -21 6 -26", look),
    ]


def _beard(look: FaceStyle) -> list[Layer]:
    far, near = _ears(104, look)
    beard = (
        "M-106 -44C-110 60 -80 140 0 142C80 140 110 60 106 -44C96 -20 84 -18 66 -22C40 -34 -40 -34 -66 -22C-84 -18 -96 "
        "-20 -106 -44Z"
    )
    hole = "M-58 0C-58 -22 -30 -26 0 -26C30 -26 58 -22 58 0C58 64 34 86 0 86C-34 86 -58 64 -58 0Z"
    return [
        *far,
        (_path(skull(106, -176, 124, 0.86), look.skin), None),
        *near,
        (_path(beard, look.trim), None),
        (_path(hole, look.skin, "stroke='none'"), Relief(0, 66)),
    ]


def _beard_hair(look: FaceStyle) -> list[Layer]:
    hair = "M-106 -84C-116 -170 -60 -198 0 -198C60 -198 116 -170 106 -84C92 -128 60 -150 20 -146C-30 -158 -84 -140 -106 -84Z"
    lip = "M0 -27C-20 -35 -46 -30 -60 -9C-40 -15 -18 -15 0 -18C18 -15 40 -15 60 -9C46 -30 20 -35 0 -27Z"
    return [
        (_path(hair, look.trim), Relief(0, 4, OUT)),
        (_path(lip, look.trim), Relief(0, 72)),
        _nose("M-14 -38C-16 -26 16 -26 14 -38", look),
    ]


def _braids(look: FaceStyle) -> list[Layer]:
    def braid(side: int) -> str:
        rings = "".join(
            f'<ellipse cx="{side * (103 + 9 * k)}" cy="{-20 + 34 * k}" rx="21" ry="20" fill="{look.trim}" {_LINE}/>'
            for k in range(4)
        )
        return rings + f'<rect x="{side * 134 - 13}" y="100" width="26" height="12" rx="4" fill="{look.lip}" {_LINE}/>'

    return [
        *[(braid(s), Relief(s * 102, -14, OUT)) for s in (-1, 1)],
        (_path(skull(98, -166, 110, 0.72), look.skin), None),
        *_blush(look, 62, -10, 12),
    ]


def _braids_front(look: FaceStyle) -> list[Layer]:
    hair = "M-104 -56C-112 -160 -58 -190 0 -190C58 -190 112 -160 104 -56C92 -100 54 -128 0 -152C-54 -128 -92 -100 -104 -56Z"
    return [(_path(hair, look.trim), Relief(0, 5, OUT)), _nose("M-9 -33Q-2 -23 8 -30", look)]


def _goat(look: FaceStyle) -> list[Layer]:
    def horn(side: int) -> str:
        return _path(
            f"M{side * 34} -146C{side * 40} -190 {side * 70} -208 {side * 104} -202C{side * 84} -188 {side * 78} -170 "
            f"{side * 72} -132Z",
            _PALE,
        )

    def ear(side: int) -> str:
        return _path(
            f"M{side * 82} -98C{side * 112} -110 {side * 132} -86 {side * 138} -60C{side * 118} -54 {side * 100} -60 "
            f"{side * 80} -74Z",
            look.skin,
        )

    beard = "M-34 96C-30 118 -12 138 2 142C6 132 22 118 34 96Z"
    head = "M-92 -84C-96 -146 -52 -166 0 -166C52 -166 96 -146 92 -84C90 -40 82 -10 84 30C84 84 48 112 0 112C-48 112 -84 84 -84 30C-82 -10 -90 -40 -92 -84Z"
    return [
        *[(horn(s), Relief(s * 60, -6, OUT)) for s in (-1, 1)],
        *[(ear(s), Relief(s * 90, -4, OUT)) for s in (-1, 1)],
        (_path(beard, look.trim), Relief(0, 50, OUT)),
        (_path(head, look.skin), None),
    ]


def _goat_muzzle(look: FaceStyle) -> list[Layer]:
    tuft = (
        "M-40 -150C-30 -176 -8 -182 4 -176C20 -184 38 -168 42 -148C20 -120 12 -108 0 -104C-12 -112 -30 -126 -40 -150Z"
    )
    holes = f'<path d="M-13 -26q-6 -8 -12 -4M13 -26q6 -8 12 -4" fill="none" stroke="{INK}" stroke-width="4" stroke-linecap="round"/>'
    return [(_path(tuft, look.trim), Relief(0, 44, OUT)), (holes, Relief(0, 80))]


def _sharp(look: FaceStyle) -> list[Layer]:
    far, near = _ears(88, look, -40)
    chin = (
        "M-92 -70C-96 -140 -60 -172 0 -172C60 -172 96 -140 92 -70C92 -10 70 40 40 84C24 118 -24 118 -40 84C-70 40 -92 "
        "-10 -92 -70Z"
    )
    return [*far, (_path(chin, look.skin), None), *near]


def _sharp_hair(look: FaceStyle) -> list[Layer]:
    hair = "M-98 -76C-112 -170 -60 -208 10 -204C70 -206 116 -160 98 -76C94 -104 88 -118 78 -128C40 -112 -20 -122 -56 -146C-78 -132 -90 -106 -98 -76Z"
    wave = f'<path d="M-40 -160C0 -150 50 -156 76 -170" fill="none" stroke="{INK}" stroke-width="2.5" stroke-linecap="round"/>'
    return [(_path(hair, look.trim) + wave, Relief(0, 5, OUT)), _nose("M2 -62C-6 -44 -16 -28 -6 -24L8 -24", look)]


def _scarf(look: FaceStyle) -> list[Layer]:
    cloth = "M-120 -50C-130 -164 -64 -198 0 -198C64 -198 130 -164 120 -50C118 36 84 118 0 126C-84 118 -118 36 -120 -50Z"
    inner = "M-88 -56C-92 -132 -50 -160 0 -160C50 -160 92 -132 88 -56C88 36 56 98 0 100C-56 98 -88 36 -88 -56Z"
    knot = "M-16 116C-42 122 -46 140 -36 146C-22 142 -8 134 0 126C8 134 22 142 36 146C46 140 42 122 16 116Z"
    spots = "".join(
        f'<circle cx="{x}" cy="{y}" r="6" fill="{_PALE}"/>'
        for x, y in ((-70, -162), (0, -178), (70, -162), (-106, -96), (106, -96), (-108, -20), (108, -20))
    )
    return [
        (_path(cloth, look.trim) + spots, None),
        (_path(knot, look.trim), Relief(0, 40, OUT)),
        (_path(inner, look.skin), Relief(0, 24)),
        *_blush(look, 58, -8, 12),
    ]


def _scarf_hair(look: FaceStyle) -> list[Layer]:
    hair = "M-82 -92C-72 -142 -40 -158 0 -158C40 -158 72 -142 82 -92C50 -128 20 -136 0 -140C-20 -136 -50 -128 -82 -92Z"
    return [(_path(hair, "#5b4636"), Relief(0, 26)), _nose("M-8 -30Q0 -22 8 -30", look)]


BUILDS: dict[str, Build] = {
    "round": Build("broad, under a captain's cap", _captain, _captain_cap),
    "long": Build("long, with a knitted hat and whiskers", _long, _long_hat, (38, -54, 14), 7, (26, 5)),
    "box": Build("a ticket machine", _box, eyes=(48, -108, 23), pupil=9, brow=(0, 0), deep=22, lid="trim"),
    "bob": Build("straight hair to the chin", _bob, _bob_fringe, (42, -58, 17), 9, (29, 3.5)),
    "curls": Build("curls and freckles", _curls, _curls_front, (42, -60, 16), 8.5, (27, 4)),
    "bald": Build("bald, with glasses", _bald, _bald_glasses, (46, -56, 12), 6.5, (36, 6)),
    "elder": Build("old, with a bun", _elder, _elder_hair, (40, -56, 12), 6.5, (25, 3.5)),
    "child": Build("a child", _child, _child_tuft, (48, -46, 22), 12, (32, 3.5)),
    "beard": Build("a full beard", _beard, _beard_hair, (42, -66, 13), 7, (26, 8)),
    "braids": Build("two braids", _braids, _braids_front, (42, -56, 18), 10, (29, 3)),
    "goat": Build("a goat", _goat, _goat_muzzle, (56, -92, 15), 8, (24, 5)),
    "sharp": Build("narrow, with combed hair", _sharp, _sharp_hair, (38, -66, 12), 6, (23, 6)),
    "scarf": Build("under a headscarf", _scarf, _scarf_hair, (38, -58, 14), 8, (24, 4)),
}
"""Heads of ours, by what they are called in the record."""
