"""What looks wrong in a mouth track, as a viewer would see it: each with its place, its figure and, where there is one,
what cures it."""

import itertools
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from ..limits import MAX_HOLD
from ..mouths.chart import Chart, coverage, distance
from ..mouths.shapes import CLOSURES, SHAPES
from ..speech.phones import is_vowel
from ..speech.reading import Line, Word
from ..timebase import frame_at
from .curves import Curves, Target, led, runs
from .plan import Dials, rest_in
from .stillness import said, seen_runs, stands
from .track import NOTHING, Exposure, rows_shown

MOST_CHANGES = 10
"""So many changes of drawing are read within a second; more are a flutter."""

MOST_OFF = 2
"""From so many frames on a mouth is seen to be late or early."""

_FARTHEST = 6
"""By so many frames, later and earlier, it is tried whether a line's mouth agrees better with its sound."""

_BETTER = 0.08
"""By so much a correlation must be better elsewhere to be told; of less a viewer is not sure."""

_FEWEST_FRAMES = 12
"""A line of fewer says too little of when its mouth opens."""

_UNVOICED = 0.3
"""How much of its loudness a sound that is no vowel opens the mouth."""

_OVERLAP_SECONDS = 0.1
"""Lines that meet for no longer were only cut a little apart."""

_NOTICED = 2
"""In frames: what is wrong for fewer goes by unseen."""

_BESIDE_CLOSURE = 2
"""So many frames beside lips that close the mouth may look like rest."""

_CALM_DETAIL = 0.25
"""The Detail that is tried where there are too many changes."""

Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
Array = NDArray[np.float64]


class Kind(StrEnum):
    """What can be wrong."""

    FLASH = "flash"
    DOUBLE = "double"
    CLOSURE = "missed closure"
    OPEN = "open in silence"
    SHUT = "shut on a vowel"
    STILL = "held while the voice moves"
    REST = "rest in a word"
    OFF = "late or early"
    BUSY = "too busy"
    EMPTY = "empty"
    UNCOVERED = "uncovered shape"
    UNREAD = "unread speech"
    ORDER = "word out of order"
    SPEAKERS = "two at once"
    DRIFT = "drift"


@dataclass(frozen=True)
class Fix:
    """What cures a check: a verb of the lane and what it takes, and what that does, in a word or two."""

    label: str
    verb: str
    what: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Check:
    """Something to look at on frames frame to frame + frames. text: what it is, with its figure; fix: what cures it;
    maybe: what may, the likeliest first, found as it is asked for and gone through once (see cures)."""

    kind: Kind
    frame: int
    frames: int
    text: str
    fix: Fix | None = None
    maybe: Iterable[Fix] = ()


@dataclass(frozen=True)
class Looked:
    """What is looked at: some frames of a track, as they are seen.

    exposures: they cover the frames of the curves, drawings by their names in the chart, or NOTHING; curves: of the
    same frames; at: their settings; lines: in the scene's time.
    """

    exposures: Sequence[Exposure]
    curves: Curves
    chart: Chart
    at: Dials
    lines: Sequence[Line] = ()

    @property
    def first(self) -> int:
        """The first frame."""
        return self.curves.first

    def shown(self) -> Ints:
        """Return (frames,) the row of the drawing on each frame, -1 for nothing."""
        return rows_shown(self.exposures, self.curves.frames, [drawing.name for drawing in self.chart.drawings])

    def runs(self) -> list[Exposure]:
        """Return what a viewer tells apart: neighbours of one drawing as one."""
        return seen_runs(self.exposures)

    def pinned_on(self, first: int, end: int) -> list[int]:
        """Return the frames on which those exposures begin that a person decided and that are seen between two
        frames."""
        return [e.frame for e in self.exposures if e.pinned and e.frame < end and e.end > first]

    def hold_on(self, frame: int) -> int:
        """Return the hold on a frame of the scene, or on the nearest of these."""
        return int(self.at.hold[min(max(0, frame - self.first), len(self.at.hold) - 1)])

    def name(self, row: int) -> str:
        """Return a drawing's name."""
        return self.chart.drawings[row].name


def checks(looked: Looked) -> tuple[Check, ...]:
    """Return everything to look at on some frames, in the order of the scene; what cures it is not tried yet."""
    found = itertools.chain.from_iterable(look(looked) for look in _LOOKS)
    return tuple(sorted(found, key=lambda check: (check.frame, check.kind)))


def _flashes(looked: Looked) -> Iterator[Check]:
    """Drawings shown for less than their hold."""
    for before, own, after in _threes(looked.runs()):
        hold = looked.hold_on(own.frame)
        if own.frames < hold:
            text = f"“{own.drawing or 'nothing'}” is seen for {_frames(own.frames)}; the hold is {hold}."
            gone = [_laying("Take it away", own.frame, own.frames, one.drawing) for one in (before, after)]
            maybe = itertools.chain(gone, _fitting("Hold it", looked, own.frame, own.frames, own.drawing))
            yield Check(Kind.FLASH, own.frame, own.frames, text, maybe=maybe)


def _doubles(looked: Looked) -> Iterator[Check]:
    """The same drawing twice, with another between for no longer than a hold, for which nothing closes."""
    shut = {looked.name(row) for row in looked.chart.shut()}
    for before, own, after in _threes(looked.runs()):
        hold = looked.hold_on(own.frame)
        if before.drawing != after.drawing or own.frames >= hold or own.drawing in shut or before.drawing in shut:
            continue
        text = f"“{before.drawing}” is seen twice, with “{own.drawing or 'nothing'}” for {_frames(own.frames)} between."
        one = _laying("Make it one", own.frame, own.frames, before.drawing)
        maybe = itertools.chain([one], _fitting("Hold it", looked, own.frame, own.frames, own.drawing))
        yield Check(Kind.DOUBLE, own.frame, own.frames, text, maybe=maybe)


def _closures(looked: Looked) -> Iterator[Check]:
    """Lips that should close and are not seen to."""
    shown = looked.shown()
    for shape in CLOSURES:
        closers = looked.chart.closers(shape)
        for target in _of_shapes(looked.curves, {shape}) if closers else ():
            own = looked.curves.touched(target)
            if not len(own) or np.isin(shown[own.start : own.stop], closers).any():
                continue
            frame = own.start + looked.first
            what = "lips" if shape == "press" else "lip on the teeth"
            text = f"A sound that needs {what} together is heard for {_frames(len(own))}, and is not seen."
            maybe = _fitting("Close here", looked, frame, len(own), _likest(looked, closers, shape))
            yield Check(Kind.CLOSURE, frame, len(own), text, maybe=maybe)


def _open_in_silence(looked: Looked) -> Iterator[Check]:
    """A mouth that is open where nothing is heard, away from what is said."""
    rests, _ = rest_in(looked.curves.silent, looked.curves.rate, looked.at, looked.first == 0, False)
    shown, shut = looked.shown(), [*looked.chart.shut(), -1, _rest(looked)]
    for first, end in runs(rests & ~np.isin(shown, shut)):
        frame = first + looked.first
        text = f"The mouth is open for {_frames(end - first)} in which nothing is heard."
        maybe = _fitting("At rest", looked, frame, end - first, looked.name(_rest(looked)))
        yield Check(Kind.OPEN, frame, end - first, text, maybe=maybe)


def _shut_vowels(looked: Looked) -> Iterator[Check]:
    """Vowels of two frames or more with the lips together throughout."""
    shown, shut = looked.shown(), looked.chart.shut()
    if len(shut) == len(looked.chart.drawings):
        return
    for target in (t for t in looked.curves.targets if t.nucleus):
        own = looked.curves.within(target)
        if len(own) < _NOTICED or not np.isin(shown[own.start : own.stop], shut).all():
            continue
        frame = own.start + looked.first
        text = f"A vowel is heard for {_frames(len(own))} and the mouth stays shut."
        opener = _likest(looked, looked.chart.openers(target.shape), target.shape)
        maybe = _fitting("Open here", looked, frame, len(own), opener)
        yield Check(Kind.SHUT, frame, len(own), text, maybe=maybe)


def _still(looked: Looked) -> Iterator[Check]:
    """Drawings held while sounds pass that others of the chart would show."""
    source = led(looked.curves.silent, looked.at.lead)
    what = said(looked.curves, source)
    for run in looked.runs():
        first = max(0, run.frame - looked.first)
        here = replace(run, frame=first, frames=max(0, run.end - looked.first - first))
        held = stands(here, what)
        if not here.frames or held <= looked.at.longest[first]:
            continue
        passed = list(_passed(looked, source, here))
        if passed:
            text = f"“{run.drawing or 'nothing'}” is held for {_frames(held)} of speech while the voice moves on."
            moves = (_fitting("Move here", looked, frame, looked.hold_on(frame), name) for frame, name in passed)
            maybe = itertools.chain(_freeing(looked, run.frame, run.end), itertools.chain.from_iterable(moves))
            yield Check(Kind.STILL, run.frame, run.frames, text, maybe=maybe)


def _passed(looked: Looked, source: Ints, run: Exposure) -> Iterator[tuple[int, str]]:
    """The sounds that pass while a drawing is held and for which there is another: when, and its name."""
    for target, within in zip(looked.curves.targets, looked.curves.all_within, strict=True):
        if not within:
            continue
        frame = int(np.searchsorted(source, within.start))
        name = looked.name(looked.chart.nearest(tuple(target.place)))
        if run.frame < frame < run.end - 1 and name != run.drawing:
            yield frame + looked.first, name


def _rests_in_words(looked: Looked) -> Iterator[Check]:
    """The mouth at rest inside a word, where lips do not close."""
    rest, shown = _rest(looked), looked.shown()
    closing = np.zeros(len(shown), bool)
    for target in _of_shapes(looked.curves, set(CLOSURES)):
        own = looked.curves.touched(target)
        closing[max(0, own.start - _BESIDE_CLOSURE) : own.stop + _BESIDE_CLOSURE] = True
    if any(rest in looked.chart.closers(shape) for shape in CLOSURES):
        shown = np.where(closing, -1, shown)
    inside = np.zeros(len(shown), bool)
    for word in _said(looked):
        first, end = (frame_at(time, looked.curves.rate) - looked.first for time in (word.start, word.end))
        inside[max(0, first + 1) : max(0, end - 1)] = True
    for first, end in runs((shown == rest) & inside & ~looked.curves.silent):
        if end - first >= _NOTICED:
            frame = first + looked.first
            text = f"The mouth is at rest for {_frames(end - first)} inside a word."
            yield Check(Kind.REST, frame, end - first, text, maybe=_freeing(looked, frame, end + looked.first))


def _off(looked: Looked) -> Iterator[Check]:
    """Lines whose mouth opens later or earlier than it sounds: the shift at which opening and loudness agree best, less
    the one at which a mouth that does what each sound asks would, and the lead that was asked for."""
    jaw = np.append(looked.chart.places()[:, 0], 0.0)[looked.shown()]
    loud = _loudness(looked)
    for line in looked.lines:
        first, end = (frame_at(time, looked.curves.rate) - looked.first for time in (line.start, line.end))
        if first < _FARTHEST or end > len(jaw) - _FARTHEST or end - first < _FEWEST_FRAMES:
            continue
        lead = int(looked.at.lead[first])
        match, ideal = (_matches(one, loud, first, end) for one in (jaw, looked.curves.values[:, 0]))
        asked = max(ideal, key=lambda by: ideal[by]) - lead
        best = max(match, key=lambda by: (match[by], -abs(by - asked)))
        off = best - asked
        if abs(off) < MOST_OFF or match[best] - match.get(asked, 0.0) < _BETTER:
            continue
        frame = first + looked.first
        text = f"The mouth opens {_frames(abs(off))} {'later' if off > 0 else 'earlier'} than the line sounds."
        early = lead + looked.hold_on(frame) - 1
        own = _mouths_of(looked, frame - early - max(0, -off), end + looked.first + max(0, off))
        maybe = tuple(
            Fix(f"Slide by {by:+d}", "slide", {"at": own, "by": by, "border": border})
            for by in (-off, -off + (1 if off > 0 else -1))
            for border in ("squeeze", "overwrite")
            if own and by
        )
        yield Check(Kind.OFF, frame, end - first, text, maybe=maybe)


def _busy(looked: Looked) -> Iterator[Check]:
    """Seconds with more changes than a viewer reads."""
    second = round(float(looked.curves.rate))
    begins = [e.frame for e in looked.runs()[1:]]
    until = -1
    for place, frame in enumerate(begins):
        count = sum(1 for other in begins[place : place + second] if other < frame + second)
        if count <= MOST_CHANGES or frame < until:
            continue
        until = frame + second
        own = looked.at.settings_on(min(max(0, frame - looked.first), len(looked.at.hold) - 1))
        what = {
            "frame": frame,
            "frames": second,
            "hold": own.hold + 1,
            "lead": own.lead,
            "detail": _CALM_DETAIL,
            "step": own.step,
        }
        text = f"{count} changes within a second; {MOST_CHANGES} are read."
        calmer = own.hold < MAX_HOLD and len(looked.pinned_on(frame, frame + second)) < MOST_CHANGES
        maybe = (Fix("Calmer here", "settings of a range", what),) if calmer else ()
        yield Check(Kind.BUSY, frame, second, text, maybe=maybe)


def _empty(looked: Looked) -> Iterator[Check]:
    """Frames on which no mouth is shown."""
    for e in looked.runs():
        if e.drawing == NOTHING:
            text = f"No mouth is shown for {_frames(e.frames)}."
            yield Check(Kind.EMPTY, e.frame, e.frames, text, maybe=_freeing(looked, e.frame, e.end))


def _uncovered(looked: Looked) -> Iterator[Check]:
    """Shapes that are asked for and that no drawing comes near to; once, where the first is needed."""
    lacks = {one.shape: one for one in coverage(looked.chart) if not one.covered}
    needed = {shape: _of_shapes(looked.curves, {shape}) for shape in lacks}
    told = [
        f"{shape} ({len(targets)}×, “{lacks[shape].drawing}” stands in)"
        for shape, targets in sorted(needed.items(), key=lambda item: -len(item[1]))
        if targets
    ]
    if told:
        first = min(looked.curves.touched(target).start for targets in needed.values() for target in targets)
        yield Check(Kind.UNCOVERED, first + looked.first, 1, f"The chart has nothing for {', '.join(told)}.")


def _unread(looked: Looked) -> Iterator[Check]:
    """Speech that is heard and not written."""
    rate = looked.curves.rate
    for start, end in sorted({span for line in looked.lines for word in line.words for span in word.extra}):
        frame = frame_at(start, rate)
        text = f"{end - start:.1f} s of speech are heard here that nobody wrote; the mouth follows their sounds."
        yield Check(Kind.UNREAD, frame, max(1, frame_at(end, rate) - frame), text)


def _order(looked: Looked) -> Iterator[Check]:
    """Words that begin before one that comes earlier in their line."""
    for line in looked.lines:
        said = [word for word in line.words if word.said]
        for word, after in itertools.pairwise(said):
            if after.at < word.at:
                frame = frame_at(after.start, looked.curves.rate)
                yield Check(Kind.ORDER, frame, 1, f"“{word.text}” is heard before “{after.text}”, which comes first.")


def _speakers(looked: Looked) -> Iterator[Check]:
    """Lines of one character that are said at the same time."""
    lines = sorted((line for line in looked.lines if any(word.said for word in line.words)), key=lambda one: one.start)
    for one, other in itertools.pairwise(lines):
        over = one.end - other.start
        if over > _OVERLAP_SECONDS and one.id != other.id:
            frame = frame_at(other.start, looked.curves.rate)
            frames = max(1, frame_at(min(one.end, other.end), looked.curves.rate) - frame)
            text = f"Two lines of one mouth are heard at once for {over:.1f} s; give one to who else speaks."
            yield Check(Kind.SPEAKERS, frame, frames, text)


_LOOKS: tuple[Callable[[Looked], Iterable[Check]], ...] = (
    *(_flashes, _doubles, _closures, _open_in_silence, _shut_vowels, _still, _rests_in_words, _off),
    *(_busy, _empty, _uncovered, _unread, _order, _speakers),
)


def _frames(count: int) -> str:
    return "1 frame" if count == 1 else f"{count} frames"


def _threes(exposures: Sequence[Exposure]) -> Iterator[tuple[Exposure, Exposure, Exposure]]:
    return zip(exposures, exposures[1:], exposures[2:], strict=False)


def _of_shapes(curves: Curves, shapes: set[str]) -> list[Target]:
    return [target for target in curves.targets if target.shape in shapes]


def _rest(looked: Looked) -> int:
    return looked.chart.nearest(SHAPES["rest"].place)


def _likest(looked: Looked, rows: Iterable[int], shape: str) -> str:
    """Of some drawings the one that looks most like a shape."""
    place = SHAPES[shape].place
    return looked.name(min(rows, key=lambda row: distance(looked.chart.drawings[row].place, place)))


def _laying(label: str, frame: int, frames: int, drawing: str) -> Fix:
    """A drawing laid on some frames."""
    return Fix(label, "lay", {"frame": frame, "pieces": [[0, frames, drawing]]})


def _freeing(looked: Looked, first: int, end: int) -> tuple[Fix, ...]:
    """That what a person decided between two frames follows from the sound again."""
    pinned = looked.pinned_on(first, end)
    return (Fix("Follow the sound", "free", {"at": pinned}),) if pinned else ()


def _fitting(label: str, looked: Looked, frame: int, frames: int, drawing: str) -> Iterator[Fix]:
    """A drawing laid on some frames for a hold at least, as early as the lead asks or later, and as it leaves no bit of
    what it lies on."""
    hold, lead = looked.hold_on(frame), int(looked.at.lead[min(max(0, frame - looked.first), len(looked.at.lead) - 1)])
    count = max(hold, frames)
    last = looked.first + len(looked.curves.values)
    for begin in dict.fromkeys((frame - lead, frame, *range(frame + frames - count, frame))):
        first, end = max(looked.first, begin), min(last, begin + count)
        left = next((e.frame for e in looked.exposures if e.frame < first < e.end and first - e.frame < hold), first)
        right = next((e.end for e in looked.exposures if e.frame < end < e.end and e.end - end < hold), end)
        for a, b in dict.fromkeys(((first, end), (left, end), (first, right), (left, right))):
            if b > a:
                yield _laying(label, a, b - a, drawing)


def _said(looked: Looked) -> list[Word]:
    return [word for line in looked.lines for word in line.words if word.said]


def _loudness(looked: Looked) -> Array:
    """(frames,) how loud each frame sounds, from the level that was measured of each sound; vowels count whole."""
    found = np.zeros(len(looked.curves.values))
    for word in _said(looked):
        for sound in word.sounds:
            first, end = (frame_at(time, looked.curves.rate) - looked.first for time in (sound.start, sound.end))
            level = sound.level * (1.0 if is_vowel(sound.ipa) else _UNVOICED)
            found[max(0, first) : max(0, first, end)] = level
    return found


def _mouths_of(looked: Looked, first: int, end: int) -> list[int]:
    """The frames on which the exposures between two begin, from the first that is not at rest to the last."""
    rest = looked.name(_rest(looked))
    own = [e for e in looked.exposures if first <= e.frame < end]
    moving = [place for place, e in enumerate(own) if e.drawing != rest]
    return [e.frame for e in own[moving[0] : moving[-1] + 1]] if moving else []


def _matches(jaw: Array, loud: Array, first: int, end: int) -> dict[int, float]:
    """How well an opening agrees with the loudness of a line, for each number of frames it is seen later: their
    correlation, 0 where one of them never changes."""
    opened = sliding_window_view(jaw[first - _FARTHEST : end + _FARTHEST], end - first)
    heard = loud[first:end]
    away, off = opened - opened.mean(1, keepdims=True), heard - heard.mean()
    spread = np.sqrt((away**2).sum(1) * (off**2).sum())
    changes = (np.ptp(opened, axis=1) > 0) & (np.ptp(heard) > 0)
    agree = np.where(changes, away @ off / np.where(changes, spread, 1.0), 0.0)
    return dict(zip(range(-_FARTHEST, _FARTHEST + 1), agree.tolist(), strict=True))
