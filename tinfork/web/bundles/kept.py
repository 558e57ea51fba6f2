"""A shot that was kept, as a bundle has it: nothing in it is believed, as it is drawn in pages as it is."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from tinfork.core.errors import BundleError
from tinfork.core.limits import MAX_CAST, MAX_DOCUMENT_BYTES, MAX_SCENE_FRAMES
from tinfork.core.mouths.markup import check_markup
from tinfork.core.mouths.parts import check_parts
from tinfork.core.plain import restore
from tinfork.core.shot.shot import Role
from tinfork.core.sound import arrangement
from tinfork.web.handover.keeping import Kept

from .numbers import renumbered

_AMISS = BundleError("A version in this bundle does not hold together; take it out again where it came from.")


def checked_kept(path: Path, number: Callable[[str, int], int]) -> Kept:
    """Return the shot in a file, with numbers for places. BundleError where it is none that was kept here."""
    if path.stat().st_size > MAX_DOCUMENT_BYTES:
        raise _AMISS
    try:
        plain: Any = msgspec.json.decode(path.read_bytes())
        plain["arrangement"] = renumbered("sound", {"body": plain["arrangement"]}, number)["body"]
        plain["characters"] = [number("characters", place) for place in plain["characters"]]
        kept: Kept = restore(plain, Kept)
    except (msgspec.MsgspecError, LookupError, TypeError, ValueError, RecursionError):
        raise _AMISS from None
    if not 0 < len(kept.roles) == len(set(kept.characters)) == len(kept.characters) <= MAX_CAST:
        raise _AMISS
    arrangement.check(kept.arrangement)
    for role in kept.roles:
        _check(role)
    return kept


def _check(role: Role) -> None:
    at = 0
    for one in role.exposures:
        if one.frame != at or one.frames < 1 or one.drawing not in role.drawn:
            raise _AMISS
        at = one.end
    if not 0 < at <= MAX_SCENE_FRAMES or not all(one.name for one in role.chart.drawings):
        raise _AMISS
    face = role.face
    check_parts(face.parts)
    for markup in (*role.drawn.values(), *(piece.markup for piece in face.pieces), face.behind + face.before):
        check_markup(markup)
    _ = role.poses
