"""What lies where in a scene: clips of sounds on tracks. Every change returns a new arrangement; none touches a sound.

All places are whole frames of the scene, counted from 0 at its first frame; a clip may begin before it. A clip shows
frames of its sound from offset on. Clips that were split from one another keep the same source_id, by which
readings and pins find the sound they belong to.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from ..errors import SoundError
from ..limits import MAX_CHANNELS, MAX_CLIPS, MAX_NAME_CHARACTERS, MAX_SCENE_FRAMES, MAX_TRACKS

DIALOGUE, SHARED, EFFECTS, MUSIC = KINDS = ("dialogue", "shared", "effects", "music")
MIX = -1
"""The channel number that stands for all channels mixed."""

LEAST_GAIN, MOST_GAIN = -60.0, 24.0


@dataclass(frozen=True)
class Clip:
    """A piece of a sound, where it is heard in the scene. start: the scene frame it is heard from; offset: which
    frame of its sound that is; frames: for how long; whole: how many frames the sound has; gain in dB; channel: one
    of the sound's, or MIX."""

    id: int
    sound: int
    source_id: int
    start: int
    offset: int
    frames: int
    whole: int
    gain: float = 0.0
    channel: int = MIX

    @property
    def end(self) -> int:
        """The first scene frame after it."""
        return self.start + self.frames


@dataclass(frozen=True)
class SoundTrack:
    """What clips lie on. kind: one of KINDS; dialogue belongs to one character, shared dialogue to all. gain in dB."""

    id: int
    kind: str
    name: str = ""
    character: int | None = None
    muted: bool = False
    solo: bool = False
    gain: float = 0.0
    clips: tuple[Clip, ...] = ()

    @property
    def is_read(self) -> bool:
        """Whether it holds speech."""
        return self.kind in (DIALOGUE, SHARED)


@dataclass(frozen=True)
class Arrangement:
    """The tracks and clips of a scene. length: the scene's frames, or None to follow the sound; next: the first
    number not yet given away."""

    tracks: tuple[SoundTrack, ...] = ()
    length: int | None = None
    next: int = 1

    @cached_property
    def clips(self) -> tuple[Clip, ...]:
        """All clips, track by track."""
        return tuple(clip for track in self.tracks for clip in track.clips)

    @property
    def frames(self) -> int:
        """How many frames the scene has; at least one."""
        return self.length or max([1, *(clip.end for clip in self.clips)])

    def track(self, number: int) -> SoundTrack:
        """SoundError when there is none of this number."""
        found = next((track for track in self.tracks if track.id == number), None)
        if found is None:
            raise SoundError("This track is gone; reload the page.")
        return found

    def clip(self, number: int) -> Clip:
        """SoundError when there is none of this number."""
        found = next((clip for clip in self.clips if clip.id == number), None)
        if found is None:
            raise SoundError("This clip is gone; reload the page.")
        return found


def heard_tracks(arrangement: Arrangement) -> tuple[SoundTrack, ...]:
    """Return the tracks that are heard: those set solo if there are any, else all; never the muted."""
    solo = any(track.solo for track in arrangement.tracks)
    return tuple(track for track in arrangement.tracks if not track.muted and (track.solo or not solo))


def add_track(arrangement: Arrangement, kind: str, name: str = "", character: int | None = None) -> Arrangement:
    """With one more empty track, the last."""
    if kind not in KINDS:
        raise SoundError("A track is for dialogue, shared dialogue, effects or music.")
    if len(arrangement.tracks) >= MAX_TRACKS:
        raise SoundError(f"A scene has up to {MAX_TRACKS} tracks.")
    track = SoundTrack(arrangement.next, kind, name[:MAX_NAME_CHARACTERS], character)
    return Arrangement((*arrangement.tracks, track), arrangement.length, arrangement.next + 1)


def remove_track(arrangement: Arrangement, number: int) -> Arrangement:
    """Without a track and what lies on it."""
    gone = arrangement.track(number)
    return replace(arrangement, tracks=tuple(track for track in arrangement.tracks if track is not gone))


def set_track(arrangement: Arrangement, number: int, **changed: Any) -> Arrangement:
    """With a track's name, muted, solo or gain changed."""
    if "gain" in changed:
        changed["gain"] = _gain(changed["gain"])
    if "name" in changed:
        changed["name"] = " ".join(str(changed["name"]).split())[:MAX_NAME_CHARACTERS]
    arrangement.track(number)
    return _each_track(arrangement, lambda track: replace(track, **changed) if track.id == number else track)


def place(arrangement: Arrangement, track: int, sound: int, whole: int, start: int) -> Arrangement:
    """With a whole sound placed on a track; the clip's number is the arrangement's old next."""
    number = arrangement.next
    clip = _checked(Clip(number, sound, number, start, 0, whole, whole))
    if len(arrangement.clips) >= MAX_CLIPS:
        raise SoundError(f"A scene has up to {MAX_CLIPS} clips.")
    arrangement.track(track)
    placed = _each_track(arrangement, lambda t: replace(t, clips=_ordered([*t.clips, clip])) if t.id == track else t)
    return replace(placed, next=number + 1)


def free_from(clips: Iterable[Clip], start: int, frames: int) -> int:
    """Return the first frame at or after a start from which so many frames lie on no clip."""
    for clip in _ordered(clips):
        if clip.start < start + frames and clip.end > start:
            start = clip.end
    return start


def slide(arrangement: Arrangement, clips: Iterable[int], by: int, ripple: bool = False) -> Arrangement:
    """With some clips moved by frames, together. ripple: all that begins after the first of them moves along."""
    moving = {arrangement.clip(number).id for number in clips}
    if ripple and moving:
        first = min(clip.start for clip in arrangement.clips if clip.id in moving)
        moving |= {clip.id for clip in arrangement.clips if clip.start >= first}
    return _each_clip(arrangement, lambda c: [replace(c, start=c.start + by) if c.id in moving else c])


def move_to_track(arrangement: Arrangement, number: int, track: int) -> Arrangement:
    """With a clip on another track, at the same frames."""
    clip = arrangement.clip(number)
    arrangement.track(track)
    return _each_track(
        arrangement,
        lambda t: replace(t, clips=_ordered([*(c for c in t.clips if c.id != number), *([clip] * (t.id == track))])),
    )


def trim(arrangement: Arrangement, number: int, first: int, end: int) -> Arrangement:
    """With a clip heard from scene frame first up to, not including, end; never more than its sound has."""
    clip = arrangement.clip(number)
    first = max(first, clip.start - clip.offset)
    end = min(end, clip.start - clip.offset + clip.whole)
    if end <= first:
        raise SoundError("A clip keeps at least one frame; delete it to take it away.")
    trimmed = replace(clip, start=first, offset=clip.offset + first - clip.start, frames=end - first)
    return _each_clip(arrangement, lambda c: [trimmed if c.id == number else c])


def split(arrangement: Arrangement, clips: Iterable[int], frame: int) -> Arrangement:
    """With clips cut in two at a frame. SoundError when none of them lies across it."""
    across = {n for n in clips if arrangement.clip(n).start < frame < arrangement.clip(n).end}
    if not across:
        raise SoundError("No selected clip lies across this frame; put the playhead inside one.")
    number = arrangement.next

    def cut(clip: Clip) -> list[Clip]:
        nonlocal number
        if clip.id not in across:
            return [clip]
        number += 1
        first = frame - clip.start
        rest = replace(clip, id=number - 1, start=frame, offset=clip.offset + first, frames=clip.frames - first)
        return [replace(clip, frames=first), rest]

    done = _each_clip(arrangement, cut)
    return replace(done, next=number)


def delete(arrangement: Arrangement, clips: Iterable[int], ripple: bool = False) -> Arrangement:
    """Without some clips. ripple: what comes later on all tracks closes up by the stretch they covered."""
    gone = [arrangement.clip(number) for number in clips]
    if not gone:
        raise SoundError("Select a clip first.")
    numbers = {clip.id for clip in gone}
    left = _each_clip(arrangement, lambda c: [] if c.id in numbers else [c])
    if not ripple:
        return left
    first, end = min(clip.start for clip in gone), max(clip.end for clip in gone)
    return shift_after(left, end, first - end)


def cut_out(
    arrangement: Arrangement, first: int, end: int, tracks: Iterable[int] | None = None, ripple: bool = False
) -> Arrangement:
    """Without the stretch from first up to end, on some tracks or all. ripple: what comes later closes up."""
    if end <= first:
        raise SoundError("Set in and out first: out comes after in.")
    chosen = {track.id for track in arrangement.tracks} if tracks is None else set(tracks)
    number = arrangement.next

    def remaining(clip: Clip) -> list[Clip]:
        nonlocal number
        if clip.end <= first or clip.start >= end:
            return [clip]
        left = [replace(clip, frames=first - clip.start)] if clip.start < first else []
        if clip.end > end:
            rest = replace(clip, start=end, offset=clip.offset + end - clip.start, frames=clip.end - end)
            if left:
                number += 1
                rest = replace(rest, id=number - 1)
            left.append(rest)
        return left

    done = _each_track(
        arrangement,
        lambda t: replace(t, clips=_ordered(p for c in t.clips for p in remaining(c))) if t.id in chosen else t,
    )
    done = replace(done, next=number)
    return shift_after(done, end, first - end, chosen) if ripple else done


def shift_after(
    arrangement: Arrangement, frame: int, by: int, tracks: Iterable[int] | None = None, split_across: bool = False
) -> Arrangement:
    """With all that begins at or after a frame moved, on some tracks or all: a gap opened or closed.

    split_across: clips that lie across the frame are cut there, and their later part moves.
    """
    chosen = {track.id for track in arrangement.tracks} if tracks is None else set(tracks)
    across = [
        c.id for t in arrangement.tracks if t.id in chosen for c in t.clips if split_across and c.start < frame < c.end
    ]
    if across:
        arrangement = split(arrangement, across, frame)
    return _each_track(
        arrangement,
        lambda t: replace(t, clips=tuple(_moved(c, frame, by) for c in t.clips)) if t.id in chosen else t,
    )


def set_clip(arrangement: Arrangement, number: int, **changed: Any) -> Arrangement:
    """With a clip's gain or channel changed."""
    if "gain" in changed:
        changed["gain"] = _gain(changed["gain"])
    arrangement.clip(number)
    return _each_clip(arrangement, lambda c: [replace(c, **changed) if c.id == number else c])


def set_length(arrangement: Arrangement, frames: int | None) -> Arrangement:
    """With the scene's length set in frames, or None to follow the sound."""
    if frames is not None and not 1 <= frames <= MAX_SCENE_FRAMES:
        raise SoundError(f"A scene has 1 to {MAX_SCENE_FRAMES:,} frames; leave it empty to follow the sound.")
    return replace(arrangement, length=frames)


def check(arrangement: Arrangement) -> None:
    """SoundError when an arrangement that was made elsewhere is none that could have been made here."""
    tracks, clips = arrangement.tracks, arrangement.clips
    numbers = [*(track.id for track in tracks), *(clip.id for clip in clips)]
    if len(tracks) > MAX_TRACKS or len(clips) > MAX_CLIPS:
        raise SoundError(f"A scene has up to {MAX_TRACKS} tracks and {MAX_CLIPS} clips.")
    if len(set(numbers)) < len(numbers) or not all(0 < number < arrangement.next for number in numbers):
        raise SoundError("Two clips or tracks of a scene have one number.")
    set_length(arrangement, arrangement.length)
    for track in tracks:
        if track.kind not in KINDS or len(track.name) > MAX_NAME_CHARACTERS:
            raise SoundError("A track is for dialogue, shared dialogue, effects or music.")
        _gain(track.gain)
    for clip in clips:
        _gain(_checked(clip).gain)
        fits = clip.offset >= 0 and clip.frames > 0 and clip.offset + clip.frames <= clip.whole <= MAX_SCENE_FRAMES
        if not fits or not 0 < clip.source_id < arrangement.next or not MIX <= clip.channel < MAX_CHANNELS:
            raise SoundError("A clip shows more of a sound than there is.")


def _moved(clip: Clip, frame: int, by: int) -> Clip:
    return _checked(replace(clip, start=clip.start + by)) if clip.start >= frame else clip


def _gain(value: float) -> float:
    gain = float(value)
    if not LEAST_GAIN <= gain <= MOST_GAIN:
        raise SoundError(f"A gain lies between {LEAST_GAIN:.0f} and {MOST_GAIN:.0f} dB.")
    return gain


def _checked(clip: Clip) -> Clip:
    if not -MAX_SCENE_FRAMES <= clip.start <= MAX_SCENE_FRAMES:
        raise SoundError("This is too far from the scene; give a frame nearer to it.")
    return clip


def _ordered(clips: Iterable[Clip]) -> tuple[Clip, ...]:
    return tuple(sorted((_checked(clip) for clip in clips), key=lambda clip: (clip.start, clip.id)))


def _each_track(arrangement: Arrangement, change: Callable[[SoundTrack], SoundTrack]) -> Arrangement:
    return replace(arrangement, tracks=tuple(change(track) for track in arrangement.tracks))


def _each_clip(arrangement: Arrangement, change: Callable[[Clip], list[Clip]]) -> Arrangement:
    return _each_track(
        arrangement, lambda track: replace(track, clips=_ordered(new for clip in track.clips for new in change(clip)))
    )
