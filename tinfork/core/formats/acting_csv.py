"""What parts of faces do, frame by frame, as CSV (RFC 4180): a row for each part on each frame on which it does another
thing than on the one before."""

import csv
import io

from ..mouths.parts import DIALS, Pose
from ..shot.shot import Shot
from .cells import escaped

COLUMNS = ("frame", "scene_frame", "character", "part", *DIALS, "drawing")


def text(shot: Shot) -> str:
    """x and y in units of the face's picture, turn in degrees clockwise, the rest in shares; drawing: what is shown of
    the part. A part that is not named yet rests."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for role in shot.roles:
        rests = {part.name: part.rest for part in role.face.parts}
        before: dict[str, Pose] = {}
        for frame, poses in enumerate(role.poses):
            for part in role.face.parts:
                pose = poses.get(part.name, Pose())
                if pose != before.get(part.name, Pose()):
                    dials = [f"{pose.dials.get(dial, 0.0):g}" for dial in DIALS]
                    drawing = rests[part.name] if pose.drawing is None else pose.drawing
                    names = [escaped(role.name), escaped(part.name)]
                    writer.writerow([frame, frame + shot.start_frame, *names, *dials, escaped(drawing)])
                before[part.name] = pose
    return out.getvalue()
