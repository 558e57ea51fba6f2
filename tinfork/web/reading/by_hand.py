"""Lines of the script put where they are said by hand: what a scene that was never read, or cannot be, begins with."""

from dataclasses import replace
from typing import Any

from django.db import transaction

from tinfork.core.errors import ReadingError
from tinfork.core.plain import plain
from tinfork.core.script.casting import has_track
from tinfork.core.script.lines import Cue, ScriptLine
from tinfork.core.sound.anchors import SCENE
from tinfork.core.speech import pronounce, words
from tinfork.core.speech.anchors import to_source
from tinfork.core.speech.by_hand import Said, line_by_hand, natural_seconds
from tinfork.core.speech.reading import Line, moved_word
from tinfork.core.timebase import frame_at
from tinfork.web.edits import actions as edits
from tinfork.web.lexicon.models import lexicon_of
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person, may
from tinfork.web.script.actions import add_cues, script_of
from tinfork.web.script.languages import language_of
from tinfork.web.sound.models import Arrangement
from tinfork.web.staves.actions import stave_for
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import Placed, placed_now

from .merging import basis_of


def staves_to_show(person: Person, scene: Scene, arrangement: Arrangement) -> list[Placed]:
    """The scene's staves of those who are in it; made for those who have none yet, when the person may edit.

    Who has a track of their own is in it, and listens where nothing lies on it. Anybody else is heard when they have
    lines in the script or were marked as speaking; where nobody does, everybody in the cast may be.
    """
    known = {s.character_id: s for s in scene.staves.select_related("character", "scene__production")}
    if may(person, scene.production, "edit"):
        for character in _who_is_heard(scene, arrangement):
            if not known.get(character.pk) or not known[character.pk].cells:
                known[character.pk] = stave_for(person, scene, character)
    placed = (Placed(stave, arrangement) for stave in known.values() if stave.cells or stave.is_read)
    there = (one for one in placed if one.clips or has_track(arrangement.value, one.stave.character_id))
    return sorted(there, key=lambda one: one.stave.character_id)


def _who_is_heard(scene: Scene, arrangement: Arrangement) -> list[Character]:
    """The characters that are in a scene, or may be heard in its sounds."""
    value, cast = arrangement.value, list(scene.production.characters.all())
    own = [who for who in cast if has_track(value, who.pk)]
    if not any(track.is_read and track.clips for track in value.tracks):
        return []
    if not any(track.is_read and track.character is None and track.clips for track in value.tracks):
        return own
    named = {line.character for line in script_of(scene).value.lines}
    named |= {mark.character for mark in arrangement.the_marks.marks}
    return [who for who in cast if who in own or who.pk in named] or cast


def to_place(stave: Stave) -> list[dict[str, object]]:
    """The lines of the script that may be the stave's character's, and are not in its reading."""
    placed = set(stave.lines.values_list("line", flat=True))
    lines = script_of(stave.scene).value.lines
    own = [line for line in lines if line.character in (stave.character_id, None) and line.id not in placed]
    return [{"id": line.id, "text": line.text} for line in own if words.spoken_part(line.text).strip()]


@transaction.atomic
def write_line(
    person: Person,
    stave: Stave,
    version: int,
    text: str,
    start: float,
    end: float | None = None,
    line: int | None = None,
) -> Stave:
    """Put a line between two times of the scene, where nothing is said yet: a line of the script, or new words, which
    then are in the script too. Without an end it lasts as long as it takes to say it."""
    stave = edits.locked(person, stave, version)
    placed = placed_now(stave)
    with edits.one_step():
        written = _new(person, stave, Cue(text, "", start, end)) if line is None else _written(stave, line)
        said = _said(stave, written)
        until = min(start + natural_seconds(said), placed.frames / placed.fps) if end is None else end
        basis = basis_of(stave.scene, written, list(stave.scene.production.characters.all()))
        fresh = line_by_hand(written.text, said, start, until, written.id, basis)
        _check_free(placed, fresh)
        return edits.change(person, stave, "write a line", _parts(placed, fresh))


def words_again(person: Person, placed: Placed, frames: range, by: float) -> dict[str, Any]:
    """What to decide so that the words said on some frames are said again so many seconds later, as a line of their
    own, which then is in the script too; nothing where none is said there. ReadingError where something is said
    already."""
    shown = placed.shown(placed.numbers_in(frames))
    heard = [word for _, line in shown for word in line.words if word.said]
    found = [word for word in heard if frame_at((word.start + word.end) / 2, placed.rate) in frames]
    if not found:
        return {}
    later = (replace(moved_word(word, by), source_id=SCENE, extra=(), at=(0, 0)) for word in found)
    again = tuple(replace(word, pinned=tuple(range(len(word.edges))), decided=True) for word in later)
    start, end = again[0].start, again[-1].end
    _check_free(placed, Line("", start, end, again))
    written = _new(person, placed.stave, Cue(" ".join(word.text for word in again), "", start, end))
    basis = basis_of(placed.stave.scene, written, list(placed.stave.scene.production.characters.all()))
    return _parts(placed, Line(written.text, start, end, again, written.id, basis))


def _new(person: Person, stave: Stave, cue: Cue) -> ScriptLine:
    """A line more in the script."""
    if not words.spoken_part(cue.text).strip():
        raise ReadingError("There is no word to be said in this; give the words.")
    return add_cues(person, script_of(stave.scene), [cue], stave.character_id).value.lines[-1]


def _written(stave: Stave, number: int) -> ScriptLine:
    wanted = {line["id"] for line in to_place(stave)}
    if number not in wanted:
        raise ReadingError("This line is no longer there to be placed; reload the page.")
    return script_of(stave.scene).value.line(number)


def _said(stave: Stave, line: ScriptLine) -> list[Said]:
    """How the words of a line are said."""
    production = stave.scene.production
    tokens = words.tokens(line.text, language_of(stave.scene, line, list(production.characters.all())))
    ways = pronounce.pronounce(tokens, lexicon_of(production, tokens))
    silent = [token.text for token, way in zip(tokens, ways, strict=True) if not way]
    if silent:
        raise ReadingError(f"Nobody can say “{silent[0]}”; give its sounds in the lexicon, then put the line here.")
    return [(token.text, way.variants[0]) for token, way in zip(tokens, ways, strict=True) if way]


def _check_free(placed: Placed, line: Line) -> None:
    """ReadingError where something is said already, or the scene is over."""
    if line.start < 0 or line.end > placed.frames / placed.fps + 1e-6:
        raise ReadingError("The line does not end before the scene does; begin earlier, or make the scene longer.")
    around = range(int(line.start * placed.fps) - 1, int(line.end * placed.fps) + 2)
    for _, other in placed.shown(placed.numbers_in(around)):
        for word in other.words:
            if word.said and word.start < line.end - 1e-6 and word.end > line.start + 1e-6:
                raise ReadingError(f"“{word.text}” is said there already; take a stretch where nothing is said.")


def _parts(placed: Placed, line: Line) -> dict[str, Any]:
    """What to decide so that a line is in the stave's reading, in its place."""
    stave = placed.stave
    number = max(stave.order, default=0) + 1
    before = set(placed.numbers_in(range(int(line.start * placed.fps) + 1)))
    place = next((at + 1 for at in reversed(range(len(stave.order))) if stave.order[at] in before), 0)
    order = [*stave.order[:place], number, *stave.order[place:]]
    production = stave.scene.production
    about = stave.about or {
        "seconds": placed.frames / placed.fps,
        "rate": 0,
        "language": stave.character.language or production.language,
    }
    (kept,) = to_source([line], placed.clips, placed.fps)
    return {f"line {number}": plain(kept), "order": order, "about": about}
