"""What the Script view shows of each line: its words, how sure their pronunciations are, where it was read."""

from dataclasses import dataclass
from typing import Any

from tinfork.core.formats.script_text import spoken_part
from tinfork.core.script.casting import cast_lines
from tinfork.core.script.lines import Cue, ScriptLine, pauses
from tinfork.core.speech import pronounce, words
from tinfork.core.speech.reading import Line
from tinfork.web.lexicon.models import lexicon_of
from tinfork.web.productions.models import Character, Scene
from tinfork.web.sound.arranging import arrangement_of

from .models import Script


@dataclass(frozen=True)
class WordShown:
    """number: its place among the line's spoken words; state: "", "guessed", "unknown", "lexicon" or "here"."""

    number: int
    text: str
    state: str


def rows(document: Script) -> dict[str, Any]:
    """The lines as the template shows them, and what is amiss with the whole."""
    scene = document.scene
    cast = list(scene.production.characters.all())
    value = document.value
    arrangement = arrangement_of(scene).value
    casting = cast_lines(arrangement, value)
    read = _read_lines(scene)
    shown = _words(scene, value.lines, cast)
    homeless = {line.id for line in casting.homeless if spoken_part(line.text).strip()}
    fps = float(scene.fps)
    return {
        "document": document,
        "lines": [
            {
                "line": line,
                "number": number,
                "character": next((c for c in cast if c.pk == line.character), None),
                "language": language_of(scene, line, cast),
                "words": shown[line.id],
                "homeless": line.id in homeless,
                "read": _when(read.get(line.id), scene, fps),
                "hint": line.start is not None and line.id not in read,
                "pause": _pause(line, read.get(line.id)),
            }
            for number, line in enumerate(value.lines, 1)
        ],
        "cast": [{"character": c, "key": n if n <= 9 else ""} for n, c in enumerate(cast, 1)],
        "homeless": len(homeless),
        "has_sound": any(track.is_read and track.clips for track in arrangement.tracks),
        "unsettled": sum(word.state in ("guessed", "unknown") for own in shown.values() for word in own),
    }


def language_of(scene: Scene, line: ScriptLine, cast: list[Character]) -> str:
    """The language a line is spoken in: its own, else its character's, else the production's."""
    character = next((c for c in cast if c.pk == line.character), None)
    return line.language or (character.language if character else "") or scene.production.language


def cues(document: Script) -> list[Cue]:
    """The script as files hold it: times from the reading, else as they were brought in."""
    scene = document.scene
    names = {c.pk: c.name for c in scene.production.characters.all()}
    read = _read_lines(scene)
    found = []
    for line in document.value.lines:
        own = read.get(line.id)
        start, end = (own.start, own.end) if own else (line.start, line.end)
        found.append(Cue(line.text, names.get(line.character or 0, ""), start, end))
    return found


def _read_lines(scene: Scene) -> dict[int, Line]:
    from tinfork.web.reading.planning import scene_reading

    found: dict[int, Line] = {}
    for stave in scene.staves.all():
        reading = scene_reading(stave)
        for line in reading.lines if reading else ():
            found.setdefault(line.id, line)
    return found


def _when(line: Line | None, scene: Scene, fps: float) -> dict[str, Any] | None:
    if line is None:
        return None
    sure = sum(word.confidence for word in line.words) / len(line.words)
    return {"frame": int(line.start * fps) + scene.start_frame, "sure": round(sure * 100)}


def _pause(line: ScriptLine, read: Line | None) -> dict[str, Any] | None:
    """The longest pause inside a line that was read word for word, as a place to split it."""
    written = line.text.split()
    if read is None or len(read.words) != len(written):
        return None
    found = pauses([(word.start, word.end) for word in read.words])
    if not found:
        return None
    number, seconds = max(found, key=lambda pause: pause[1])
    return {"word": number, "text": written[number], "seconds": seconds}


def _words(scene: Scene, lines: tuple[ScriptLine, ...], cast: list[Character]) -> dict[int, list[WordShown]]:
    tokens = [(line, token) for line in lines for token in words.tokens(line.text, language_of(scene, line, cast))]
    lexicon = lexicon_of(scene.production, [token for _, token in tokens])
    said = pronounce.pronounce([token for _, token in tokens], lexicon)
    shown: dict[int, list[WordShown]] = {line.id: [] for line in lines}
    for (line, token), spoken in zip(tokens, said, strict=True):
        number = len(shown[line.id])
        decided = all((w.lower(), token.language) in lexicon or (w.lower(), "") in lexicon for w in token.spoken)
        state = "lexicon" if decided else "" if spoken and not spoken.guessed else "guessed" if spoken else "unknown"
        if token.language == language_of(scene, line, cast) and not words.is_english(token.language):
            # A rule-based language has no dictionary to be missing from.
            state = state if state in ("lexicon", "unknown") else ""
        shown[line.id].append(WordShown(number, token.text, "here" if number in line.said else state))
    return shown
