"""Lines that were heard in a language they turn out not to be in: heard again in the one that was set."""

from collections.abc import Collection
from dataclasses import replace

from tinfork.core.script.casting import SoundToRead
from tinfork.core.script.lines import ScriptLine
from tinfork.core.sound.recording import Recording
from tinfork.core.speech import recognise
from tinfork.core.speech.espeak import languages
from tinfork.core.speech.unscripted import sentences_in
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.script.actions import hear_again, in_scene, script_of
from tinfork.web.script.languages import language_of

from .hinting import hints_of

_BESIDE = 0.1


def heard_again(
    person: Person,
    scene: Scene,
    part: SoundToRead,
    recording: Recording,
    only: Collection[int],
    batch: int | None = None,
) -> tuple[SoundToRead, list[str]]:
    """Return a part in which the lines that nobody has looked at, and that were heard in another language than theirs
    is now, are heard again in theirs; and sentences about it. only: lines by their ids, or none for all of them."""
    cast = list(scene.production.characters.all())
    there = [line for line in part.lines if not only or line.id in only]
    another = {line.id: code for line in there if (code := _other_language(scene, line, cast))}
    if not another:
        return part, []
    texts, told = _texts(scene, [line for line in there if line.id in another], another, recording, cast)
    if texts:
        hear_again(person, script_of(scene), {line: (text, another[line]) for line, text in texts.items()}, batch)
    now = {line.id: line for line in in_scene(scene).lines}
    return replace(part, lines=tuple(now.get(line.id, line) for line in part.lines)), told


def _other_language(scene: Scene, line: ScriptLine, cast: list[Character]) -> str:
    """The language a line is in now, where it was heard in another; else nothing."""
    code = language_of(scene, line, cast)
    return code if line.heard and line.heard_in and line.heard_in != code else ""


def _texts(
    scene: Scene, lines: list[ScriptLine], another: dict[int, str], recording: Recording, cast: list[Character]
) -> tuple[dict[int, str], list[str]]:
    """What is heard on lines by their ids, and sentences about it."""
    hints = hints_of(scene.production, cast)
    texts: dict[int, str] = {}
    for line in lines:
        if recognise.hears(another[line.id]) and line.start is not None and line.end is not None:
            window = recording.window(max(0.0, line.start - _BESIDE), min(recording.seconds, line.end + _BESIDE))
            texts[line.id] = " ".join(sentences_in(window, another[line.id], hints))
    texts = {line: text for line, text in texts.items() if text}
    names, told = languages(), []
    for code in sorted({another[line] for line in texts}):
        many = sum(another[line] == code for line in texts)
        told.append(f"{many} {'line is' if many == 1 else 'lines are'} heard again as {names.get(code, code)}.")
    for code in sorted({another[line.id] for line in lines if line.id not in texts}):
        told.append(
            f"No words are made out as {names.get(code, code)} where its lines are; they stay as they were heard. "
            "Write what is said."
        )
    return texts, told
