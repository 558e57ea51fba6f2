"""A sound of an arrangement becomes its next version: where its clips lie then, and what of the scene is where."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..errors import SoundError
from ..sound.anchors import SCENE
from ..sound.arrangement import MIX, Arrangement, Clip, SoundTrack
from .ways import Leg, nearest


@dataclass(frozen=True)
class Replaced:
    """arrangement: with the new sound in the old one's place; source_id: the new one's; scene: the legs of the scene's
    own frames; same: pairs of clips of whole frames, before and afterwards, on which the very same is heard."""

    arrangement: Arrangement
    source_id: int
    scene: tuple[Leg, ...]
    same: tuple[tuple[Clip, Clip], ...]


@dataclass(frozen=True)
class NewSound:
    """A sound that takes another's place: its number, and how many frames it has."""

    sound: int
    whole: int


def replaced(
    arrangement: Arrangement, source_id: int, new: NewSound, legs: Sequence[Leg], same: Sequence[bool], ends: bool
) -> Replaced:
    """Return an arrangement in which each clip of a sound shows, of the new one, what was heard in it. What is the same
    in the earliest of a clip stays where it is; what follows on its track makes room.

    legs: in order, the old sound's frames on the new one's; same: of each whether it is the same recording at the same
    speed. ends: whether what the new sound has before and after all that the old one had is heard too. SoundError where
    nothing of what is heard is in the new one.
    """
    number = arrangement.next
    moves: dict[int, Clip] = {}
    for clip in sorted((c for c in arrangement.clips if c.source_id == source_id), key=lambda c: c.start):
        parts = [part for leg in legs if (part := leg.within(clip.offset, clip.offset + clip.frames))]
        if parts:
            moves[clip.id] = _move(clip, parts, new, number, ends)
    if not moves:
        raise SoundError("Nothing that is heard of the old sound in this scene is in the new one.")
    tracks = tuple(_on_track(track, source_id, moves) for track in arrangement.tracks)
    after = replace(arrangement, tracks=tracks, next=number + 1)
    there = {clip.id: clip for clip in after.clips}
    scene, pairs = [], []
    for clip in arrangement.clips:
        now = there.get(clip.id)
        if clip.source_id != source_id or now is None:
            continue
        shift = now.start - now.offset
        for leg, is_same in zip(legs, same, strict=True):
            part = leg.within(clip.offset, clip.offset + clip.frames)
            if part is None:
                continue
            by = clip.start - clip.offset
            scene.append(Leg(part.first + by, part.end + by, SCENE, part.to_first + shift, part.to_end + shift))
            if is_same:
                pairs += _pair(part, by, shift, source_id)
    return Replaced(after, number, _with_rest(scene, arrangement, source_id), tuple(pairs))


def _move(clip: Clip, parts: Sequence[Leg], new: NewSound, number: int, ends: bool) -> Clip:
    """A clip as it shows the new sound."""
    earliest = min(parts, key=lambda part: part.to_first)
    first, end = nearest(earliest.to_first), nearest(max(part.to_end for part in parts))
    start = clip.start + nearest(earliest.first) - clip.offset
    if ends and clip.offset == 0:
        start, first = clip.start, 0
    if ends and clip.offset + clip.frames == clip.whole:
        end = new.whole
    first = min(max(0, first), new.whole - 1)
    end = min(max(first + 1, end), new.whole)
    lies = {"start": start, "offset": first, "frames": end - first, "whole": new.whole}
    return replace(clip, sound=new.sound, source_id=number, channel=MIX, **lies)


def _on_track(track: SoundTrack, source_id: int, moves: dict[int, Clip]) -> SoundTrack:
    """A track with its clips as they are afterwards, one after the other where they were."""
    clips: list[Clip] = []
    before: Clip | None = None
    for clip in track.clips:
        if clip.source_id == source_id and clip.id not in moves:
            continue
        now = moves.get(clip.id, clip)
        if clips and before is not None and before.end <= clip.start and now.start < clips[-1].end:
            now = replace(now, start=clips[-1].end)
        clips.append(now)
        before = clip
    return replace(track, clips=tuple(sorted(clips, key=lambda c: (c.start, c.id))))


def _pair(part: Leg, by: int, shift: int, source_id: int) -> list[tuple[Clip, Clip]]:
    """A stretch that is the same as two clips of whole frames; none where there is no whole frame of it."""
    first, to = nearest(part.first + by), nearest(part.to_first + shift)
    frames = min(nearest(part.end + by) - first, nearest(part.to_end + shift) - to)
    if frames < 1 or to < 0 or first < 0:
        return []
    one = Clip(1 + first, 0, source_id, first, 0, frames, frames)
    return [(one, replace(one, start=to))]


def _with_rest(scene: Sequence[Leg], arrangement: Arrangement, source_id: int) -> tuple[Leg, ...]:
    """The legs of the scene, with what lies beside the sound, which stays where it is."""
    clips = sorted(((c.start, c.end) for c in arrangement.clips if c.source_id == source_id), key=lambda span: span[0])
    found, at = list(scene), float(min(0, *(c.start for c in arrangement.clips)))
    for first, end in clips:
        if first > at:
            found.append(Leg(at, first, SCENE, at, first))
        at = max(at, end)
    last = float(max(arrangement.frames, at) + 1)
    found.append(Leg(at, last, SCENE, at, last))
    return tuple(sorted(found, key=lambda leg: leg.first))
