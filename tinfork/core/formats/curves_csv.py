"""Mouths as curves, as CSV (RFC 4180): on each frame where jaw, lips, teeth and tongue are, for rigs that are moved by
numbers."""

import csv
import io

from ..mouths.shapes import ARTICULATORS
from ..shot.flowing import continuous
from ..shot.shot import Shot
from .cells import escaped

COLUMNS = ("frame", "scene_frame", "character", "drawing", *ARTICULATORS)


def text(shot: Shot) -> str:
    """Each from 0 to 1, moving all through, however mouths are eased; closed lips stay closed on all of their
    frames. drawing: the one whose frame it is."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for role in shot.roles:
        for own, (frame, row) in zip(role.on_each_frame(), enumerate(continuous(role)), strict=True):
            values = [f"{value:.4f}".rstrip("0").rstrip(".") for value in row]
            writer.writerow([frame, frame + shot.start_frame, escaped(role.name), escaped(own.drawing), *values])
    return out.getvalue()
