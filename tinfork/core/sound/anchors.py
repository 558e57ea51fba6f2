"""How what was read or set on a sound moves with it: places kept in the sound's own time, shown where its clips lie.

An anchored thing names the material it belongs to (see arrangement) and its place there, or no material at all, and
then it stays where it is in the scene. What lies outside every clip is hidden, and comes back when the clip does.
"""

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

from ..exposure.track import Pin
from ..speech.reading import Line, Reading, Word, moved_word
from .arrangement import Clip

_HAIR = 1e-4
SCENE = 0
"""The material number of what belongs to no sound."""


@dataclass(frozen=True)
class AnchoredPin:
    """A pin with frame counted in its material, or in the scene where material is SCENE."""

    frame: int
    frames: int
    drawing: str
    material: int = SCENE


def anchor_pins(pins: Iterable[Pin], clips: Sequence[Clip]) -> tuple[AnchoredPin, ...]:
    """Pins placed in the scene, bound to the clip that covers their first frame."""
    bound = []
    for pin in pins:
        clip = next((c for c in clips if c.start <= pin.frame < c.end), None)
        frame = pin.frame if clip is None else pin.frame - clip.start + clip.offset
        bound.append(AnchoredPin(frame, pin.frames, pin.drawing, clip.material if clip else SCENE))
    return tuple(bound)


def place_pins(
    pins: Iterable[AnchoredPin], clips: Sequence[Clip], frames: int
) -> tuple[tuple[Pin, ...], tuple[AnchoredPin, ...]]:
    """The pins within a scene of this many frames, in order and without overlap; and those that are hidden now."""
    placed: list[Pin] = []
    hidden = []
    for pin in pins:
        shift = _shift(pin, clips)
        if shift is None or not 0 <= pin.frame + shift < frames:
            hidden.append(pin)
        else:
            placed.append(Pin(pin.frame + shift, pin.frames, pin.drawing))
    placed.sort(key=lambda pin: pin.frame)
    ends = [*(pin.frame for pin in placed[1:]), frames][: len(placed)]
    fitted = (Pin(p.frame, min(p.end, end) - p.frame, p.drawing) for p, end in zip(placed, ends, strict=True))
    return tuple(pin for pin in fitted if pin.frames > 0), tuple(hidden)


def _shift(pin: AnchoredPin, clips: Sequence[Clip]) -> int | None:
    if pin.material == SCENE:
        return 0
    return next(
        (
            c.start - c.offset
            for c in clips
            if c.material == pin.material and c.offset <= pin.frame < c.offset + c.frames
        ),
        None,
    )


def to_material(lines: Iterable[Line], clips: Sequence[Clip], fps: float) -> tuple[Line, ...]:
    """Lines read in scene time, each word moved to the time of the material it was heard in (Word.material)."""
    return tuple(replace(line, words=tuple(bound(word, clips, fps) for word in line.words)) for line in lines)


def bound(word: Word, clips: Sequence[Clip], fps: float) -> Word:
    """A word in scene time moved to the time of the material it lies on; what lies on none stays in the scene's."""
    clip = clip_at((word.start + word.end) / 2 * fps, clips)
    if clip is None:
        return replace(word, material=SCENE)
    return replace(moved_word(word, (clip.offset - clip.start) / fps), material=clip.material)


def clip_at(frame: float, clips: Sequence[Clip]) -> Clip | None:
    """The clip heard at a frame of the scene, if there is one."""
    return next((c for c in clips if c.start <= frame < c.end), None)


def clip_of(word: Word, clips: Sequence[Clip], fps: float) -> Clip | None:
    """The clip in which a word kept in material time is heard, by its middle."""
    middle = (word.start + word.end) / 2 * fps
    own = [c for c in clips if c.material == word.material]
    return next((c for c in own if c.offset <= middle < c.offset + c.frames), own[0] if own else None)


def to_scene(lines: Iterable[Line], clips: Sequence[Clip], frames: int, fps: float) -> tuple[Line, ...]:
    """Lines kept in material time, as they are heard in a scene of this many frames; a line that was torn apart
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
    if word.material == SCENE:
        yield from _within(word, 0.0, seconds, 0.0)
        return
    for clip in clips:
        if clip.material == word.material:
            shift = (clip.start - clip.offset) / fps
            start = clip.offset / fps if clip.offset else -math.inf
            end = (clip.offset + clip.frames) / fps if clip.offset + clip.frames < clip.whole else math.inf
            yield from _within(word, max(start, -shift), min(end, seconds - shift), shift)


def _within(word: Word, start: float, end: float, shift: float) -> Iterable[Word]:
    """The part of a word whose sounds have their middle in a stretch, moved; nothing when it has none."""
    sounds = tuple(s for s in word.sounds if start <= (s.start + s.end) / 2 < end)
    if sounds:
        part = word if len(sounds) == len(word.sounds) else replace(word, sounds=sounds, pinned=(), decided=False)
        yield moved_word(replace(part, start=sounds[0].start, end=sounds[-1].end), shift)


def reading_in_scene(reading: Reading, clips: Sequence[Clip], frames: int, fps: float) -> Reading:
    """A reading kept in material time, as it lies in a scene of this many frames."""
    return replace(reading, seconds=frames / fps, lines=to_scene(reading.lines, clips, frames, fps))


def follower(old: Sequence[Clip], new: Sequence[Clip], fps: float) -> Callable[[float], float]:
    """Where a moment of the scene, in seconds, is heard after clips were moved; where it was, if it no longer is."""

    def follow(seconds: float) -> float:
        frame = seconds * fps
        for clip in old:
            if clip.start <= frame < clip.end:
                place = frame - clip.start + clip.offset
                shifts = (
                    c.start - c.offset - clip.start + clip.offset
                    for c in new
                    if c.material == clip.material and c.offset <= place < c.offset + c.frames
                )
                return seconds + next(shifts, 0) / fps
        return seconds

    return follow
