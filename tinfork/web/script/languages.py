"""Which language a line is spoken in."""

from tinfork.core.script.lines import ScriptLine
from tinfork.web.productions.models import Character, Scene


def language_of(scene: Scene, line: ScriptLine, cast: list[Character]) -> str:
    """Return a line's own language, else its character's, else the production's."""
    character = next((c for c in cast if c.pk == line.character), None)
    return line.language or (character.language if character else "") or scene.production.language
