"""A cut of a film as OpenTimelineIO: where in it each shot lies."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import opentimelineio as otio

from ..errors import SoundError
from ..limits import MAX_NAME_CHARACTERS, MAX_SCENE_FRAMES
from ..timebase import parse_rate

MOST_BYTES = 8_000_000
MOST_SHOTS = 1_000
_MOST_TRACKS = 40


@dataclass(frozen=True)
class CutShot:
    """A shot of a cut: its name, the frame of the film it begins with, counted from 0, and how many it has. first: the
    frame of its own picture it begins with; from_start: whether that is counted from its first one, and not by the
    picture's own numbers."""

    name: str
    start: int
    frames: int
    first: int = 0
    from_start: bool = True


@dataclass(frozen=True)
class FilmCut:
    """The shots of a film, in their order, at a frame rate; left: what was in the cut and is no shot, and why."""

    rate: Fraction
    shots: tuple[CutShot, ...]
    left: tuple[str, ...] = ()


def read(path: Path) -> FilmCut:
    """Return the cut in a file: the clips of its lowest picture track that has any, else of its first. SoundError where
    it is none."""
    if path.stat().st_size > MOST_BYTES:
        raise SoundError(f"A cut has {MOST_BYTES // 1_000_000} MB at the most.")
    try:
        timeline = otio.adapters.read_from_string(path.read_text("utf-8"), "otio_json")
        return _cut(timeline)
    except SoundError:
        raise
    except Exception:  # Whatever a hostile file makes of the library.
        raise SoundError("This is no OpenTimelineIO cut that can be read; save it as .otio once more.") from None


def _cut(timeline: object) -> FilmCut:
    if not isinstance(timeline, otio.schema.Timeline):
        raise SoundError("This OpenTimelineIO file is no timeline; save the whole sequence.")
    tracks = list(timeline.tracks)[:_MOST_TRACKS]
    filled = [one for one in tracks if isinstance(one, otio.schema.Track) and any(_clips(one))]
    pictures = [one for one in filled if one.kind == otio.schema.TrackKind.Video]
    if not filled:
        raise SoundError("There is no clip in this cut.")
    track = (pictures or filled)[0]
    first = next(_clips(track)).trimmed_range()
    rate = parse_rate(f"{first.duration.rate:g}")
    shots, left = [], []
    for place, (clip, lies, called) in enumerate(_parts(track, timeline), 1):
        name = " ".join(called.split())[:MAX_NAME_CHARACTERS] or f"Shot {place}"
        start, end = _frame(lies.start_time, rate), _frame(lies.end_time_exclusive(), rate)
        if end <= start:
            left.append(f"“{name}” has no length")
        elif end > MAX_SCENE_FRAMES:
            left.append(f"“{name}” ends after the longest film there may be")
        else:
            shots.append(CutShot(name, start, end - start, *_begins(clip, rate)))
    if len(shots) > MOST_SHOTS:
        raise SoundError(f"A cut has up to {MOST_SHOTS:,} shots; this one has {len(shots):,}.")
    if not shots:
        raise SoundError(f"There is no shot in this cut: {'; '.join(left[:4])}.")
    return FilmCut(rate, tuple(shots), tuple(left))


def _clips(track: otio.schema.Track) -> Iterator[otio.schema.Clip]:
    return (one for one in track if isinstance(one, otio.schema.Clip))


def _parts(
    track: otio.schema.Track, timeline: otio.schema.Timeline
) -> Iterator[tuple[otio.schema.Clip, otio.opentime.TimeRange, str]]:
    """The shots of a track, each with where it lies and its name: its clips, or of one clip alone what lies between the
    markers on it, on its track or on all of it."""
    clips = list(_clips(track))
    if len(clips) > 1:
        yield from ((clip, clip.trimmed_range_in_parent(), str(clip.name or "")) for clip in clips)
        return
    (clip,) = clips
    whole = clip.trimmed_range_in_parent()
    own = clip.trimmed_range().start_time
    at = [(one.marked_range.start_time - own + whole.start_time, str(one.name or "")) for one in clip.markers]
    at += [(one.marked_range.start_time, str(one.name or "")) for one in (*track.markers, *timeline.tracks.markers)]
    marked = sorted((one for one in at if whole.contains(one[0])), key=lambda one: one[0].to_seconds())
    if not marked:
        yield clip, whole, str(clip.name or "")
        return
    ends = [*(time for time, _ in marked[1:]), whole.end_time_exclusive()]
    for (time, name), end in zip(marked, ends, strict=True):
        yield clip, otio.opentime.TimeRange(time, end - time), name


def _begins(clip: otio.schema.Clip, rate: Fraction) -> tuple[int, bool]:
    """The frame of its own picture that a clip begins with, as CutShot has it."""
    if clip.source_range is None:
        return 0, True
    first = _frame(clip.source_range.start_time, rate)
    media = clip.media_reference
    known = media.available_range if media is not None else None
    return (first - _frame(known.start_time, rate), True) if known is not None else (first, False)


def _frame(time: otio.opentime.RationalTime, rate: Fraction) -> int:
    frames: float = time.rescaled_to(float(rate)).value
    return round(frames)
