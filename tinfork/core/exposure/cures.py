"""What cures a check, tried before it is offered: a cure takes one thing to look at away and brings none, so no row
of cures comes back to a track that it left."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from ..errors import TrackError
from . import verbs
from .checks import Check, Fix, Kind, Looked, checks
from .curves import part_of
from .plan import dials_on
from .track import cut_to

_AROUND = 60
"""In frames: what lies farther off is not changed by a cure."""

_FOLLOWED = ("free", "settings of a range")
"""Verbs after which the mouth is planned: that leaves nothing to look at but what a person decided."""


def with_cures(looked: Looked, found: Sequence[Check]) -> tuple[Check, ...]:
    """Return the checks, each with the first cure that helps, if any does."""
    return tuple(replace(check, fix=_cure(looked, check), maybe=()) for check in found)


def _cure(looked: Looked, check: Check) -> Fix | None:
    near, before = _near(looked, check), None
    for fix in check.maybe:
        if fix.verb in _FOLLOWED:
            return fix
        before = before or _counted(near)
        after = tried(near, fix)
        if after is not None and _helps(check.kind, before, _counted(after)):
            return fix
    return None


def _near(looked: Looked, check: Check) -> Looked:
    """What is looked at around a check."""
    frames = range(
        max(looked.first, check.frame - _AROUND),
        min(looked.first + len(looked.curves.values), check.frame + check.frames + _AROUND),
    )
    at = dials_on(looked.at, range(frames.start - looked.first, frames.stop - looked.first))
    own = cut_to(looked.exposures, frames)
    return Looked(own, part_of(looked.curves, frames), looked.chart, at, looked.lines)


def tried(looked: Looked, fix: Fix) -> Looked | None:
    """Return what there is after a cure that lays or slides drawings; None where it cannot be done."""
    track = tuple(looked.exposures)
    try:
        if fix.verb == "lay":
            pieces = [verbs.Piece(*one) for one in fix.what["pieces"]]
            return replace(looked, exposures=verbs.lay(track, fix.what["frame"], pieces))
        hold = looked.hold_on(track[0].frame)
        border = verbs.Border(fix.what["border"])
        return replace(looked, exposures=verbs.slide(track, fix.what["at"], fix.what["by"], border, hold))
    except TrackError:
        return None


def _counted(looked: Looked) -> Counter[Kind]:
    return Counter(check.kind for check in checks(looked))


def _helps(kind: Kind, before: Counter[Kind], after: Counter[Kind]) -> bool:
    return after[kind] < before[kind] and all(after[one] <= before[one] for one in after)
