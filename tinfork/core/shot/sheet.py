"""The exposure sheet of a shot: a row for each frame, or every two, with what is said and which drawing is shown."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import ceil

from ..errors import HandoverError
from ..timebase import counted, frame_at, scene_timecode
from .action import begun
from .shot import Role, Shot

STEPS = (1, 2)
COLUMNS = ("timecode", "sound", "words", "ipa", "drawings", "acting", "notes")
"""What can be left away of a sheet, in their order; the frame's number cannot."""


@dataclass(frozen=True)
class Cell:
    """What a character shows on a row: the name of the drawing that begins there, "" for nothing at all; None while
    the one before is held."""

    drawing: str | None


@dataclass(frozen=True)
class SheetRow:
    """A frame of an exposure sheet. frame: counted from 0; number: the scene's own; words: what each character begins
    to say there, in their order; ipa: the sounds that begin there; line: whether a line does; second: whether a whole
    second does; cells: one for each character, in their order; acting: what parts of faces begin to do."""

    frame: int
    number: int
    timecode: str
    words: tuple[str, ...]
    ipa: str
    line: bool
    second: bool
    cells: tuple[Cell, ...]
    note: str
    acting: str = ""


def rows(shot: Shot, notes: Mapping[int, str] = {}, step: int = 1) -> Iterator[SheetRow]:
    """Yield the rows of a shot. notes: by frames counted from 0; step: frames a row, one of STEPS; what begins within a
    row stands in it."""
    if step not in STEPS:
        raise HandoverError("A sheet has a row for every frame, or for every two.")
    words, sounds, lines = _begun(shot, step)
    begins = [_drawings(role, step) for role in shot.roles]
    acted = [begun(role, len(shot.roles) > 1) for role in shot.roles]
    nominal = ceil(shot.rate)
    for at in range(ceil(shot.frames / step)):
        number = at * step + shot.start_frame
        yield SheetRow(
            at * step,
            number,
            scene_timecode(at * step, shot.start_frame, shot.rate),
            tuple(" ".join(own.get(at, ())) for own in words),
            " ".join(sounds.get(at, ())),
            at in lines,
            any(counted(at * step + k, shot.start_frame) % nominal == 0 for k in range(step)),
            tuple(Cell(own.get(at)) for own in begins),
            " / ".join(notes[frame] for frame in range(at * step, at * step + step) if notes.get(frame)),
            ", ".join(one for own in acted for f in range(at * step, at * step + step) for one in own.get(f, ())),
        )


def _begun(shot: Shot, step: int) -> tuple[list[dict[int, list[str]]], dict[int, list[str]], set[int]]:
    """For each row the words that each character begins in it, and the sounds, and the rows in which lines begin."""
    words: list[dict[int, list[str]]] = [{} for _ in shot.roles]
    sounds: dict[int, list[str]] = {}
    lines = set()
    for role, line in shot.lines():
        said = [word for word in line.words if word.said]
        for word in said:
            row = max(0, frame_at(word.start, shot.rate)) // step
            words[shot.roles.index(role)].setdefault(row, []).append(word.text)
            for sound in word.sounds:
                sounds.setdefault(max(0, frame_at(sound.start, shot.rate)) // step, []).append(sound.ipa)
        if said:
            lines.add(max(0, frame_at(said[0].start, shot.rate)) // step)
    return words, sounds, lines


def _drawings(role: Role, step: int) -> dict[int, str]:
    """For each row the drawing that begins in it: of two the one that is seen longer."""
    found: dict[int, tuple[int, str]] = {}
    for e in role.exposures:
        row = e.frame // step
        if row not in found or e.frames > found[row][0]:
            found[row] = (e.frames, e.drawing)
    return {row: drawing for row, (_, drawing) in found.items()}
