"""How what was read or set on a sound moves with it: places kept in the sound's own time, shown where its clips lie.

An anchored thing names the source_id it belongs to (see arrangement) and its place there, or no source_id at all, and
then it stays where it is in the scene. What lies outside every clip is hidden, and comes back when the clip does.
"""

import math
from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..errors import TrackError
from ..exposure.track import Pin, check_pin
from ..exposure.windows import merged
from ..speech.reading import Line, Reading, Word, moved_word
from .arrangement import Clip

_HAIR = 1e-4
_NOBODY = -1
SCENE = 0
"""The source_id number of what belongs to no sound."""


class Anchored(Protocol):
    """Anything that lies on frames of a sound, or of the scene."""

    @property
    def frame(self) -> int: ...

    @property
    def frames(self) -> int: ...

    @property
    def source_id(self) -> int: ...


@dataclass(frozen=True)
class AnchoredPin:
    """A pin with frame counted in its source_id, or in the scene where source_id is SCENE."""

    frame: int
    frames: int
    drawing: str
    source_id: int = SCENE
    chosen: bool = True


def anchor(frame: int, clips: Sequence[Clip]) -> tuple[int, int]:
    """A frame of the scene in the sound whose clip covers it, with that sound's source_id; in the scene where none
    does."""
    clip = clip_at(frame, clips)
    return (frame, SCENE) if clip is None else (frame - clip.start + clip.offset, clip.source_id)


def anchor_pins(pins: Iterable[Pin], clips: Sequence[Clip]) -> tuple[AnchoredPin, ...]:
    """Pins placed in the scene, bound to the clip that covers their first frame."""
    bound = ((pin, *anchor(pin.frame, clips)) for pin in pins)
    return tuple(AnchoredPin(frame, pin.frames, pin.drawing, source_id, pin.chosen) for pin, frame, source_id in bound)


@dataclass(frozen=True)
class CoveredPin:
    """A pin of which some is not seen, as a newer one lies on it. frame: its first frame in the scene now."""

    pin: AnchoredPin
    frame: int


@dataclass(frozen=True)
class PlacedPins:
    """Where pins lie in the scene now. shown: what is seen of them, in order and without overlap; covered: those that
    others lie on, in part or whole; hidden: those whose sound is cut away."""

    shown: tuple[Pin, ...] = ()
    covered: tuple[CoveredPin, ...] = ()
    hidden: tuple[AnchoredPin, ...] = ()

    def beginning(self, frames: range) -> tuple[Pin, ...]:
        """Those of which the first frame that is seen is one of the frames."""
        first, end = (bisect_left(self.shown, edge, key=lambda pin: pin.frame) for edge in (frames.start, frames.stop))
        return self.shown[first:end]

    def near(self, frames: range) -> tuple[Pin, ...]:
        """Those that are seen on some of the frames."""
        first = bisect_right(self.shown, frames.start, key=lambda pin: pin.end)
        return self.shown[first : bisect_left(self.shown, frames.stop, key=lambda pin: pin.frame)]


def place_pins(pins: Sequence[AnchoredPin], clips: Sequence[Clip], frames: int) -> PlacedPins:
    """The pins in a scene of this many frames. None of them changes: where a move of the sound brings two together, the
    one that was set later lies on the other."""
    spans = spans_of(pins, clips, frames)
    owner = _owners(spans, frames)
    seen = np.bincount(owner[owner != _NOBODY], minlength=len(pins))
    begins = np.flatnonzero(np.diff(owner, prepend=_NOBODY))
    shown = [
        Pin(first, end - first, pins[number].drawing, pins[number].chosen)
        for first, end, number in zip(begins.tolist(), begins[1:].tolist(), owner[begins].tolist(), strict=False)
        if number != _NOBODY
    ]
    lengths = [0 if span is None else len(span) for span in spans]
    hit = np.flatnonzero(seen < np.array(lengths, np.int64)).tolist()
    covered = [CoveredPin(pins[n], span.start) for n in hit if (span := spans[n]) is not None]
    hidden = [pin for pin, where in zip(pins, spans, strict=True) if where is None]
    return PlacedPins(tuple(shown), tuple(covered), tuple(hidden))


def spans_of(things: Sequence[Anchored], clips: Sequence[Clip], frames: int) -> list[range | None]:
    """Where things lie in a scene of this many frames now; None for what is cut away with its sound."""
    firsts, heard = _firsts(things, clips)
    there = heard & (firsts >= 0) & (firsts < frames)
    return [
        range(first, min(first + one.frames, frames)) if seen else None
        for one, first, seen in zip(things, firsts.tolist(), there.tolist(), strict=True)
    ]


def _owners(spans: Sequence[range | None], frames: int) -> NDArray[np.int64]:
    """(frames + 1,) the number of what is seen on each frame: the one that was set last; _NOBODY for none."""
    owner = np.full(frames + 1, _NOBODY)
    for number, span in enumerate(spans):
        if span is not None:
            owner[span.start : span.stop] = number
    return owner


def set_pins(
    pins: Sequence[AnchoredPin], new: Sequence[Pin], clips: Sequence[Clip], frames: int, hold: int = 1
) -> tuple[AnchoredPin, ...]:
    """The pins with more, set by a person on frames of the scene: older ones give way where one lies on them, and all
    others stay as they are. hold: see less_pins. TrackError when one has no frame."""
    for pin in new:
        check_pin(pin)
    gone = [range(pin.frame, pin.end) for pin in new]
    return (*less_pins(pins, gone, clips, frames, hold), *anchor_pins(new, clips))


def less_pins(
    pins: Sequence[AnchoredPin], gone: Iterable[range], clips: Sequence[Clip], frames: int, hold: int = 1
) -> tuple[AnchoredPin, ...]:
    """The pins less what is seen of them on some frames of the scene. What is left of one in less frames than a hold,
    and than it had, is nobody's decision and goes with them."""
    ranges = merged(gone)
    begins, ends = np.array([(one.start, one.stop) for one in ranges], np.int64).reshape(-1, 2).T
    firsts, heard = _firsts(pins, clips)
    afters = firsts + np.array([pin.frames for pin in pins], np.int64)
    touched = np.searchsorted(begins, afters, "left") > np.searchsorted(ends, firsts, "right")
    touched &= heard & (firsts >= 0) & (firsts < frames)
    kept: list[AnchoredPin] = []
    for pin, first, hit in zip(pins, firsts.tolist(), touched.tolist(), strict=True):
        left = _rests_of(pin, first - pin.frame, ranges) if hit else (pin,)
        kept += [own for own in left if own.frames >= min(hold, pin.frames)]
    return tuple(kept)


def _rests_of(pin: AnchoredPin, shift: int, gone: Sequence[range]) -> Iterable[AnchoredPin]:
    """What is left of a pin that lies so many frames later in the scene."""
    first, end = pin.frame + shift, pin.frame + shift + pin.frames
    for one in gone[bisect_right(gone, first, key=lambda one: one.stop) :]:
        if one.start >= end:
            break
        if one.start > first:
            yield replace(pin, frame=first - shift, frames=one.start - first)
        first = one.stop
    if first < end:
        yield replace(pin, frame=first - shift, frames=end - first)


def unset_pins(
    pins: Sequence[AnchoredPin], on: Iterable[int], clips: Sequence[Clip], frames: int
) -> tuple[AnchoredPin, ...]:
    """The pins less those that are seen on some frames of the scene, whole. TrackError when none is."""
    owner = _owners(spans_of(pins, clips, frames), frames)
    gone = {int(owner[frame]) for frame in on if 0 <= frame < frames} - {_NOBODY}
    if not gone:
        raise TrackError("There is no pin on this frame." if len(set(on)) == 1 else "Nothing is pinned here.")
    return tuple(pin for number, pin in enumerate(pins) if number not in gone)


def _firsts(things: Sequence[Anchored], clips: Sequence[Clip]) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """(things,) the frame of the scene on which each begins, and whether it is not cut away."""
    firsts = np.array([one.frame for one in things], np.int64)
    sources = np.array([one.source_id for one in things], np.int64)
    heard, shifts = sources == SCENE, np.zeros_like(firsts)
    own = set(sources.tolist())
    for clip in clips:
        if clip.source_id in own:
            here = ~heard & (sources == clip.source_id) & (firsts >= clip.offset) & (firsts < clip.offset + clip.frames)
            shifts[here] = clip.start - clip.offset
            heard |= here
    return firsts + shifts, heard


def to_source(lines: Iterable[Line], clips: Sequence[Clip], fps: float) -> tuple[Line, ...]:
    """Lines read in scene time, each word moved to the time of the source_id it was heard in (Word.source_id)."""
    return tuple(replace(line, words=tuple(bound(word, clips, fps) for word in line.words)) for line in lines)


def bound(word: Word, clips: Sequence[Clip], fps: float) -> Word:
    """A word in scene time moved to the time of the source_id it lies on; what lies on none stays in the scene's."""
    clip = clip_at((word.start + word.end) / 2 * fps, clips)
    if clip is None:
        return replace(word, source_id=SCENE)
    return replace(moved_word(word, (clip.offset - clip.start) / fps), source_id=clip.source_id)


def clip_at(frame: float, clips: Sequence[Clip]) -> Clip | None:
    """The clip heard at a frame of the scene, if there is one."""
    return next((c for c in clips if c.start <= frame < c.end), None)


def clip_of(word: Word, clips: Sequence[Clip], fps: float) -> Clip | None:
    """The clip in which a word kept in source_id time is heard, by its middle."""
    middle = (word.start + word.end) / 2 * fps
    own = [c for c in clips if c.source_id == word.source_id]
    return next((c for c in own if c.offset <= middle < c.offset + c.frames), own[0] if own else None)


def to_scene(lines: Iterable[Line], clips: Sequence[Clip], frames: int, fps: float) -> tuple[Line, ...]:
    """Lines kept in source_id time, as they are heard in a scene of this many frames; a line that was torn apart
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
    """A reading kept in source_id time, as it lies in a scene of this many frames."""
    return replace(reading, seconds=frames / fps, lines=to_scene(reading.lines, clips, frames, fps))


def bound_span(
    start: float | None, end: float | None, clips: Sequence[Clip], fps: float
) -> tuple[float | None, float | None, int]:
    """A stretch of the scene, in seconds, as one of the sound that is heard in its middle, with that sound's source_id;
    where nothing is heard it stays the scene's. An end that is not known stays so."""
    clip = clip_at(_middle(start, end) * fps, clips)
    if clip is None or (start is None and end is None):
        return start, end, SCENE
    by = (clip.offset - clip.start) / fps
    return _later(start, by), _later(end, by), clip.source_id


def placed_span(
    start: float | None, end: float | None, source_id: int, clips: Sequence[Clip], fps: float
) -> tuple[float | None, float | None] | None:
    """Where a stretch kept in the time of its sound is heard in the scene now, in seconds; None where it is not."""
    if source_id == SCENE:
        return start, end
    middle = _middle(start, end) * fps
    for clip in clips:
        if clip.source_id == source_id and clip.offset <= middle < clip.offset + clip.frames:
            by = (clip.start - clip.offset) / fps
            return _later(start, by), _later(end, by)
    return None


def _middle(start: float | None, end: float | None) -> float:
    known = [edge for edge in (start, end) if edge is not None]
    return sum(known) / len(known) if known else 0.0


def _later(seconds: float | None, by: float) -> float | None:
    return None if seconds is None else round(seconds + by, 6)
