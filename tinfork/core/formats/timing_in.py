"""Exposures of another program brought in: OpenTimelineIO, CSV and JSON. They come with names of their own, which are
matched to drawings, and at a rate of their own, which is respected exactly."""

import csv
import io
import json
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from ..errors import DocumentError
from ..exposure.track import NOTHING, Exposure
from ..limits import MAX_SCENE_FRAMES
from ..mouths.chart import Chart
from ..mouths.hints import shape_in
from ..mouths.shapes import SHAPES
from ..naming import file_stem
from ..timebase import format_rate, nearest_frame, parse_rate

MOST_ROWS = 20_000
NOTHING_NAMES = frozenset({"", "(nothing)", "nothing"})
_NAME_LETTERS = 200

Row = tuple[int, int, str]
"""First frame, frames, and the name of a drawing; "" for nothing."""


@dataclass(frozen=True)
class Timing:
    """Exposures of another program. rate: of its frames, None where the file does not say; rows: in order, without
    overlap."""

    rate: Fraction | None
    rows: tuple[Row, ...]

    @property
    def names(self) -> tuple[str, ...]:
        """The names there are, in the order they first come; nothing is none."""
        return tuple(dict.fromkeys(name for _, _, name in self.rows if name))


def parse(text: str) -> Timing:
    """Return what a file holds, by what it looks like. DocumentError when it is none of the three, or holds no
    exposure."""
    data = text.removeprefix("\ufeff").strip()
    try:
        found = _of_json(data) if data.startswith("{") else _of_csv(data)
    except RecursionError:
        raise DocumentError("This file is built too deep to be read; save it anew.") from None
    return Timing(found.rate, checked(found.rows))


def checked(rows: Iterable[Row]) -> tuple[Row, ...]:
    """Return exposures in order. DocumentError where they are none, too many, overlap, or cannot be."""
    ordered = sorted(rows)
    if not ordered:
        raise DocumentError("No exposure was found in this file; give OpenTimelineIO, or CSV or JSON of exposures.")
    if len(ordered) > MOST_ROWS:
        raise DocumentError(f"This file holds more than {MOST_ROWS:,} exposures; bring it in by parts.")
    end = 0
    for first, frames, name in ordered:
        if first < end or frames < 1 or first + frames > MAX_SCENE_FRAMES or len(name) > _NAME_LETTERS:
            raise DocumentError(f"The exposure at frame {first} overlaps another, or cannot be; mend it in the file.")
        end = first + frames
    return tuple(ordered)


def _of_json(data: str) -> Timing:
    try:
        document = json.loads(data)
    except ValueError as wrong:  # One of them is a number with thousands of digits.
        line = getattr(wrong, "lineno", 1)
        raise DocumentError(f"Line {line} of this file is not JSON; save it anew.") from None
    if "OTIO_SCHEMA" in document:
        return _of_timeline(data)
    try:
        rate = parse_rate(str(document["fps"])) if "fps" in document else None
        rows = [(_whole(e["frame"]), _whole(e["frames"]), _name(e["drawing"])) for e in document["exposures"]]
    except (KeyError, TypeError, ValueError):
        raise DocumentError("This JSON has no list of exposures, each with frame, frames and drawing.") from None
    return Timing(rate, tuple(rows))


def _whole(value: Any) -> int:
    if isinstance(value, bool) or not isinstance(value, int | str) or len(str(value)) > 12:
        raise ValueError
    return int(value)


def _name(value: Any) -> str:
    text = " ".join(str(value).split())
    return "" if text.lower() in NOTHING_NAMES else text


def _of_csv(data: str) -> Timing:
    """Rows with frame and drawing, and frames where it is said; else each lasts until the next."""
    try:
        table = list(csv.DictReader(io.StringIO(data.replace("\r\n", "\n").replace("\r", "\n"))))
    except csv.Error as broken:
        raise DocumentError(f"This CSV is broken: {broken}; save it anew.") from None
    columns = {(name or "").strip().lower(): name for name in (table[0] if table else {})}
    if not {"frame", "drawing"} <= columns.keys():
        raise DocumentError("The first row of this CSV must name the columns frame and drawing, and may name frames.")
    try:
        rows = [
            (_whole(row[columns["frame"]]), _whole(row[columns["frames"]]) if "frames" in columns else 0, row)
            for row in table
        ]
    except (TypeError, ValueError):
        raise DocumentError("A frame in this CSV is no whole number; mend it and bring it in again.") from None
    named = [(first, frames, _name(row[columns["drawing"]] or "")) for first, frames, row in rows]
    if "frames" not in columns:
        ends = [*(first for first, _, _ in named[1:]), (named[-1][0] + 1) if named else 0]
        named = [(first, end - first, name) for (first, _, name), end in zip(named, ends, strict=True)]
    return Timing(None, tuple(named))


def _of_timeline(data: str) -> Timing:
    """The first video track of a timeline: a clip is an exposure, a gap is nothing."""
    try:
        timeline = otio.adapters.read_from_string(data, "otio_json")
        track = next(one for one in timeline.tracks if one.kind == otio.schema.TrackKind.Video)
        items = [one for one in track if isinstance(one, otio.schema.Clip | otio.schema.Gap)]
        spans = [one.range_in_parent() for one in items]
        # At the highest of its rates nothing falls between two frames.
        rate = max((time.rate for span in spans for time in (span.start_time, span.duration)), default=None)
        edges = [
            [_nearest(one.rescaled_to(rate).value) for one in (span.start_time, span.end_time_exclusive())]
            for span in spans
        ]
        names = [_name(one.name) if isinstance(one, otio.schema.Clip) else "" for one in items]
        rows = [(first, end - first, name) for (first, end), name in zip(edges, names, strict=True)]
    except Exception:  # Its schema is wide, and a file may break it anywhere.
        raise DocumentError("This is no OpenTimelineIO timeline with a video track; save it anew.") from None
    return Timing(parse_rate(f"{rate:.6f}") if rate else None, tuple(row for row in rows if row[1] > 0))


def _nearest(frames: float) -> int:
    return nearest_frame(Fraction(frames).limit_denominator(1_000_000))


def counted_from(timing: Timing, start: int) -> int:
    """Return the number that the first frame of a scene is likely to have in a file: its own, start, where the file
    begins with that; 1 where it begins with 1; else 0."""
    first = timing.rows[0][0]
    return first if first in (1, start) else 0


def counted_from_0(timing: Timing, base: int) -> Timing:
    """Return the same with its frames counted from 0, where they were from another number. DocumentError when it begins
    before that."""
    first = timing.rows[0][0]
    if first < base:
        raise DocumentError(f"It begins with frame {first}, so its frames are not counted from {base}; choose another.")
    return replace(timing, rows=tuple((at - base, frames, name) for at, frames, name in timing.rows))


def at_rate(timing: Timing, rate: Fraction) -> tuple[tuple[Row, ...], str]:
    """Return the exposures at another rate, each edge on the frame that is nearest in time, and what that did, in a
    sentence; "" where nothing was to be done. What falls between two frames is left out, and said."""
    if timing.rate in (None, rate):
        return timing.rows, ""
    factor = rate / Fraction(timing.rate or rate)
    moved = [
        (nearest_frame(first * factor), nearest_frame((first + frames) * factor), name)
        for first, frames, name in timing.rows
    ]
    rows = tuple((first, end - first, name) for first, end, name in moved if end > first)
    end = timing.rows[-1][0] + timing.rows[-1][1]
    told = f"From {format_rate(Fraction(timing.rate or rate))} to {format_rate(rate)} frames a second"
    lost = len(moved) - len(rows)
    less = f"; {lost} shorter than a frame {'is' if lost == 1 else 'are'} left out" if lost else ""
    return rows, f"{told}: frame {end} becomes frame {nearest_frame(end * factor)}, in the same time{less}."


def matched(names: Sequence[str], chart: Chart, known: Mapping[str, str] = {}) -> dict[str, str]:
    """Return for each name the drawing it stands for: the one it stood for before, one of the same name, or the one
    nearest to the shape the name speaks of; "" where there is none to be guessed."""
    own = {d.name for d in chart.drawings}
    plain = {file_stem(d.name).lower(): d.name for d in reversed(chart.drawings)}
    return {name: _match(name, chart, own, plain, known) for name in names}


def exposures(rows: Iterable[Row], names: Mapping[str, str]) -> tuple[Exposure, ...]:
    """Return rows as exposures of the drawings their names were matched to, from frame 0 on; nothing is shown in
    between."""
    found: list[Exposure] = []
    end = 0
    for first, frames, name in rows:
        if first > end:
            found.append(Exposure(end, first - end, NOTHING))
        found.append(Exposure(first, frames, names.get(name, NOTHING), pinned=True))
        end = first + frames
    return tuple(found)


def _match(name: str, chart: Chart, own: set[str], plain: Mapping[str, str], known: Mapping[str, str]) -> str:
    ways: tuple[Callable[[], str | None], ...] = (
        lambda: known.get(name) if known.get(name) in own else None,
        lambda: name if name in own else None,
        lambda: plain.get(file_stem(name).lower()),
        lambda: chart.drawings[chart.stand_in(SHAPES[shape].place)].name if (shape := shape_in(name)) else None,
    )
    return next((found for way in ways if (found := way())), "")
