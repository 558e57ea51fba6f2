"""What the Script view shows of each line: its words, how sure their pronunciations are, where it was read."""

from collections.abc import Collection
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from tinfork.core.script import lines
from tinfork.core.script.casting import cast_lines
from tinfork.core.script.lines import Cue, ScriptLine
from tinfork.core.speech import pronounce, words
from tinfork.core.speech.reading import Line
from tinfork.core.speech.words import spoken_part
from tinfork.core.timebase import frame_at
from tinfork.web.lexicon.models import lexicon_of
from tinfork.web.productions.models import Character, Scene
from tinfork.web.script.actions import in_scene
from tinfork.web.script.languages import language_of
from tinfork.web.script.models import Script
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement
from tinfork.web.staves.heard import Heard, heard_lines
from tinfork.web.staves.planning import scene_reading


@dataclass(frozen=True)
class WordShown:
    """state: "", "guessed", "unknown", "lexicon" or "here"."""

    text: str
    state: str


@dataclass(frozen=True)
class Stand:
    """A script and what it is read in, at one moment. without_sound: the ids of lines that cannot be read."""

    document: Script
    script: lines.Script
    arrangement: Arrangement
    without_sound: frozenset[int]

    @classmethod
    def of(
        cls, document: Script, script: lines.Script | None = None, arrangement: Arrangement | None = None
    ) -> "Stand":
        """How a script stands now, or stood with other lines; in the arrangement there is, or one known already."""
        script, arrangement = script or document.value, arrangement or arrangement_of(document.scene)
        silent = cast_lines(arrangement.value, script).without_sound
        ids = frozenset(line.id for line in silent if spoken_part(line.text).strip())
        return cls(document, script, arrangement, ids)

    @cached_property
    def cast(self) -> list[Character]:
        """Who may speak."""
        return list(self.document.scene.production.characters.all())

    @property
    def order(self) -> list[int]:
        """The ids of its lines."""
        return [line.id for line in self.script.lines]

    def changed_since(self, before: "Stand") -> list[int]:
        """The ids of lines that are new, or look different."""
        then = {line.id: (line, line.id in before.without_sound) for line in before.script.lines}
        return [line.id for line in self.script.lines if then.get(line.id) != (line, line.id in self.without_sound)]


def head(stand: Stand) -> dict[str, Any]:
    """What is amiss with the whole, and who may be named."""
    cast = enumerate(stand.cast, 1)
    return {
        "document": stand.document,
        "cast": [{"character": character, "key": n if n <= 9 else ""} for n, character in cast],
        "without_sound": len(stand.without_sound),
        "has_lines": bool(stand.script.lines),
        "has_sound": any(track.is_read and track.clips for track in stand.arrangement.value.tracks),
    }


def rows(stand: Stand, only: Collection[int] | None = None) -> list[dict[str, Any]]:
    """The lines as the template shows them, or only those of some ids."""
    scene, cast = stand.document.scene, stand.cast
    chosen = [line for line in stand.script.lines if only is None or line.id in only]
    if not chosen:
        return []
    heard = heard_lines(scene, stand.arrangement, only)
    shown = _words(scene, chosen, cast)
    names = {character.pk: character for character in cast}
    return [
        {
            "line": line,
            "character": names.get(line.character or 0),
            "language": language_of(scene, line, cast),
            "words": shown[line.id],
            "without_sound": line.id in stand.without_sound,
            "read": _when(heard.get(line.id), scene),
            "hint": line.start is not None and line.id not in heard,
            "pause": _pause(line, heard.get(line.id)),
        }
        for line in chosen
    ]


def cues(document: Script) -> list[Cue]:
    """The script as files hold it: times from the reading, else as they were brought in."""
    scene = document.scene
    names = {c.pk: c.name for c in scene.production.characters.all()}
    read: dict[int, Line] = {}
    for stave in scene.staves.all():
        reading = scene_reading(stave)
        for line in reading.lines if reading else ():
            read.setdefault(line.id, line)
    found = []
    for written in in_scene(scene).lines:
        own = read.get(written.id)
        start, end = (own.start, own.end) if own else (written.start, written.end)
        found.append(Cue(written.text, names.get(written.character or 0, ""), start, end))
    return found


def _when(heard: Heard | None, scene: Scene) -> dict[str, Any] | None:
    if heard is None:
        return None
    return {"frame": frame_at(heard.start, scene.fps) + scene.start_frame, "sure": round(heard.sure * 100)}


def _pause(line: ScriptLine, heard: Heard | None) -> dict[str, Any] | None:
    """The longest pause inside a line that was read word for word, as a place to split it."""
    written = line.text.split()
    if heard is None or heard.pause is None or heard.words != len(written):
        return None
    number, seconds = heard.pause
    return {"word": number, "text": written[number], "seconds": seconds}


def _words(scene: Scene, chosen: list[ScriptLine], cast: list[Character]) -> dict[int, list[WordShown]]:
    tokens = [(line, token) for line in chosen for token in words.tokens(line.text, language_of(scene, line, cast))]
    lexicon = lexicon_of(scene.production, [token for _, token in tokens])
    said = pronounce.pronounce([token for _, token in tokens], lexicon)
    shown: dict[int, list[WordShown]] = {line.id: [] for line in chosen}
    for (line, token), spoken in zip(tokens, said, strict=True):
        decided = all((w.lower(), token.language) in lexicon or (w.lower(), "") in lexicon for w in token.spoken)
        state = "lexicon" if decided else "" if spoken and not spoken.guessed else "guessed" if spoken else "unknown"
        if token.language == language_of(scene, line, cast) and not words.is_english(token.language):
            # A rule-based language has no dictionary to be missing from.
            state = state if state in ("lexicon", "unknown") else ""
        shown[line.id].append(WordShown(token.text, "here" if len(shown[line.id]) in line.said else state))
    return shown
