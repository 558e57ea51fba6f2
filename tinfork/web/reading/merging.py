"""Lines that were read, put in their places in the staves of who speaks them."""

import functools
import hashlib
import time
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace

from tinfork.core.script import marks
from tinfork.core.script.casting import SoundToRead, own_clips
from tinfork.core.script.lines import ScriptLine
from tinfork.core.sound.recording import Recording
from tinfork.core.speech import loose
from tinfork.core.speech.anchors import bound, to_scene, to_source
from tinfork.core.speech.phrases import most_heard
from tinfork.core.speech.reading import Line, Reading, Word
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.script.actions import script_of
from tinfork.web.script.languages import language_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement
from tinfork.web.staves import actions

_SECONDS_BETWEEN_LINES = 2.0


@dataclass(frozen=True)
class PartToRead:
    """A sound of a scene with its lines, in its arrangement, and its recording; who asked, and the number of the piece
    of work. voices: where each character is heard by their voice, in seconds, where nothing else says so."""

    person: Person
    scene: Scene
    part: SoundToRead
    document: Arrangement
    recording: Recording
    batch: int | None
    voices: Mapping[int, Sequence[tuple[float, float]]] = field(default_factory=dict)


class ReadingMerger:
    """Puts lines that were read in their places, as they come. Lines that were not asked for stay word for word, and so
    does a line that a person corrected while it was being read. Lines nobody wrote stay where a person set something of
    them: against what is heard (heard, or a part without lines), not against what is written for their place.

    notes: sentences for the user; restore: by line id, the line as it was and which of its words alone were read again.
    """

    def __init__(self, own: PartToRead, heard: bool = False) -> None:
        part, scene, self._recording, self._batch = own.part, own.scene, own.recording, own.batch
        self._heard, self._voices = heard or not part.lines, own.voices
        self._person, self._scene, self._part = own.person, scene, part
        self._cast = list(scene.production.characters.all())
        self._frames, self._fps = own.document.value.frames, float(own.document.scene.fps)  # As it was heard.
        self._staves = {
            character: (actions.stave_for(own.person, scene, scene.production.characters.get(pk=character)), lines)
            for character, lines in _by_character(scene, part, own.voices).items()
        }
        self._before = {
            character: {line.id: line for line in reading.lines} if (reading := stave.reading_value) else {}
            for character, (stave, _) in self._staves.items()
        }
        self._waiting: list[Line] = []
        self._taken: set[int] = set()
        self._last = time.monotonic()
        self.notes: list[str] = []
        self.restore: dict[int, tuple[Line, Collection[tuple[int, int]]]] = {}

    def some(self, lines: Sequence[Line]) -> None:
        """Lines, in scene time, that can be used already; kept every few seconds."""
        self._waiting += lines
        if time.monotonic() - self._last > _SECONDS_BETWEEN_LINES:
            self._take(self._waiting, ())
            self._waiting, self._last = [], time.monotonic()

    def rest(self, reading: Reading) -> None:
        """The whole reading, of which some lines may have been taken already."""
        self._take([line for line in reading.lines if line.id not in self._taken], reading.lost)
        self._waiting = []

    def _take(self, lines: Sequence[Line], lost: Sequence[tuple[int, Word]]) -> None:
        basis = {line.id: basis_of(self._scene, line, self._cast) for line in self._part.lines}
        lines = [_freed(line, *self.restore[line.id]) if line.id in self.restore else line for line in lines]
        bound_lines = to_source(lines, self._part.clips, self._fps)
        loose_lines = ((line, own) for line, own in zip(lines, bound_lines, strict=True) if own.id not in basis)
        whose = [(most_heard(line.start, line.end, self._voices), own) for line, own in loose_lines]
        fresh = {line.id: replace(line, basis=basis[line.id]) for line in bound_lines if line.id in basis}
        gone = [(line, bound(word, self._part.clips, self._fps)) for line, word in lost]
        self._taken |= fresh.keys()
        for character, (stave, own) in self._staves.items():
            ids = {line.id for line in own}
            mine = {number: line for number, line in fresh.items() if number in ids}
            put = functools.partial(
                self._put,
                own=own,
                fresh=mine,
                gone=[(line, word) for line, word in gone if line in ids],
                before=self._before[character],
                loose_lines=[line for who, line in whose if not self._voices or who == character],
            )
            actions.merge_reading(self._person, stave, put, self._batch)

    def _put(
        self,
        now: Reading | None,
        own: Sequence[ScriptLine],
        fresh: dict[int, Line],
        gone: Sequence[tuple[int, Word]],
        before: Mapping[int, Line],
        loose_lines: Sequence[Line],
    ) -> Reading:
        """A stave's reading with fresh lines in it; what a person pinned and has no place any more is in its lost."""
        kept = {line.id: line for line in now.lines} if now else {}
        corrected = {number for number in fresh if number in before and kept.get(number) != before[number]}
        self.notes += [f"“{fresh[n].text[:30]}” was corrected meanwhile and stays as it is." for n in corrected]
        usable = {number: line for number, line in fresh.items() if number not in corrected}
        replaced = [before[number] for number in usable if number in before]
        written = {line.id for line in script_of(self._scene).value.lines}
        found = [(kept | usable)[line.id] for line in own if line.id in usable or line.id in kept]
        lines, by_hand = self._beside_loose(now, [*found, *loose_lines])
        removed = [line for line in (now.lines if now else ()) if line.id not in written and line not in by_hand]
        lost = [
            *(now.lost if now else ()),
            *((line, word) for line, word in gone if line not in corrected),
            *self._hidden(replaced),
            *((line.id, word) for line in removed for word in line.words if word.pinned),
        ]
        language, recording = self._scene.production.language, self._recording
        return Reading(recording.seconds, recording.rate, language, loose.among(lines, by_hand), (), tuple(lost))

    def _beside_loose(self, now: Reading | None, lines: Sequence[Line]) -> tuple[Sequence[Line], list[Line]]:
        """Lines, and the loose ones set by hand that stay. What a person wrote or set goes before what was heard."""
        by_hand = loose.set_by_hand(now)
        if not self._heard:
            return lines, [line for line in by_hand if not loose.over(line, lines)]
        self.notes += [
            f"“{line.text[:30]}” was corrected meanwhile and stays as it is."
            for line in by_hand
            if loose.over(line, lines)
        ]
        return [line for line in lines if not loose.over(line, by_hand)], by_hand

    def _hidden(self, lines: Sequence[Line]) -> list[tuple[int, Word]]:
        """Pinned words of lines whose sound is cut away now."""
        shown = to_scene(lines, self._part.clips, self._frames, self._fps)
        whole = {word.at: len(word.sounds) for line in shown for word in line.words}
        return [
            (line.id, word)
            for i, line in enumerate(lines)
            for j, word in enumerate(line.words)
            if word.pinned and whole.get((i, j)) != len(word.sounds)
        ]


def basis_of(scene: Scene, line: ScriptLine, cast: list[Character]) -> str:
    """Return what a line is read from, in a few letters."""
    said = sorted(line.said.items())
    whole = repr((line.text, language_of(scene, line, cast), line.character, said))
    return hashlib.sha256(whole.encode()).hexdigest()[:16]


def _freed(line: Line, before: Line, free: Collection[tuple[int, int]]) -> Line:
    """A line that was read again with all words held but some: the others are again just what they were."""
    if len(line.words) != len(before.words):
        return line
    own = (word if old.at in free else old for word, old in zip(line.words, before.words, strict=True))
    return replace(line, words=tuple(own))


def _by_character(
    scene: Scene, part: SoundToRead, voices: Mapping[int, Sequence[tuple[float, float]]]
) -> dict[int, list[ScriptLine]]:
    """Whose stave each line of a part belongs to; who is heard there and says nothing has none."""
    if part.character is not None:
        return {part.character: list(part.lines)}
    value = arrangement_of(scene).value
    if not part.lines:
        marked = marks.speaking(arrangement_of(scene).the_marks) or voices
        return {who: [] for who in marked if not own_clips(value, who)}
    spoken: dict[int, list[ScriptLine]] = {
        pk: [] for pk in scene.staves.values_list("character_id", flat=True) if not own_clips(value, pk)
    }
    for line in part.lines:
        if line.character is not None:
            spoken.setdefault(line.character, []).append(line)
    return spoken
