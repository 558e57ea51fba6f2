"""Readings taken out of a stave, and brought into it, in open formats."""

import functools
from dataclasses import dataclass, replace
from types import ModuleType

from django.db import transaction

from tinfork.core.errors import ReadingError
from tinfork.core.formats import ctm, exchange_csv, exchange_json, exchange_vtt
from tinfork.core.naming import some_of
from tinfork.core.script.lines import Cue
from tinfork.core.speech import exchange
from tinfork.core.speech.anchors import to_source
from tinfork.core.speech.reading import Line, Reading
from tinfork.web.edits import actions as edits
from tinfork.web.productions.permissions import Person
from tinfork.web.script.actions import add_cues, script_of
from tinfork.web.script.languages import language_of
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import placed_now
from tinfork.web.staves.planning import scene_reading

from .correcting import first_pronunciation
from .merging import basis_of

_MOST_QUOTED = 6


@dataclass(frozen=True)
class Format:
    """name: as people know it; ending: of its files; module: write, parse and LOSES, what it cannot hold."""

    name: str
    ending: str
    content_type: str
    module: ModuleType

    @property
    def loses(self) -> str:
        """What of a reading the format cannot hold, or ""."""
        return str(self.module.LOSES)


FORMATS = {
    "json": Format("JSON", "json", "application/json", exchange_json),
    "vtt": Format("WebVTT", "vtt", "text/vtt", exchange_vtt),
    "csv": Format("CSV", "csv", "text/csv", exchange_csv),
    "ctm": Format("CTM", "ctm", "text/plain", ctm),
}


def taken_out(stave: Stave, code: str) -> str:
    """Return the stave's reading where it lies in the scene now. ReadingError when there is none."""
    reading = scene_reading(stave)
    if reading is None:
        raise ReadingError("There is no reading yet; read the sound first.")
    return str(FORMATS[code].module.write(reading.lines))


def parsed(text: str) -> tuple[list[Line], list[str]]:
    """Return lines of a file in whichever of the formats it is."""
    start = text.lstrip("\ufeff \r\n\t")
    if start.startswith("{"):
        return exchange_json.parse(text)
    if "-->" in text:
        return exchange_vtt.parse(text)
    if start.startswith("line,"):
        return exchange_csv.parse(text)
    return ctm.parse(text)


def bring_in(person: Person, stave: Stave, version: int, text: str) -> tuple[Stave, list[str]]:
    """Put a reading from elsewhere in the place of a stave's own, as one undoable action; sentences for the user.

    Where the character has no line yet, the script gets those that were brought.
    """
    with transaction.atomic(), edits.one_step():
        return _bring_in(person, stave, version, text)


def _bring_in(person: Person, stave: Stave, version: int, text: str) -> tuple[Stave, list[str]]:
    stave = edits.locked(person, stave, version)
    brought, notes = parsed(text)
    if not brought:
        raise ReadingError("No line of this file could be kept: " + " ".join(notes[:3]))
    written = _script_of(stave)
    if not written:
        cues = [Cue(line.text, "", line.start, line.end) for line in brought]
        add_cues(person, script_of(stave.scene), cues, stave.character_id)
        written = _script_of(stave)
    lines, strange = exchange.fitted(
        brought, [line for line, _ in written], functools.partial(first_pronunciation, stave)
    )
    if not lines:
        raise ReadingError("None of this file's words stands in the lines of this character; nothing was changed.")
    if strange:
        shown = some_of([f"“{word}”" for word in strange], _MOST_QUOTED)
        notes.append(f"Not in the script, and left out: {shown}.")
    basis = {line.id: own for line, own in written}
    placed = placed_now(stave)
    lines = to_source([replace(line, basis=basis[line.id]) for line in lines], placed.clips, placed.fps)
    about = stave.about or {"seconds": max(line.end for line in lines), "rate": 0}
    language = stave.scene.production.language
    reading = Reading(about["seconds"], about["rate"], language, lines, (), stave.lost_words)
    return edits.change(person, stave, "bring in a reading", stave.parts_of(reading)), notes


def _script_of(stave: Stave) -> list[tuple[exchange.Written, str]]:
    """The character's lines, each with what it is read from."""
    scene = stave.scene
    cast = list(scene.production.characters.all())
    return [
        (exchange.Written(line.id, line.text, language_of(scene, line, cast)), basis_of(scene, line, cast))
        for line in script_of(scene).value.lines
        if line.character == stave.character_id
    ]
