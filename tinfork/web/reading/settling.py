"""What becomes of what is said otherwise than it is written: it is shown, taken, or left as it is written."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from django.db import transaction
from django.db.models import F

from tinfork.core.errors import ScriptError, TinForkError
from tinfork.core.script import otherwise as core
from tinfork.core.script.lines import ScriptLine
from tinfork.core.sound.anchors import placed_span
from tinfork.core.sound.arrangement import Arrangement
from tinfork.core.speech.otherwise import AGAIN, ELSEWHERE
from tinfork.core.speech.reading import Word
from tinfork.core.timebase import frame_at
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.queues import WAITED_FOR, enqueue
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.script import actions
from tinfork.web.script.actions import script_of
from tinfork.web.script.languages import language_of
from tinfork.web.script.models import Difference, Script
from tinfork.web.sound.arranging import arrangement_of

from .asking import ask_to_read
from .scene import to_read
from .tasks import compare_script

_CHANGED = "The line was changed since; compare script and recording again."

_BESIDE = 0.4
"""Seconds that are heard before and after what is said otherwise."""


@dataclass(frozen=True)
class ShownTake:
    """One time a line is said. number: from 1; start and end: in seconds of its sound; sure: in percent; clean: in dB;
    used: it is the one the line was read from."""

    number: int
    start: float
    end: float
    sure: int
    clean: int
    used: bool

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.end - self.start


@dataclass(frozen=True)
class Shown:
    """A difference as it is shown. line: as it is written now, in which language; place: its number on the page, from
    1; sound: which sound it is heard in, and from when to when, None where it is not heard now; frame: of the scene;
    line_takes: where the line is said, if it is said again; see with_takes."""

    difference: Difference
    line: ScriptLine
    language: str
    place: int
    sound: tuple[int, float, float] | None
    frame: int | None
    line_takes: tuple[ShownTake, ...] = ()

    @property
    def heard_from(self) -> float:
        """When it begins in its sound, with a little before it."""
        return max(0.0, self.difference.start - _BESIDE)

    @property
    def heard_to(self) -> float:
        """When it ends, with a little after it."""
        return self.difference.end + _BESIDE

    @property
    def pieces(self) -> list[tuple[str, str]]:
        """The line as it is written, and what was said among it, each with "", "del" or "ins"."""
        about = self.difference
        before, gone, rest = core.parted(self.line.text, self.language, about.first, about.last)
        return [(text, kind) for text, kind in ((before, ""), (gone, "del"), (about.heard, "ins"), (rest, "")) if text]

    @property
    def takes(self) -> bool:
        """Whether what was said can take the place of what is written."""
        return self.difference.kind not in (AGAIN, ELSEWHERE)


@transaction.atomic
def ask_to_compare(person: Person, scene: Scene) -> Job:
    """Queue a comparison of a scene's script with its sounds."""
    check(person, scene.production, "edit")
    parts, _ = to_read(scene)
    if not any(part.lines for part in parts):
        raise ScriptError("There is nothing to compare: it takes a sound, and lines that are written for it.")
    return enqueue(person, compare_script, "compare", scene.pk, scene, {}, WAITED_FOR, "a long reading")


def shown(scene: Scene) -> list[Shown]:
    """Return the differences nobody has settled, in the order of the script; not those whose line was changed since."""
    left = list(scene.differences.filter(kept=False))
    if not left:
        return []
    cast, arrangement = list(scene.production.characters.all()), arrangement_of(scene).value
    places = {line.id: (place, line) for place, line in enumerate(script_of(scene).value.lines, 1)}
    found = []
    for one in left:
        place, line = places.get(one.line, (0, None))
        if line is not None and _stands(one, line, language := language_of(scene, line, cast)):
            found.append(_shown(one, line, language, place, scene, arrangement))
    return sorted(found, key=lambda one: (one.place, one.difference.first))


def with_takes(scene: Scene, found: Sequence[Shown]) -> list[Shown]:
    """Return differences with the takes of those lines that are said again."""
    read = _read_at(scene) if any(one.difference.takes for one in found) else {}
    return [replace(one, line_takes=tuple(_line_takes(one.difference, read.get(one.line.id, ())))) for one in found]


def _read_at(scene: Scene) -> dict[int, Sequence[Word]]:
    """The words of each line that is read, in the seconds of its sound; those that are written and said."""
    readings = [stave.reading_value for stave in scene.staves.all()]
    lines = [line for reading in readings if reading for line in reading.lines]
    said = {line.id: [word for word in line.written if word.said] for line in lines}
    return {line: words for line, words in said.items() if words}


def _line_takes(one: Difference, read: Sequence[Word]) -> Iterator[ShownTake]:
    for number, (start, end, sure, clean) in enumerate(one.takes, 1):
        there = bool(read) and read[0].source_id == one.source_id
        used = there and start < (read[0].start + read[-1].end) / 2 < end
        yield ShownTake(number, start, end, round(100 * sure), round(clean), used)


def _stands(one: Difference, line: ScriptLine, language: str) -> bool:
    return core.written(line.text, language, one.first, one.last) == one.written


def _shown(
    one: Difference, line: ScriptLine, language: str, place: int, scene: Scene, arrangement: Arrangement
) -> Shown:
    fps = float(scene.fps)
    now = placed_span(one.start, one.end, one.source_id, arrangement.clips, fps)
    clip = next((clip for clip in arrangement.clips if clip.source_id == one.source_id), None)
    frame = None if now is None or now[0] is None else frame_at(now[0], scene.fps) + scene.start_frame
    return Shown(one, line, language, place, (clip.sound, one.start, one.end) if clip else None, frame)


def said_otherwise(scene: Scene) -> dict[tuple[int, int], tuple[str, str]]:
    """Return by line and word, by their numbers, what is said there instead, and how the line is written, for what is
    not settled; a word before or after which something was put in says so."""
    found: dict[tuple[int, int], tuple[str, str]] = {}
    for one in shown(scene):
        about = one.difference
        if one.takes:
            text = f"said: {about.heard}" if about.first < about.last and about.heard else "not said"
            for number in range(about.first, about.last):
                found[about.line, number] = text, one.line.text
            if about.first == about.last:
                found[about.line, max(0, about.first - 1)] = f"said beside it: {about.heard}", one.line.text
    return found


def _line_of(one: Difference) -> tuple[Script, ScriptLine, str]:
    """The script, the line as it is written now, and its language; ScriptError where it was changed since."""
    document = script_of(one.scene)
    line = document.value.line(one.line)
    language = language_of(one.scene, line, list(one.scene.production.characters.all()))
    if not _stands(one, line, language):
        raise ScriptError(_CHANGED)
    return document, line, language


@transaction.atomic
def take(person: Person, one: Difference) -> None:
    """Let what was said take the place of what is written, and have the line read again. TinForkError where the line
    was changed since, or it is said elsewhere or again."""
    scene = one.scene
    check(person, scene.production, "edit")
    document, line, language = _line_of(one)
    if one.kind in (AGAIN, ELSEWHERE):
        raise ScriptError(_CHANGED)
    text = core.with_said(line.text, language, one.first, one.last, one.heard)
    actions.write(person, document, document.version, line.id, text)
    one.delete()
    _move_others(scene, one, core.count(text, language) - core.count(line.text, language))
    try:
        if text.strip():
            ask_to_read(person, scene, [line.id])
    except TinForkError:
        pass  # It is read when somebody asks for it.


@transaction.atomic
def use_take(person: Person, one: Difference, number: int) -> None:
    """Read a line from another of its takes, by its number from 1; the others stay, to be used instead. TinForkError
    where there is none of that number, the line was changed since, something of it is set by hand, or lines that are
    said before and after it would be said the other way round."""
    scene = one.scene
    check(person, scene.production, "edit")
    document, line, _ = _line_of(one)
    if not 1 <= number <= len(one.takes):
        raise ScriptError(_CHANGED)
    start, end, *_ = one.takes[number - 1]
    _check_take(document, one, start, end)
    actions.set_time(person, document, line.id, start, end, one.source_id)
    ask_to_read(person, scene, [line.id])


def _check_take(document: Script, one: Difference, start: float, end: float) -> None:
    """Refuse a take to which what is set of its line, or the order of the lines, does not let it go: words that a
    person set stay where they are, and lines are looked for in their order."""
    read = _read_at(one.scene)
    if any(word.is_set for word in read.get(one.line, ())):
        raise ScriptError("Words of this line are set by hand in the take that is used; unpin them on the desk first.")
    after = False
    for line in document.value.lines:
        own = read.get(line.id, ())
        if line.id == one.line:
            after = True
        elif own and own[0].source_id == one.source_id and (own[0].start < end if after else own[-1].end > start):
            raise ScriptError(
                f"“{line.text[:30]}” is said between this take and the one that is used, and lines are read in their "
                "order. Use its other take first, or cut the sound."
            )


def _move_others(scene: Scene, taken: Difference, by: int) -> None:
    """Let what else is said otherwise in a line lie on the words it was about."""
    others = scene.differences.filter(line=taken.line, first__gte=taken.last)
    others.update(first=F("first") + by, last=F("last") + by)


def keep(person: Person, one: Difference) -> None:
    """Let what is written stay; it is not told again."""
    check(person, one.scene.production, "edit")
    one.scene.differences.filter(pk=one.pk).update(kept=True)
