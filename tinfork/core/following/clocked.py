"""An arrangement, and what is shown, at another frame rate: all is heard and seen when it was, to the nearest frame."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from fractions import Fraction

from ..exposure.track import Exposure
from ..limits import MAX_SCENE_FRAMES
from ..sound.arrangement import Arrangement, Clip
from ..timebase import nearest_frame


def at_rate(arrangement: Arrangement, before: Fraction, after: Fraction, wholes: Mapping[int, int]) -> Arrangement:
    """Return an arrangement at another rate. Clips that met still meet, and what of a sound was heard at one go still
    is. wholes: how many frames each sound has at the new rate, by its number."""
    ratio = after / before

    def moved(clip: Clip) -> Clip:
        start, end = nearest_frame(clip.start * ratio), nearest_frame(clip.end * ratio)
        whole = wholes[clip.sound]
        frames = min(max(1, end - start), whole)
        offset = start - nearest_frame((clip.start - clip.offset) * ratio)
        return replace(clip, start=start, frames=frames, offset=min(max(0, offset), whole - frames), whole=whole)

    tracks = tuple(replace(t, clips=tuple(moved(clip) for clip in t.clips)) for t in arrangement.tracks)
    length = arrangement.length and min(max(1, nearest_frame(arrangement.length * ratio)), MAX_SCENE_FRAMES)
    return replace(arrangement, tracks=tracks, length=length)


def exposures_at(exposures: Iterable[Exposure], ratio: Fraction) -> list[Exposure]:
    """Return exposures where there are so many frames for each that there was; those without a frame of their own are
    left out."""
    edges = ((e, nearest_frame(e.frame * ratio), nearest_frame(e.end * ratio)) for e in exposures)
    return [replace(e, frame=first, frames=end - first) for e, first, end in edges if end > first]
