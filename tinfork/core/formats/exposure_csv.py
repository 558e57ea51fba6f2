"""Exposures as CSV (RFC 4180), one row each, for spreadsheets and other programs."""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from fractions import Fraction

from ..exposure.track import Exposure
from ..mouths.chart import Chart
from ..shot.shot import Role, Shot
from ..speech.reading import Reading
from ..timebase import frame_time, scene_timecode
from .cells import escaped

COLUMNS = ("frame", "scene_frame", "frames", "start_seconds", "shape", "drawing", "pinned", "sounds")


def text(reading: Reading, exposures: Sequence[Exposure], chart: Chart, rate: Fraction, start_frame: int = 0) -> str:
    """frame counts from 0 at the start of the sound; scene_frame is the scene's own number for it."""
    return _written([COLUMNS, *_rows(reading, exposures, chart, rate, start_frame)])


def whole(shot: Shot) -> str:
    """Return the exposures of everybody in a shot, one after the other, with a column more: the character."""
    rows = [
        [*row, escaped(role.name)]
        for role in shot.roles
        for row in _rows(role.reading, role.exposures, role.chart, shot.rate, shot.start_frame)
    ]
    return _written([[*COLUMNS, "character"], *rows])


def _written(rows: Iterable[Sequence[object]]) -> str:
    out = io.StringIO()
    csv.writer(out).writerows(rows)
    return out.getvalue()


def _rows(
    reading: Reading, exposures: Sequence[Exposure], chart: Chart, rate: Fraction, start_frame: int
) -> Iterator[Sequence[object]]:
    ipa = [sound.ipa for sound in reading.sounds()]
    for e in exposures:
        yield [
            e.frame,
            e.frame + start_frame,
            e.frames,
            f"{frame_time(e.frame, rate):.6f}",
            chart.shape_of(e.drawing),
            escaped(e.drawing),
            "yes" if e.pinned else "no",
            escaped(" ".join(ipa[i] for i in e.sounds if i < len(ipa))),
        ]


def by_frame(shot: Shot) -> str:
    """Return a row for each frame: its numbers, what is said, and of each character the drawing, its shape and, where a
    seam is eased, the drawing that comes and its share."""
    own = [escaped(f"{role.name} {what}") for role in shot.roles for what in _OF_EACH]
    rows: list[Sequence[object]] = [["frame", "scene_frame", "timecode", "words", *own]]
    tracks = [list(role.on_each_frame()) for role in shot.roles]
    for frame in range(shot.frames):
        cells = [cell for role, track in zip(shot.roles, tracks, strict=True) for cell in _cells(role, track, frame)]
        at = frame + shot.start_frame
        said = escaped(" ".join(shot.words_on(frame)))
        rows.append([frame, at, scene_timecode(frame, shot.start_frame, shot.rate), said, *map(escaped, cells)])
    return _written(rows)


_OF_EACH = ("drawing", "shape", "comes", "share")


def _cells(role: Role, track: Sequence[Exposure], frame: int) -> tuple[str, str, str, str]:
    if frame >= len(track):
        return "", "", "", ""
    blend, shown = role.blends.get(frame), track[frame]
    if blend is None:
        return shown.drawing, role.chart.shape_of(shown.drawing), "", ""
    return blend.before.drawing, role.chart.shape_of(blend.before.drawing), blend.after.drawing, f"{blend.weight:.3f}"
