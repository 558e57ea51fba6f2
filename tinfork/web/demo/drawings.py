"""The demo's own drawings, as somebody might have drawn them: Brede's carved mouths, the five panels of Pock, and the
parts of the cabinet he is."""

from tinfork.core.mouths.shapes import ARTICULATORS, SHAPES

_INK, _HOLLOW, _IVORY, _TONGUE = "#2b1c16", "#4a201d", "#f3ead6", "#b8605a"

CARVED = {
    "boot": "rest",
    "wet boot": "press",
    "half a gull": "half",
    "whole gull": "open",
    "goat asks": "round",
    "goat waits": "purse",
    "mister mug": "ajar",
    "rope end": "tuck",
    "season ticket": "spread",
    "tally marks": "teeth",
    "north pier": "lift",
}
"""What Brede's drawings are called, and which shape each was drawn for."""

_PANELS = {
    "panel, lamp off": (86, 0),
    "panel, a slot": (92, 15),
    "panel, a drawer": (96, 38),
    "panel, a door": (84, 70),
    "panel, a porthole": (44, 44),
}

_FACE = 'xmlns="http://www.w3.org/2000/svg" viewBox="-150 -210 300 360"'
_LINE = 'stroke="#22302f" stroke-width="3" stroke-linejoin="round"'

CABINET = {
    "cabinet": f'<svg {_FACE}><g {_LINE}><rect x="-118" y="-186" width="236" height="324" rx="14" fill="#2f7d72"/>'
    '<rect x="-98" y="-66" width="196" height="178" rx="10" fill="#c9cfcc"/></g></svg>',
    "lamps": f'<svg {_FACE}><g {_LINE}><circle cx="-48" cy="-108" r="23" fill="#f4f1ea"/><circle cx="48" cy="-108" '
    'r="23" fill="#f4f1ea"/></g></svg>',
    "bulbs": f'<svg {_FACE}><circle cx="-44" cy="-106" r="9" fill="#22302f"/><circle cx="52" cy="-106" r="9" '
    'fill="#22302f"/></svg>',
    "half": f'<svg {_FACE}><g {_LINE}><path d="M-73 -108A25 25 0 0 1 -23 -108Z" fill="#27695f"/><path d="M23 -108A25 '
    '25 0 0 1 73 -108Z" fill="#27695f"/></g></svg>',
    "shut": f'<svg {_FACE}><g {_LINE}><circle cx="-48" cy="-108" r="25" fill="#27695f"/><circle cx="48" cy="-108" '
    'r="25" fill="#27695f"/><path d="M-71 -98Q-48 -88 -25 -98M25 -98Q48 -88 71 -98" fill="none"/></g></svg>',
    "slot": f'<svg {_FACE}><g {_LINE}><rect x="-60" y="-172" width="120" height="14" rx="5" fill="#22302f"/><path '
    'd="M-40 -165H40V-146L32 -152L24 -146L16 -152L8 -146L0 -152L-8 -146L-16 -152L-24 -146L-32 -152L-40 -146Z" '
    'fill="#f4f1ea" stroke-width="2"/></g></svg>',
}
"""The layers of Pock's face, as SVG, the lowest first."""

CABINET_FROM_THE_SIDE = {
    "side right cabinet": f'<svg {_FACE}><g {_LINE}><path d="M-86 -172L62 -186V138L-86 124Z" fill="#27695f"/><path '
    'd="M62 -186H98V138H62Z" fill="#2f7d72"/><path d="M62 -66H92V112H62Z" fill="#c9cfcc"/><path d="M-60 -120H0M-60 '
    '-100H0M-60 -80H0" fill="none"/><circle cx="-30" cy="40" r="26" fill="#2f7d72"/><path d="M-30 24V56M-46 40H-14" '
    'fill="none"/></g></svg>',
    "side right lamp": f'<svg {_FACE}><g {_LINE}><ellipse cx="80" cy="-108" rx="12" ry="23" fill="#f4f1ea"/></g></svg>',
    "side right bulb": f'<svg {_FACE}><ellipse cx="83" cy="-106" rx="5" ry="9" fill="#22302f"/></svg>',
    "side right half": f'<svg {_FACE}><g {_LINE}><path d="M67 -108A13 25 0 0 1 93 -108Z" fill="#27695f"/></g></svg>',
    "side right shut": f'<svg {_FACE}><g {_LINE}><ellipse cx="80" cy="-108" rx="13" ry="25" fill="#27695f"/><path '
    'd="M68 -98Q80 -88 92 -98" fill="none"/></g></svg>',
}
"""The same from the right side of the picture; from the left it is mirrored."""

SIDE_VIEW = "side right"

MOUTH_FROM_THE_SIDE = {"x": "77", "y": "0", "size": "0.3", "turn": "0"}
"""Where Pock's mouth lies there."""

PARTS = {"eyes": {"bulbs": False, "bulb": False}, "lids": {"half": True, "shut": True}}
"""The parts of Pock's face with their layers, and whether those are shown in turn."""


def carved(shape: str) -> str:
    """Return one of Brede's mouths for a shape, cut with straight strokes, as SVG."""
    a = dict(zip(ARTICULATORS, SHAPES[shape].place, strict=True))
    half, drop = (19 + 46 * a["width"]) * (1 - 0.46 * a["rounding"]), 64 * a["jaw"]
    if a["jaw"] < 0.06:
        dip, width = (0, 5) if a["press"] > 0.6 else (7, 6)
        line = f"M{-half} 0L{-half * 0.4} {dip}L{half * 0.4} {dip + 1}L{half} -1"
        return _svg(f'<path d="{line}" fill="none" stroke="{_INK}" stroke-width="{width}" stroke-linejoin="bevel"/>')
    top, wide = -5 - 4 * a["jaw"], 0.66 + 0.14 * a["rounding"]
    edge = (
        f"M{-half:.1f} {drop * 0.2:.1f}L{-half * wide:.1f} {top:.1f}L{half * wide:.1f} {top:.1f}L{half:.1f} "
        f"{drop * 0.2:.1f}L{half * 0.62:.1f} {drop:.1f}L{-half * 0.62:.1f} {drop:.1f}Z"
    )
    inner = []
    if a["tongue"] > 0.15:
        high = drop * (0.2 + 0.5 * a["tongue"])
        inner.append(
            f'<path d="M{-half * 0.55:.1f} {drop + 4:.1f}L{-half * 0.3:.1f} {drop - high:.1f}H{half * 0.3:.1f}L'
            f'{half * 0.55:.1f} {drop + 4:.1f}Z" fill="{_TONGUE}"/>'
        )
    if a["upper_teeth"] > 0.15:
        deep = min(15 * a["upper_teeth"], (drop - top) * 0.55)
        inner.append(f'<rect x="-80" y="{top}" width="160" height="{deep:.1f}" fill="{_IVORY}"/>')
    if a["lower_teeth"] > 0.25:
        deep = min(11 * a["lower_teeth"], (drop - top) * 0.4)
        inner.append(f'<rect x="-80" y="{drop - deep:.1f}" width="160" height="{deep:.1f}" fill="{_IVORY}"/>')
    return _svg(
        f'<clipPath id="in"><path d="{edge}"/></clipPath><path d="{edge}" fill="{_HOLLOW}"/>'
        f'<g clip-path="url(#in)">{"".join(inner)}</g>'
        f'<path d="{edge}" fill="none" stroke="{_INK}" stroke-width="5" stroke-linejoin="bevel"/>'
    )


def panels() -> dict[str, str]:
    """Pock's five mouths by their names, as SVG: a bar that opens like the flap of a ticket machine."""
    return {name: _panel(width, height) for name, (width, height) in _PANELS.items()}


def _panel(width: float, height: float) -> str:
    if not height:
        return _svg(f'<rect x="{-width / 2}" y="-4" width="{width}" height="9" rx="2" fill="#22302f"/>')
    return _svg(
        f'<rect x="{-width / 2}" y="-8" width="{width}" height="{height + 8}" rx="6" fill="#22302f"/>'
        f'<rect x="{-width / 2 + 7}" y="-2" width="{width - 14}" height="{height - 5}" rx="3" fill="#7a2f3c"/>'
    )


def _svg(inside: str) -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-90 -60 180 150" width="720" height="600">{inside}</svg>'
