"""Which lines of a long script are said in which recording, and where in its scenes these then lie."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from itertools import pairwise

from ..speech.unscripted import HeardLine
from ..speech.words import tokens
from . import cuts
from .lines import Cue

_SHARE = 0.6
"""Of a line so many of its words, in order, must be heard for it to be said there."""

_SHORT = 3
"""A line of fewer words is taken to be said only beside another of its scene."""

_MARGIN = 0.3
"""Seconds that are kept before and after what is cut out of a recording."""


@dataclass(frozen=True)
class ScriptScene:
    """What stands under a heading of a script. name: the heading; cues: its lines."""

    name: str
    cues: tuple[Cue, ...]


@dataclass(frozen=True)
class SaidLine:
    """A line that is said in a recording. line: its number in its scene; start and end in seconds; share: how much of
    it was heard there; sure: how surely."""

    line: int
    start: float
    end: float
    share: float
    sure: float


@dataclass(frozen=True)
class Laid:
    """A part of a recording in a scene: heard from first to last, in its own seconds, from at on, in the scene's; last
    is None where it is heard to its end. lines: which it was laid there for."""

    recording: int
    first: float
    last: float | None
    at: float
    lines: tuple[int, ...] = ()


@dataclass(frozen=True)
class OtherTake:
    """A line that is said in a recording too, and heard from another."""

    recording: int
    said: SaidLine
    chosen: SaidLine


@dataclass(frozen=True)
class LaidScene:
    """What is heard in a scene, and what else could be; missing: the lines that were found nowhere."""

    laid: tuple[Laid, ...] = ()
    takes: tuple[OtherTake, ...] = ()
    missing: tuple[int, ...] = ()


@dataclass(frozen=True)
class HeardRecording:
    """What was heard in a recording. words: as they are said, in lower case, each with its seconds and how sure it is;
    seconds: its length."""

    words: tuple[tuple[str, float, float, float], ...]
    seconds: float = field(default=0.0)


def scenes_of(cues: Sequence[Cue], name: str) -> list[ScriptScene]:
    """Return a script's scenes: what stands under each heading (see cuts.heading; one may stand without brackets where
    nobody says it). One of the name given, where there is no heading; what comes before the first is that one's."""
    found: list[tuple[str, list[Cue]]] = []
    before: list[Cue] = []
    for cue in cues:
        title = "" if cue.speaker else cuts.heading(cue.text) or cuts.heading(f"[{cue.text}]")
        if title:
            found.append((title, before))
            before = []
        else:
            (found[-1][1] if found else before).append(cue)
    rows = found or [(name, before)]
    return [ScriptScene(title, tuple(own)) for title, own in rows if own]


def heard_words(lines: Iterable[HeardLine], seconds: float) -> HeardRecording:
    """Return what was heard as words to be found again."""
    found = []
    for one in lines:
        for token, word in zip(tokens(one.text, one.language), one.line.written, strict=False):
            found += [(said.lower(), word.start, word.end, word.confidence) for said in token.spoken]
    return HeardRecording(tuple(found), seconds)


def said_in(scene: ScriptScene, heard: HeardRecording, language: str) -> list[SaidLine]:
    """Return the lines of a scene that are said in a recording, in the order of the scene."""
    own = [(n, said) for n, cue in enumerate(scene.cues) for said in _spoken(cue.text, language)]
    many = {n: sum(1 for number, _ in own if number == n) for n in range(len(scene.cues))}
    matcher = SequenceMatcher(None, [word for _, word in own], [word[0] for word in heard.words], autojunk=False)
    at: dict[int, list[int]] = {}
    for match in matcher.get_matching_blocks():
        for step in range(match.size):
            at.setdefault(own[match.a + step][0], []).append(match.b + step)
    found = [_said(number, places, many[number], heard) for number, places in sorted(at.items())]
    there = [one for one in found if one is not None]
    whole = {one.line for one in there if many[one.line] >= _SHORT}
    return [one for one in there if one.line in whole or {one.line - 1, one.line + 1} & whole]


def _spoken(text: str, language: str) -> list[str]:
    """The words of a line as they are said, in lower case."""
    return [said.lower() for token in tokens(text, language) for said in token.spoken]


def _said(line: int, places: Sequence[int], many: int, heard: HeardRecording) -> SaidLine | None:
    """A line as it is said where some of its words were heard; None where these are too few, or too far apart."""
    if len(places) < _SHARE * many or places[-1] - places[0] + 1 > 2 * many:
        return None
    words = [heard.words[place] for place in places]
    sure = sum(word[3] for word in words) / len(words)
    return SaidLine(line, words[0][1], words[-1][2], len(places) / many, sure)


def laid_out(
    lines: int, said: Mapping[int, Sequence[SaidLine]], lengths: Mapping[int, float], shared: Collection[int] = ()
) -> LaidScene:
    """Return where recordings lie in a scene of so many lines. said: by recordings what of it is said in each; lengths:
    how long each is, in seconds; shared: those in which something else is said too, of which a part is heard.

    Whoever says most of it is heard; another for what is missing then. What was recorded at the same time lies side by
    side; else lines follow one another as they are written, each cut out of its recording.
    """
    chosen: dict[int, tuple[int, SaidLine]] = {}
    takes = []
    for recording in sorted(said, key=lambda one: -sum(line.share * line.sure for line in said[one])):
        for line in said[recording]:
            if line.line in chosen:
                takes.append(OtherTake(recording, line, chosen[line.line][1]))
            else:
                chosen[line.line] = (recording, line)
    rows = [chosen[number] for number in sorted(chosen)]
    missing = tuple(number for number in range(lines) if number not in chosen)
    if _at_once(rows):
        used = dict.fromkeys(recording for recording, _ in rows)
        first, last = 0.0, None
        if used.keys() & set(shared):
            first, last = max(0.0, rows[0][1].start - _MARGIN), rows[-1][1].end + _MARGIN
        whole = [Laid(one, first, last, 0.0, tuple(n.line for r, n in rows if r == one)) for one in used]
        return LaidScene(tuple(whole), tuple(takes), missing)
    return LaidScene(tuple(_in_turn(rows, lengths)), tuple(takes), missing)


def _at_once(rows: Sequence[tuple[int, SaidLine]]) -> bool:
    """Whether the lines follow one another in time as they are written, whichever recording they are in."""
    return all(one.start < other.start and one.end <= other.start + _MARGIN for (_, one), (_, other) in pairwise(rows))


def _in_turn(rows: Sequence[tuple[int, SaidLine]], lengths: Mapping[int, float]) -> Iterable[Laid]:
    """Runs of lines that follow one another in one recording, one run after the other."""
    runs: list[tuple[int, list[SaidLine]]] = []
    for recording, line in rows:
        if runs and runs[-1][0] == recording and line.start >= runs[-1][1][-1].end - _MARGIN:
            runs[-1][1].append(line)
        else:
            runs.append((recording, [line]))
    at = 0.0
    for recording, own in runs:
        first = max(0.0, own[0].start - _MARGIN)
        last = min(lengths[recording], own[-1].end + _MARGIN)
        yield Laid(recording, first, last, at, tuple(line.line for line in own))
        at += last - first
