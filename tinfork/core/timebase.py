"""Frame rates and frames.

A rate is an exact Fraction of frames per second. The decimal names the trade uses for the NTSC family
(23.976, 29.97, 59.94 ...) stand for N*1000/1001 exactly, as SMPTE ST 12-1 has it.
"""

import math
import re
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from .errors import RateError
from .limits import MAX_FPS, MIN_FPS

COMMON_RATES = ("12", "15", "24", "25", "30", "48", "50", "60", "23.976", "29.97", "59.94")

Array = NDArray[np.float64]
Ints = NDArray[np.int64]

_RATE = re.compile(r"[0-9]{1,6}(\.[0-9]{1,9})?|[0-9]{1,9}/[0-9]{1,9}")

CLOCK_SECONDS = 1e-6
"""Times are kept to the microsecond, so one that lies within a microsecond of a frame's edge lies on it."""


def parse_rate(text: str) -> Fraction:
    """Read "24", "23.976", "24000/1001" or "12.5" as an exact rate.

    Digits with a point or a slash among them, and nothing else: no exponents, which would be numbers without end.
    Raises RateError when the text is none such or lies outside MIN_FPS..MAX_FPS.
    """
    cleaned = text[:100].strip().lower().removesuffix("fps").strip()
    refusal = RateError(f"“{text.strip()[:20]}” is not a frame rate; give frames per second such as 24, 25 or 23.976.")
    if not _RATE.fullmatch(cleaned):
        raise refusal
    try:
        rate = Fraction(cleaned)
    except ZeroDivisionError:
        raise refusal from None
    if not MIN_FPS <= rate <= MAX_FPS:
        raise RateError(f"A frame rate must lie between {MIN_FPS} and {MAX_FPS} frames per second.")
    nominal = math.ceil(rate)
    ntsc = Fraction(nominal * 1000, 1001)
    if rate != nominal and nominal % 6 == 0 and abs(rate - ntsc) < Fraction(1, 100):
        return ntsc
    return rate


def format_rate(rate: Fraction) -> str:
    """Return the shortest text parse_rate reads back as the same rate: "24", "23.976" or "25/2"."""
    if rate.denominator == 1:
        return str(rate.numerator)
    if rate.denominator == 1001:
        short = f"{float(rate):.3f}".rstrip("0")
        if parse_rate(short) == rate:
            return short
    return f"{rate.numerator}/{rate.denominator}"


def nearest_frame(exact: Fraction) -> int:
    """Return the frame nearest to a place in frames; of two as near the later, so that equal steps stay equal."""
    return math.floor(exact + Fraction(1, 2))


def frame_count(seconds: float, rate: Fraction) -> int:
    """Return how many frames it takes to cover a sound of this length; at least one."""
    return max(1, frame_after(seconds, rate))


def frame_at(seconds: float, rate: Fraction) -> int:
    """Return the frame on screen at a time: the last one that has begun."""
    return math.floor((seconds + CLOCK_SECONDS) * float(rate))


def frame_after(seconds: float, rate: Fraction) -> int:
    """Return the first frame that begins at or after a time: where something that ends then is over."""
    return math.ceil((seconds - CLOCK_SECONDS) * float(rate))


def frames_touched(start: float, end: float, rate: Fraction) -> range:
    """Return the frames during which something that lasts from start to end seconds goes on; at least one."""
    first = frame_at(start, rate)
    return range(first, max(frame_after(end, rate), first + 1))


def all_touched(starts: Array, ends: Array, rate: Fraction) -> tuple[Ints, Ints]:
    """Return of many at once the first frame touched and the one after the last, as frames_touched has them; (n,)
    each."""
    first = np.floor((starts + CLOCK_SECONDS) * float(rate)).astype(np.int64)
    after = np.ceil((ends - CLOCK_SECONDS) * float(rate)).astype(np.int64)
    return first, np.maximum(after, first + 1)


def all_within(starts: Array, ends: Array, rate: Fraction) -> tuple[Ints, Ints]:
    """Return of many at once the first frame in whose middle it goes on and the one after the last, as frames_within
    has them; (n,) each."""
    fps, half = float(rate), 0.5 / float(rate)
    first = np.ceil((starts - half - CLOCK_SECONDS) * fps).astype(np.int64)
    after = np.floor((ends - half + CLOCK_SECONDS) * fps).astype(np.int64) + 1
    middle = np.floor(((starts + ends) / 2 + CLOCK_SECONDS) * fps).astype(np.int64)
    none = after <= first
    return np.where(none, middle, first), np.where(none, middle + 1, after)


def frames_within(start: float, end: float, rate: Fraction) -> range:
    """Return the frames in whose middle it goes on; where there is none, the one that its own middle lies in."""
    half = 0.5 / float(rate)
    found = range(frame_after(start - half, rate), frame_at(end - half, rate) + 1)
    if found:
        return found
    middle = frame_at((start + end) / 2, rate)
    return range(middle, middle + 1)


def frame_time(frame: int, rate: Fraction) -> float:
    """Return when a frame begins, in seconds from the start of the sound."""
    return float(frame / rate)


def timecode(frame: int, rate: Fraction) -> str:
    """Return a frame as hours, minutes, seconds and frames (SMPTE ST 12-1), non-drop: it counts as many frames a second
    as the rate has when it is rounded up.

    >>> timecode(86400 + 25, Fraction(24))
    '01:00:01:01'
    """
    nominal = math.ceil(rate)
    seconds, frames = divmod(frame, nominal)
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}:{frames:02d}"


def scene_timecode(frame: int, start: int, rate: Fraction) -> str:
    """Return the timecode of a frame, counted from 0, of a scene whose first frame has the number start: by the scene's
    own count, and from 00:00:00:00 on where that begins with 1.

    >>> scene_timecode(0, 1, Fraction(24)), scene_timecode(0, 24, Fraction(24))
    ('00:00:00:00', '00:00:01:00')
    """
    return timecode(counted(frame, start), rate)


def counted(frame: int, start: int) -> int:
    """Return how many frames a timecode counts to a frame; see scene_timecode."""
    return frame + (0 if start == 1 else start)
