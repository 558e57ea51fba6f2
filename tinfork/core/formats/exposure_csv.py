"""Exposures as CSV (RFC 4180), one row each, for spreadsheets and other programs."""

import csv
import io
from collections.abc import Sequence
from fractions import Fraction

from ..exposure.track import Exposure
from ..mouths.chart import Chart
from ..speech.reading import Reading
from ..timebase import frame_time
from .cells import escaped

COLUMNS = ("frame", "scene_frame", "frames", "start_seconds", "shape", "drawing", "pinned", "sounds")


def text(reading: Reading, exposures: Sequence[Exposure], chart: Chart, rate: Fraction, start_frame: int = 0) -> str:
    """frame counts from 0 at the start of the sound; scene_frame is the scene's own number for it."""
    ipa = [sound.ipa for sound in reading.sounds()]
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for e in exposures:
        writer.writerow(
            [
                e.frame,
                e.frame + start_frame,
                e.frames,
                f"{frame_time(e.frame, rate):.6f}",
                chart.shape_of(e.drawing),
                escaped(e.drawing),
                "yes" if e.pinned else "no",
                escaped(" ".join(ipa[i] for i in e.sounds)),
            ]
        )
    return out.getvalue()
