"""How what was read of a sound moves with it: words kept in its time, shown where its clips lie (see sound.anchors)."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import replace

from ..sound.anchors import SCENE, clip_at
from ..sound.arrangement import Clip
from .reading import Line, Reading, Word, moved_word

_HAIR = 1e-4


def to_source(lines: Iterable[Line], clips: Sequence[Clip], fps: float) -> tuple[Line, ...]:
    """Return lines read in scene time, each word moved to the time of the source_id it was heard in
    (Word.source_id)."""
    return tuple(replace(line, words=tuple(bound(word, clips, fps) for word in line.words)) for line in lines)


def bound(word: Word, clips: Sequence[Clip], fps: float) -> Word:
    """Return a word in scene time moved to the time of the source_id it lies on; what lies on none stays in the
    scene's."""
    clip = clip_at((word.start + word.end) / 2 * fps, clips)
    if clip is None:
        return replace(word, source_id=SCENE)
    return replace(moved_word(word, (clip.offset - clip.start) / fps), source_id=clip.source_id)


def clip_of(word: Word, clips: Sequence[Clip], fps: float) -> Clip | None:
    """Return the clip in which a word kept in source_id time is heard, by its middle."""
    middle = (word.start + word.end) / 2 * fps
    own = [c for c in clips if c.source_id == word.source_id]
    return next((c for c in own if c.offset <= middle < c.offset + c.frames), own[0] if own else None)


def to_scene(lines: Iterable[Line], clips: Sequence[Clip], frames: int, fps: float) -> tuple[Line, ...]:
    """Return lines kept in source_id time, as they are heard in a scene of this many frames; a line that was torn apart
    comes as several. Every word says where it stands in the lines given (Word.at)."""
    words: list[tuple[float, int, int, Line, Word]] = []
    for number, line in enumerate(lines):
        for place, kept in enumerate(line.words):
            word = replace(kept, at=(number, place))
            words += [(part.start, number, place, line, part) for part in _placed(word, clips, frames / fps, fps)]
    words.sort(key=lambda row: row[:3])
    found: list[Line] = []
    last = (-1, -1)
    for _, number, place, line, word in words:
        if number != last[0]:
            found.append(replace(line, start=word.start, end=word.end, words=()))
        own = found[-1].words
        if (number, place) == last and word.start - own[-1].end < _HAIR:
            joined = replace(own[-1], end=word.end, sounds=(*own[-1].sounds, *word.sounds))
            own = (*own[:-1], joined)
        else:
            own = (*own, word)
        found[-1] = replace(found[-1], end=max(found[-1].end, word.end), words=own)
        last = (number, place)
    return tuple(found)


def _placed(word: Word, clips: Sequence[Clip], seconds: float, fps: float) -> Iterable[Word]:
    if word.source_id == SCENE:
        yield from _within(word, 0.0, seconds, 0.0)
        return
    for clip in clips:
        if clip.source_id == word.source_id:
            shift = (clip.start - clip.offset) / fps
            start = clip.offset / fps if clip.offset else -math.inf
            end = (clip.offset + clip.frames) / fps if clip.offset + clip.frames < clip.whole else math.inf
            if word.start <= end and word.end >= start:
                yield from _within(word, max(start, -shift), min(end, seconds - shift), shift)


def _within(word: Word, start: float, end: float, shift: float) -> Iterable[Word]:
    """The part of a word whose sounds have their middle in a stretch, moved; nothing when it has none."""
    sounds = tuple(s for s in word.sounds if start <= (s.start + s.end) / 2 < end)
    if sounds:
        part = word if len(sounds) == len(word.sounds) else replace(word, sounds=sounds, pinned=(), decided=False)
        if (part.start, part.end) != (sounds[0].start, sounds[-1].end):
            part = replace(part, start=sounds[0].start, end=sounds[-1].end)
        yield moved_word(part, shift) if shift else part


def reading_in_scene(reading: Reading, clips: Sequence[Clip], frames: int, fps: float) -> Reading:
    """Return a reading kept in source_id time, as it lies in a scene of this many frames."""
    return replace(reading, seconds=frames / fps, lines=to_scene(reading.lines, clips, frames, fps))
