"""A scene's lines, one for each phrase, each with its speaker and language. Every change returns a new script."""

import itertools
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from ..errors import ScriptError
from ..limits import MAX_LINE_CHARACTERS, MAX_SCRIPT_CHARACTERS, MAX_SCRIPT_LINES
from ..sound.anchors import SCENE, bound_span, placed_span
from ..sound.arrangement import Clip
from ..speech.words import tokens


@dataclass(frozen=True)
class ScriptLine:
    """A line of a script. character: who speaks, None when nobody was named; language: a code, or "" for the
    character's own; start and end: about when, in seconds of the sound of this source_id, or of the scene where that
    is 0; said: by word number, its pronunciation here in IPA; heard: its words were recognised and nobody has looked
    at them yet; heard_in: in this language, or "" where nobody knows."""

    id: int
    text: str
    character: int | None = None
    language: str = ""
    start: float | None = None
    end: float | None = None
    said: Mapping[int, str] = field(default_factory=dict)
    heard: bool = False
    source_id: int = SCENE
    heard_in: str = ""


@dataclass(frozen=True)
class Script:
    """Lines in the order they are spoken; next: the first line number not yet given away."""

    lines: tuple[ScriptLine, ...] = ()
    next: int = 1

    def line(self, number: int) -> ScriptLine:
        """ScriptError when there is none of this number."""
        found = next((line for line in self.lines if line.id == number), None)
        if found is None:
            raise ScriptError("This line is gone; reload the page.")
        return found


@dataclass(frozen=True)
class Cue:
    """A line as a file gives it. speaker: a name or ""; start and end in seconds, or None."""

    text: str
    speaker: str = ""
    start: float | None = None
    end: float | None = None

    @property
    def named(self) -> str:
        """The words with the speaker's name before them, if there is one."""
        return f"{self.speaker}: {self.text}" if self.speaker else self.text


def clean(text: str) -> str:
    """Return a line's text on one line, without control characters. ScriptError when it is too long."""
    line = " ".join("".join(c for c in text if c.isprintable() or c.isspace() or c in "\u200c\u200d").split())
    if len(line) > MAX_LINE_CHARACTERS:
        raise ScriptError(f"A line has up to {MAX_LINE_CHARACTERS:,} characters; this one has {len(line):,}. Split it.")
    return line


def add(script: Script, cues: Iterable[Cue], speakers: Mapping[str, int]) -> Script:
    """With lines added at the end. speakers: who goes by which name, in lower case."""
    new, number = [], script.next
    for cue in cues:
        text = clean(cue.text)
        if text:
            speaker = speakers.get(cue.speaker.strip().lower())
            new.append(ScriptLine(number, text, speaker, "", cue.start, cue.end))
            number += 1
    return checked(Script((*script.lines, *new), number))


def add_heard(script: Script, heard: Iterable[ScriptLine]) -> Script:
    """With lines that were recognised added at the end; their numbers are given anew."""
    new = [replace(line, id=script.next + n, heard=True) for n, line in enumerate(heard)]
    return checked(Script((*script.lines, *new), script.next + len(new)))


def hear_again(script: Script, heard: Mapping[int, tuple[str, str]]) -> Script:
    """With other words recognised on lines, by their numbers, each with the language; lines that somebody has looked
    at, and lines that are gone, stay so."""

    def again(line: ScriptLine) -> ScriptLine:
        text, language = heard[line.id]
        return replace(line, text=clean(text), said={}, heard_in=language)

    new = (again(line) if line.heard and line.id in heard else line for line in script.lines)
    return checked(replace(script, lines=tuple(new)))


def set_time(script: Script, number: int, start: float, end: float, source_id: int) -> Script:
    """With about when a line is said, in seconds of a sound."""
    script.line(number)
    return _each(script, number, lambda old: replace(old, start=start, end=end, source_id=source_id))


def write(script: Script, number: int, text: str) -> Script:
    """With a line's words changed; pronunciations set in place stay with the words that stay. Empty takes it away."""
    line = script.line(number)
    text = clean(text)
    if not text:
        return remove(script, number)
    kept = said_kept(line, text)
    return checked(_each(script, number, lambda old: replace(old, text=text, said=kept, heard=False)))


def assign(script: Script, number: int, character: int | None) -> Script:
    """With another speaker for a line."""
    script.line(number)
    return _each(script, number, lambda line: replace(line, character=character))


def set_language(script: Script, number: int, language: str) -> Script:
    """With another language for a line; "" is its character's own."""
    script.line(number)
    return _each(script, number, lambda line: replace(line, language=language))


def say(script: Script, number: int, word: int, ipa: str) -> Script:
    """With one word of a line said as given in IPA, here only; "" takes that back."""
    line = script.line(number)
    said = {**line.said, word: ipa} if ipa else {k: v for k, v in line.said.items() if k != word}
    return _each(script, number, lambda old: replace(old, said=said))


def split(script: Script, number: int, word: int) -> Script:
    """With a line cut in two before the word of this number, counted over written words from 0."""
    line = script.line(number)
    written = line.text.split()
    if not 0 < word < len(written):
        raise ScriptError("A line is split between two of its words.")
    head, tail = " ".join(written[:word]), " ".join(written[word:])
    first = replace(line, text=head, said={}, end=None)
    rest = replace(line, id=script.next, text=tail, said={}, start=None)
    at = _row(script, number)
    return checked(Script((*script.lines[:at], first, rest, *script.lines[at + 1 :]), script.next + 1))


def join(script: Script, number: int) -> Script:
    """With a line and the next made one."""
    at = _row(script, number)
    if at + 1 >= len(script.lines):
        raise ScriptError("There is no line after this one to join.")
    line, after = script.lines[at], script.lines[at + 1]
    end = after.end if after.source_id == line.source_id else None
    joined = replace(line, text=clean(f"{line.text} {after.text}"), end=end)
    return replace(script, lines=(*script.lines[:at], joined, *script.lines[at + 2 :]))


def move(script: Script, number: int, by: int) -> Script:
    """With a line moved up (negative) or down, as far as there is room."""
    at = _row(script, number)
    to = max(0, min(len(script.lines) - 1, at + by))
    left = [line for line in script.lines if line.id != number]
    return replace(script, lines=(*left[:to], script.lines[at], *left[to:]))


def remove(script: Script, number: int) -> Script:
    """Without a line."""
    at = _row(script, number)
    return replace(script, lines=(*script.lines[:at], *script.lines[at + 1 :]))


def _row(script: Script, number: int) -> int:
    return script.lines.index(script.line(number))


def _each(script: Script, number: int, change: Callable[[ScriptLine], ScriptLine]) -> Script:
    return replace(script, lines=tuple(change(line) if line.id == number else line for line in script.lines))


def said_kept(line: ScriptLine, text: str) -> dict[int, str]:
    """Return what is said in place, moved to where its words are now; words are the same when they are written the
    same."""
    if not line.said:
        return {}
    old, new = [t.text for t in tokens(line.text, "en")], [t.text for t in tokens(text, "en")]
    kept, begin = {}, 0
    for number, ipa in sorted(line.said.items()):
        if number < len(old) and old[number] in new[begin:]:
            begin = new.index(old[number], begin)
            kept[begin] = ipa
            begin += 1
    return kept


def checked(script: Script) -> Script:
    """Return a script that is as long as one may be. ScriptError where it is longer."""
    total = sum(len(line.text) for line in script.lines)
    if total > MAX_SCRIPT_CHARACTERS or len(script.lines) > MAX_SCRIPT_LINES:
        raise ScriptError(
            f"One scene takes up to {MAX_SCRIPT_LINES:,} lines and {MAX_SCRIPT_CHARACTERS:,} characters; these are "
            f"{len(script.lines):,} lines and {total:,} characters. Split the scene."
        )
    return script


def bound(script: Script, since: int, clips_of: Callable[[ScriptLine], Sequence[Clip]], fps: float) -> Script:
    """With the times of the lines from a number on, which are the scene's, kept in the time of the sounds they lie on.
    clips_of: where a line's speaker is heard."""

    def own(line: ScriptLine) -> ScriptLine:
        if line.id < since or line.source_id != SCENE:
            return line
        start, end, source_id = bound_span(line.start, line.end, clips_of(line), fps)
        return replace(line, start=start, end=end, source_id=source_id)

    return replace(script, lines=tuple(own(line) for line in script.lines))


def in_scene(script: Script, clips: Sequence[Clip], fps: float) -> Script:
    """With the lines' times where their sounds are heard in the scene now; a line whose sound is not has none."""
    lines = []
    for line in script.lines:
        span = placed_span(line.start, line.end, line.source_id, clips, fps) or (None, None)
        lines.append(replace(line, start=span[0], end=span[1], source_id=SCENE))
    return replace(script, lines=tuple(lines))


def pauses(words: Sequence[tuple[float, float]], least: float = 0.6) -> list[tuple[int, float]]:
    """Return where a line that was read has a long pause: (number of the word after it, its seconds)."""
    gaps = (after[0] - before[1] for before, after in itertools.pairwise(words))
    return [(number, gap) for number, gap in enumerate(gaps, 1) if gap >= least]
