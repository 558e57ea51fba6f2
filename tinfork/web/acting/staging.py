"""What acting in a scene goes by: the character's face and lines, and where their sounds lie."""

from collections.abc import Collection
from functools import cached_property
from typing import NamedTuple

from tinfork.core.acting.accents import accent_scores, pitch_rises
from tinfork.core.acting.lanes import Amounts, Lane, PlacedLane, Where, place
from tinfork.core.acting.speech import Elsewhere, Phrase, Said, Speech, marks_after, sides
from tinfork.core.errors import ActingError
from tinfork.core.mouths.face import Face
from tinfork.core.mouths.parts import Part
from tinfork.core.mouths.shapes import shapes_of
from tinfork.core.script.casting import only_listens
from tinfork.core.speech.reading import Line
from tinfork.core.timebase import frame_after, frame_at
from tinfork.web.productions.models import Character
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.melodies import melodies_of
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import face_shown
from tinfork.web.staves.placing import Placed

from .models import Acting

_CLOSED = {"press", "tuck"}


def stage_of(acting: Acting) -> "Stage":
    """Return the stage of acting as it was when this object of it first asked; all that use the object share it."""
    if "_stage" not in vars(acting):
        vars(acting)["_stage"] = Stage(acting)
    found: Stage = vars(acting)["_stage"]
    return found


class LineSpan(NamedTuple):
    """A line of the reading: its number there, the script's line, its first frame and the one after its last; both
    numbers 0 for all that somebody does who says nothing in a scene."""

    number: int
    line: int
    frame: int
    end: int


def _place_of(character: Character) -> tuple[int, int]:
    """Where somebody stands in the cast."""
    return character.place, character.pk


def frames_of_lines(placed: Placed) -> dict[int, tuple[int, int]]:
    """Return of each line that is said its first frame and the one after its last, by its number in the reading."""
    rate, spans = placed.rate, placed.line_spans()
    return {number: (frame_at(start, rate), frame_after(end, rate)) for number, (start, end) in spans.items()}


class Stage:
    """One character's acting, where their sounds lie in the scene now."""

    def __init__(self, acting: Acting) -> None:
        self.acting = acting
        own = Stave.objects.filter(scene=acting.scene, character=acting.character).defer(*Stave.LARGE)
        stave = own.select_related("scene__production", "character").first()
        if stave is None:
            raise ActingError(f"{acting.character} is not heard in this scene; place a sound for them first.")
        stave.scene, stave.character = acting.scene, acting.character
        self.placed = Placed(stave, arrangement_of(acting.scene))
        self.where = Where(self.placed.clips, self.placed.frames)

    @cached_property
    def face(self) -> Face:
        """The face they act with."""
        return face_shown(self.acting.character)

    def part(self, name: str) -> Part:
        """Return a part of the face. ActingError where it has none of the name."""
        found = self.face.part(name)
        if found is None:
            raise ActingError(f"{self.acting.character}'s face has no part “{name}”; reload the page.")
        return found

    def place(self, lane: Lane) -> PlacedLane:
        """Return a lane in the scene."""
        return place(lane, self.where, self.amounts)

    @cached_property
    def amounts(self) -> Amounts:
        """How much of gestures is seen."""
        return self.acting.amounts

    @cached_property
    def lines(self) -> list[LineSpan]:
        """The lines that are said in the scene, in order."""
        ids = dict(self.placed.stave.lines.values_list("number", "line"))
        own = [LineSpan(n, ids[n], *frames) for n, frames in frames_of_lines(self.placed).items() if n in ids]
        said = sorted((one for one in own if one.end > one.frame), key=lambda one: one.frame)
        listens = not said and only_listens(self.placed.arrangement.value, self.acting.character_id)
        return [LineSpan(0, 0, 0, self.where.frames)] if listens else said

    def line(self, line: int) -> LineSpan:
        """Return one of them, by the script's line. ActingError where it is not said here."""
        found = next((one for one in self.lines if one.line == line), None)
        if found is None:
            raise ActingError("This phrase is not said in the scene any more; reload the page.")
        return found

    @cached_property
    def locked(self) -> list[range]:
        """The frames of the phrases that are finished."""
        done = {line for line, own in self.acting.notes.items() if own.locked}
        return [range(one.frame, one.end) for one in self.lines if one.line in done] if done else []

    def speech(self, numbers: list[int]) -> Speech:
        """Return what is said, with the words of some lines, by their places, and of those before each; of the others
        where they begin and end."""
        if self.lines and not self.lines[0].line:
            listens = Phrase(0, "", (Said("", self.where.frames, self.where.frames),))
            return Speech((listens,), (), self.where.frames, self.placed.fps, self._elsewhere())
        numbers = sorted({one for n in numbers for one in (n - 1, n) if one >= 0})
        wanted = {self.lines[n].number for n in numbers}
        shown = self.placed.shown(sorted(wanted, key=self.placed.places.__getitem__))
        words = {self.lines[n].line: [line for _, line in shown if line.id == self.lines[n].line] for n in numbers}
        melodies = melodies_of(self.placed.clips) if numbers else {}
        texts = self._texts(words)
        phrases = []
        for one in self.lines:
            text = texts.get(one.line, "")
            said = [own for line in words.get(one.line, ()) for own in self._said(line, text, melodies)]
            phrases.append(Phrase(one.line, "", tuple(said) or (Said("", one.frame, one.end),)))
        rate = self.placed.rate
        closed = sorted(
            frame_at(s.start, rate)
            for _, line in shown
            for word in line.words
            for s in word.sounds
            if _CLOSED & set(shapes_of(s.ipa))
        )
        return Speech(tuple(phrases), tuple(closed), self.where.frames, self.placed.fps, self._elsewhere())

    def _texts(self, lines: Collection[int]) -> dict[int, str]:
        """Lines as they are written, by their numbers."""
        if not lines:
            return {}
        return {one.id: one.text for one in script_of(self.acting.scene).value.lines if one.id in lines}

    def _elsewhere(self) -> tuple[Elsewhere, ...]:
        """What others say in the scene. They stand in the order of the cast, as everybody does where all are seen."""
        found = []
        others = Stave.objects.filter(scene=self.acting.scene).exclude(character=self.acting.character)
        staves = list(others.defer(*Stave.LARGE).select_related("character"))
        side = sides([_place_of(stave.character) for stave in staves], _place_of(self.acting.character))
        for stave in staves:
            stave.scene = self.acting.scene
            spans = frames_of_lines(Placed(stave, self.placed.arrangement)).values()
            there = side[_place_of(stave.character)]
            found += [Elsewhere(first, end, there) for first, end in spans if end > first]
        return tuple(sorted(found, key=lambda one: one.frame))

    def _said(self, line: Line, text: str, melodies: dict) -> list[Said]:  # type: ignore[type-arg]
        """The words of a line, as it is written, with their accents. Their sounds' melodies are looked at in the
        sounds' own time."""
        rate, fps = self.placed.rate, self.placed.fps
        own, kept = [word for word in line.words if word.said], []
        for word in own:
            clip = next((c for c in self.placed.clips if c.start / fps <= word.start + 1e-6 < c.end / fps), None)
            if clip is None:
                return []
            by = (clip.offset - clip.start) / fps
            kept.append((word.with_edges([edge + by for edge in word.edges]), melodies[clip.source_id]))
        words, heard = [word for word, _ in kept], [melody for _, melody in kept]
        rows = zip(
            own,
            accent_scores(words, heard),
            pitch_rises(words, heard),
            marks_after(text, [w.text for w in own]),
            strict=True,
        )
        return [
            Said(word.text, frame_at(word.start, rate), frame_after(word.end, rate), score, rise, mark)
            for word, score, rise, mark in rows
        ]
