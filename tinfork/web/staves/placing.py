"""Which of a stave's lines lie where in the scene, so that only those that are needed are loaded."""

from collections.abc import Iterable
from dataclasses import replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tinfork.core.exposure import ranges
from tinfork.core.exposure.curves import untouched
from tinfork.core.exposure.pins import PlacedPins, place_pins
from tinfork.core.exposure.ranges import AnchoredEase, AnchoredIntent, AnchoredMood, AnchoredStretch
from tinfork.core.exposure.track import Passage
from tinfork.core.plain import restore
from tinfork.core.script import marks
from tinfork.core.script.casting import clips_of
from tinfork.core.sound.anchors import SCENE
from tinfork.core.sound.arrangement import Clip
from tinfork.core.speech.anchors import to_scene
from tinfork.core.speech.reading import Line, Sound
from tinfork.core.timebase import CLOCK_SECONDS
from tinfork.web.sound.models import Arrangement

from .models import Body, Stave

Stretch = tuple[float, float]
Array = NDArray[np.float64]
Numbers = NDArray[np.int64]
Bools = NDArray[np.bool_]


class Placed:
    """A stave where its sounds lie in the scene now, or lay in another arrangement."""

    def __init__(self, stave: Stave, arrangement: Arrangement | None = None, known: "Placed | None" = None) -> None:
        """known: one of the same sounds; where its pins lie need not be found again."""
        self.stave = stave
        self.arrangement = arrangement or stave.arrangement
        self.rate = stave.scene.fps
        self.fps = float(self.rate)
        self.frames = self.arrangement.value.frames
        self._known_spans: tuple[int, tuple[Array, Array, Numbers, Bools]] | None = None
        self._known_pins: list[tuple[list[Any], PlacedPins]] = known._known_pins if known else []
        self._lines: dict[int, tuple[Body, tuple[Line, ...]]] = {}

    @cached_property
    def clips(self) -> tuple[Clip, ...]:
        """The clips the character is heard in."""
        return clips_of(self.arrangement.value, self.stave.character_id)

    @cached_property
    def allowed(self) -> list[Stretch] | None:
        """Where alone the mouth may move, as the character was marked as speaking there; None for everywhere."""
        return marks.speaking(self.arrangement.the_marks).get(self.stave.character_id)

    @property
    def pins(self) -> PlacedPins:
        """Where the stave's pins lie; remembered, as are those before the last change."""
        known = next((found for pins, found in self._known_pins if pins is self.stave.pins), None)
        if known is None:
            known = place_pins(self.stave.pin_values, self.clips, self.frames)
            self._known_pins[:-1] = []
            self._known_pins.append((self.stave.pins, known))
        return known

    @property
    def moods(self) -> list[tuple[range, AnchoredMood]]:
        """Where the character is in another mood, the one that was set last last."""
        return ranges.placed(self.stave.mood_values, self.clips, self.frames)

    @property
    def passages(self) -> list[Passage]:
        """Where the mouths are planned with settings of their own."""
        found = ranges.placed(self.stave.passage_values, self.clips, self.frames)
        return [Passage(span.start, len(span), one.settings) for span, one in found]

    @property
    def stretches(self) -> list[tuple[range, AnchoredStretch]]:
        """Where stretches of their own lie."""
        return ranges.placed(self.stave.stretch_values, self.clips, self.frames)

    @property
    def intents(self) -> list[tuple[range, AnchoredIntent]]:
        """Where something looks wrong and is meant so."""
        return ranges.placed(self.stave.intent_values, self.clips, self.frames)

    @property
    def eases(self) -> list[tuple[range, AnchoredEase]]:
        """Where seams are eased."""
        return ranges.placed(self.stave.ease_values, self.clips, self.frames)

    @property
    def places(self) -> dict[int, int]:
        """The place of each line in the reading, by its number."""
        return {number: place for place, number in enumerate(self.stave.order)}

    @property
    def spoken(self) -> dict[int, set[int]]:
        """For each line by its number the sounds in which some of it was said."""
        return {int(number): {span[0] for span in spans if span[3]} for number, spans in self.stave.where.items()}

    def numbers_in(self, frames: range) -> list[int]:
        """Return the numbers of the lines that may be heard on some frames, in their places."""
        firsts, lasts, numbers, _ = self._spans()
        near = numbers[(firsts <= frames.stop / self.fps) & (lasts >= frames.start / self.fps)]
        places = self.places
        return sorted(set(near.tolist()) & places.keys(), key=places.__getitem__)

    @property
    def silent(self) -> Bools:
        """Return (frames,) where nothing is said for certain; here and there something may not be said elsewhere
        either."""
        return self._spans()[3]

    def _spans(self) -> tuple[Array, Array, Numbers, Bools]:
        """Where something is heard of the lines at the most: first seconds, last seconds, and the line's number; and
        the frames on which nothing is said; remembered as long as no line has changed."""
        if self._known_spans is None or self._known_spans[0] != self.stave.lines_decided:
            self._known_spans = (self.stave.lines_decided, self._heard_spans())
        return self._known_spans[1]

    def _heard_spans(self) -> tuple[Array, Array, Numbers, Bools]:
        spans = [(number, *span) for number, spans in self.stave.where.items() for span in spans]
        numbers = np.array([int(span[0]) for span in spans], np.int64)
        sources = np.array([span[1] for span in spans], np.int64)
        starts, ends = (np.array([span[at] for span in spans], float) for at in (2, 3))
        said = np.array([span[4] for span in spans], bool)
        own = sources == SCENE
        found = [(starts[own], ends[own], numbers[own], said[own])]
        for clip in self.clips:
            by = (clip.start - clip.offset) / self.fps
            first = clip.offset / self.fps if clip.offset else -np.inf
            last = (clip.offset + clip.frames) / self.fps if clip.offset + clip.frames < clip.whole else np.inf
            own = (sources == clip.source_id) & (starts <= last) & (ends >= first)
            found.append((starts[own] + by, ends[own] + by, numbers[own], said[own]))
        firsts, lasts, heard, spoken = (np.concatenate(part) for part in zip(*found, strict=True))
        begun, over = firsts[spoken] - CLOCK_SECONDS, lasts[spoken] + CLOCK_SECONDS
        return firsts, lasts, heard, untouched(begun, over, self.rate, range(self.frames))

    def line_spans(self) -> dict[int, tuple[float, float]]:
        """Return for each line that is said somewhere, by its number, its first and last second in the scene."""
        firsts, lasts, numbers, _ = self._spans()
        found: dict[int, tuple[float, float]] = {}
        for first, last, number in zip(firsts.tolist(), lasts.tolist(), numbers.tolist(), strict=True):
            before = found.get(number, (first, last))
            found[number] = (min(first, before[0]), max(last, before[1]))
        return {number: found[number] for number in self.stave.order if number in found}

    def load(self, numbers: Iterable[int]) -> list[Line]:
        """Return lines as they are kept, in the time of their sounds."""
        return [restore(body, Line) for body in self.stave.bodies(numbers)]

    def in_scene(self, lines: Iterable[Line]) -> tuple[Line, ...]:
        """Return lines as they are heard in the scene."""
        return to_scene(lines, self.clips, self.frames, self.fps)

    def _words_of(self, number: int) -> tuple[Line, ...]:
        """A line as it is heard in the scene; remembered as long as it is the same."""
        (body,) = self.stave.bodies([number])
        known = self._lines.get(number)
        if known is None or known[0] is not body:
            known = self._lines[number] = (body, self.in_scene([restore(body, Line)]))
        return known[1]

    def shown(self, numbers: Iterable[int]) -> list[tuple[int, Line]]:
        """Return lines as they are heard in the scene, with their places; every word says its place in the reading."""
        found, places, numbers = [], self.places, list(numbers)
        self.stave.bodies(numbers)
        for number in numbers:
            for line in self._words_of(number):
                words = tuple(replace(word, at=(places[number], word.at[1])) for word in line.words)
                found.append((places[number], replace(line, words=words)))
        return found

    def sounds(self, frames: range) -> list[Sound]:
        """Return the sounds heard on some frames, and around them, in order."""
        numbers = self.numbers_in(frames)
        self.stave.bodies(numbers)
        words = [
            (word.start, place, word.at[1], word.sounds)
            for place, number in enumerate(numbers)
            for line in self._words_of(number)
            for word in line.words
        ]
        return [sound for *_, sounds in sorted(words, key=lambda word: word[:3]) for sound in sounds]

    def sounds_of(self, line: Line | None) -> list[Sound]:
        """Return the sounds of a line where they are heard in the scene, in order."""
        found = [s for one in self.in_scene([line] if line else []) for word in one.words for s in word.sounds]
        return sorted(found, key=lambda sound: sound.start)


def placed_now(stave: Stave) -> Placed:
    """Return a stave where its sounds lay when this object of it first asked; all that use the object share what is
    found."""
    if "_placed" not in vars(stave):
        vars(stave)["_placed"] = Placed(stave)
    found: Placed = vars(stave)["_placed"]
    return found
