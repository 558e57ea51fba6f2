"""Poses: what all parts of a face do on one frame, kept under a name, to be laid again here or on another face."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

from ..exposure.verbs import Piece, lay
from ..mouths.parts import DIALS, FACING, Part, Pose
from .lanes import Lane, Where
from .verbs import expose, keyed_on, set_key

MIRRORED = ("x", "turn", "bend", FACING)
"""The dials that go the other way in a mirror."""

_SHOWN = 2


@dataclass(frozen=True)
class KeptPose:
    """What each part does, by its name."""

    parts: Mapping[str, Pose] = field(default_factory=dict)

    def mirrored(self) -> "KeptPose":
        """Return the pose as a mirror shows it: left is right."""
        return KeptPose({_other_side(name): _turned(pose) for name, pose in self.parts.items()})


def _turned(pose: Pose) -> Pose:
    return replace(pose, dials={dial: -v if dial in MIRRORED else v for dial, v in pose.dials.items()})


def _other_side(name: str) -> str:
    swap = {"left": "right", "right": "left"}
    return " ".join(swap.get(word, word) for word in name.split(" "))


def lay_pose(lane: Lane, where: Where, part: Part, pose: Pose, frame: int, amount: float = 1.0) -> Lane:
    """Return a lane with keys on a frame that bring it so much of the way to a pose; the drawing is shown from half the
    way on. Dials that are turned nowhere and rest in the pose are let alone."""
    found = lane
    for dial in DIALS:
        wanted = pose.dials.get(dial, 0.0)
        own = lane.keys.get(dial, ())
        if wanted or own:
            now = keyed_on(lane, where, dial, frame)
            value = now + amount * (wanted - now)
            known = DIALS[dial]
            found = set_key(found, where, dial, frame, round(min(known.most, max(known.least, value)), 3))
    if pose.drawing is not None and pose.drawing in part.drawings and amount >= 0.5:
        drawing = pose.drawing
        found = expose(found, where, part.rest, lambda track: lay(track, frame, [Piece(0, _SHOWN, drawing)]))
    return found


def fitting(parts: Iterable[Part], pose: KeptPose) -> dict[str, Pose]:
    """Return what of a pose a face can do: that of the parts it has."""
    names = {part.name for part in parts}
    return {name: own for name, own in pose.parts.items() if name in names}
