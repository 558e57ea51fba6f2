"""Two scenes as one: the second's sounds, lines and marks after the first's. Where both are parts of one that was cut
in two, what was cut is whole again."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from msgspec import structs

from ..acting.lanes import Lane
from ..errors import SoundError
from ..limits import MAX_SCENE_FRAMES
from ..script.lines import Script, ScriptLine, checked
from ..script.marks import Mark, Marks
from ..sound.anchors import SCENE
from ..sound.arrangement import Arrangement, Clip, SoundTrack, check
from ..speech.reading import Line, Word, moved_word


@dataclass(frozen=True)
class Seam:
    """Where the second begins. frames: the first's length; fps: of both; sources, lines: for each number of the second
    the one it has in both; cut: for each sound that goes on across the seam, by its number in both, the frame of it on
    which the second begins."""

    frames: int
    fps: float
    sources: Mapping[int, int]
    lines: Mapping[int, int]
    cut: Mapping[int, int]

    @property
    def seconds(self) -> float:
        """When it begins."""
        return self.frames / self.fps


def seam_of(one: Arrangement, other: Arrangement, scripts: tuple[Script, Script], fps: float) -> Seam:
    """Return how a second scene follows a first."""
    sources = {clip.source_id: clip.source_id + one.next for clip in other.clips}
    cut = {}
    for own, track in _pairs(one, other):
        last, first = _at_seam(own, track, one.frames)
        if last and first:
            sources[first.source_id] = last.source_id
            cut[last.source_id] = first.offset
    before, after = scripts
    lines = {line.id: line.id + before.next for line in after.lines}
    if cut:
        lines |= {b.id: a.id for a, b in _goes_on(before.lines, after.lines)}
    return Seam(one.frames, fps, sources, lines, cut)


def _pairs(one: Arrangement, other: Arrangement) -> Iterable[tuple[SoundTrack, SoundTrack]]:
    for track in other.tracks:
        own = next((own for own in one.tracks if _alike(own, track)), None)
        if own is not None:
            yield own, track


def _alike(one: SoundTrack, other: SoundTrack) -> bool:
    return (one.kind, one.character, one.name) == (other.kind, other.character, other.name)


def _at_seam(one: SoundTrack, other: SoundTrack, frames: int) -> tuple[Clip | None, Clip | None]:
    """The clip that ends at the seam and the one that goes on from it with the same sound; None for both else."""
    last = max(one.clips, key=lambda clip: clip.end, default=None)
    first = min(other.clips, key=lambda clip: clip.start, default=None)
    if last is None or first is None or last.end != frames or first.start != 0:
        return None, None
    goes_on = (last.sound, last.channel, last.gain, last.offset + last.frames)
    return (last, first) if goes_on == (first.sound, first.channel, first.gain, first.offset) else (None, None)


def _goes_on(before: tuple[ScriptLine, ...], after: tuple[ScriptLine, ...]) -> list[tuple[ScriptLine, ScriptLine]]:
    """Lines at the end of one script with which another begins."""
    for count in range(min(len(before), len(after)), 0, -1):
        pairs = list(zip(before[-count:], after[:count], strict=True))
        if all((a.text, a.character) == (b.text, b.character) for a, b in pairs):
            return pairs
    return []


def arrangements(one: Arrangement, other: Arrangement, seam: Seam) -> Arrangement:
    """Return both arrangements one after another: what belongs together lies on one track. SoundError where that is
    more than a scene has."""
    total = seam.frames + other.frames
    if total > MAX_SCENE_FRAMES:
        raise SoundError(f"Both together have more than {MAX_SCENE_FRAMES:,} frames.")
    tracks = list(one.tracks)
    for track in other.tracks:
        at = next((n for n, own in enumerate(tracks) if _alike(own, track)), None)
        later = tuple(_later_clip(clip, one.next, seam) for clip in track.clips)
        if at is None:
            tracks.append(replace(track, id=track.id + one.next, clips=later))
        else:
            tracks[at] = replace(tracks[at], clips=_whole((*tracks[at].clips, *later), seam))
    found = Arrangement(tuple(tracks), total, one.next + other.next)
    check(found)
    return found


def _later_clip(clip: Clip, numbers: int, seam: Seam) -> Clip:
    start = clip.start + seam.frames
    return replace(clip, id=clip.id + numbers, source_id=seam.sources[clip.source_id], start=start)


def _whole(clips: tuple[Clip, ...], seam: Seam) -> tuple[Clip, ...]:
    """Clips, of which the two that were cut at the seam are one."""
    found: list[Clip] = []
    for clip in sorted(clips, key=lambda one: (one.start, one.id)):
        last = found[-1] if found else None
        if last and clip.start == seam.frames == last.end and clip.source_id == last.source_id in seam.cut:
            found[-1] = replace(last, frames=last.frames + clip.frames)
        else:
            found.append(clip)
    return tuple(found)


def scripts(one: Script, other: Script, seam: Seam) -> Script:
    """Return both scripts one after another. ScriptError where that is more than a scene has."""
    there = {line.id for line in one.lines}
    later = tuple(
        replace(
            line,
            id=seam.lines[line.id],
            source_id=seam.sources.get(line.source_id, SCENE),
            start=_later(line.start, line.source_id, seam),
            end=_later(line.end, line.source_id, seam),
        )
        for line in other.lines
        if seam.lines[line.id] not in there
    )
    return checked(Script((*one.lines, *later), one.next + other.next))


def _later(seconds: float | None, source_id: int, seam: Seam) -> float | None:
    return None if seconds is None else seconds + (seam.seconds if source_id == SCENE else 0.0)


def marks(one: Marks, other: Marks, seam: Seam) -> Marks:
    """Return the marks of both, each once."""

    def later(mark: Mark) -> Mark:
        by = seam.seconds if mark.source_id == SCENE else 0.0
        source = seam.sources.get(mark.source_id, SCENE)
        return replace(mark, id=mark.id + one.next, source_id=source, start=mark.start + by, end=mark.end + by)

    known = {(mark.character, mark.source_id, mark.start, mark.end) for mark in one.marks}
    more = [own for own in map(later, other.marks) if (own.character, own.source_id, own.start, own.end) not in known]
    return Marks((*one.marks, *more), one.next + other.next)


def line(own: Line, seam: Seam, before: Line | None = None) -> Line:
    """Return a line that was read in the second as it is in both. before: the same line as it was read in the first,
    where it goes on across the seam: each word as it is heard."""
    words = tuple(_word(word, seam) for word in own.words)
    if before is not None and len(before.words) == len(words):
        pairs = zip(before.words, words, strict=True)
        words = tuple(b if _is_after(b, seam) else a for a, b in pairs)
    return replace(own, id=seam.lines.get(own.id, 0), words=words, start=words[0].start, end=words[-1].end)


def _word(word: Word, seam: Seam) -> Word:
    if word.source_id == SCENE:
        return moved_word(word, seam.seconds)
    return replace(word, source_id=seam.sources.get(word.source_id, word.source_id))


def _is_after(word: Word, seam: Seam) -> bool:
    cut = seam.cut.get(word.source_id)
    return cut is None or (word.start + word.end) / 2 * seam.fps >= cut


def lanes(one: Lane, other: Lane, seam: Seam) -> Lane:
    """Return what a part of a face does in both; other: already where it lies in both (carrying.lane)."""
    free = max((gesture.id for gesture in one.gestures), default=0)
    later = tuple(structs.replace(own, id=own.id + free, line=seam.lines.get(own.line, 0)) for own in other.gestures)
    keys = {
        dial: (*one.keys.get(dial, ()), *other.keys.get(dial, ())) for dial in dict.fromkeys([*one.keys, *other.keys])
    }
    return replace(one, keys=keys, shows=(*one.shows, *other.shows), gestures=(*one.gestures, *later))
