"""Whatever is done to a track, its cures end: each takes something away, none brings back what was there before."""

from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
import pytest

from tests.core.test_plan import chart_of
from tests.speech import say
from tinfork.core.exposure import verbs
from tinfork.core.exposure.checks import Kind, Looked, checks
from tinfork.core.exposure.cures import with_cures
from tinfork.core.exposure.curves import curves
from tinfork.core.exposure.pins import anchor_pins, place_pins, set_pins, unset_pins
from tinfork.core.exposure.plan import Before, dials, plan
from tinfork.core.exposure.track import Exposure, Passage, Pin, Settings
from tinfork.core.mouths.chart import Chart, built_in
from tinfork.core.speech.reading import Line, Word

FPS = Fraction(24)
SOUNDS = ["m", "b", "f", "'ɑ", "i", "'u", "s", "t", "'oʊ", "aɪ", "θ", "l", "ʃ", "ə", "'ɛ", "k", "_"]
MOST = 60


@dataclass
class Desk:
    """A track, and what somebody who only presses cures does to it."""

    shape: object
    lines: tuple
    chart: Chart
    settings: Settings
    pins: tuple = ()
    passages: tuple = ()
    track: tuple = ()

    def planned(self, opened=()):
        before = Before(self.track, opened) if self.track else None
        shown = place_pins(self.pins, (), len(self.shape.values)).shown
        self.track = plan(self.shape, self.chart, self.settings, shown, self.passages, before)

    def looked(self):
        at = dials(self.shape.frames, FPS, self.settings, self.passages)
        return Looked(self.track, self.shape, self.chart, at, self.lines)

    def lay(self, after):
        new = verbs.decided(self.track, after)
        self.pins = set_pins(self.pins, new, (), len(self.shape.values), self.settings.hold)
        self.planned([range(pin.frame, pin.end) for pin in new])

    def press(self, fix):
        what = fix.what
        if fix.verb == "lay":
            pieces = [verbs.Piece(*one) for one in what["pieces"]]
            self.lay(verbs.lay(self.track, what["frame"], pieces, self.settings.hold))
        elif fix.verb == "slide":
            self.lay(verbs.slide(self.track, what["at"], what["by"], verbs.Border(what["border"]), self.settings.hold))
        elif fix.verb == "free":
            gone = [range(e.frame, e.end) for e in self.track if e.pinned and e.frame in what["at"]]
            self.pins = unset_pins(self.pins, what["at"], (), len(self.shape.values))
            self.planned(gone)
        else:
            settings = Settings(what["hold"], what["lead"], what["detail"], what["step"])
            self.passages = (*self.passages, Passage(what["frame"], what["frames"], settings))
            self.planned([range(what["frame"], what["frame"] + what["frames"])])

    def state(self):
        return tuple((e.frame, e.frames, e.drawing, e.pinned) for e in self.track), self.passages


def desk_of(random, settings, chart):
    said = " ".join(f"{random.choice(SOUNDS)}:{random.integers(40, 320)}" for _ in range(26))
    sounds, seconds = say(f"{said} 'ɑ:120")
    words = tuple(
        Word("so", own[0].start, own[-1].end, 0.9, False, tuple(own))
        for own in (sounds[n : n + 4] for n in range(0, len(sounds), 4))
    )
    line = Line("so", words[0].start, words[-1].end, words, 1)
    desk = Desk(curves(sounds, seconds, FPS), (line,), chart, settings)
    desk.planned()
    return desk


FIVE = chart_of("rest", "teeth", "half", "open", "purse")


@pytest.mark.parametrize("seed", range(40))
def test_every_row_of_cures_ends_and_never_comes_back(seed):
    random = np.random.default_rng(seed)
    settings = Settings(int(random.integers(1, 4)), int(random.integers(0, 3)), float(random.choice([0.0, 0.5, 1.0])))
    desk = desk_of(random, settings, FIVE if seed % 4 == 0 else built_in())
    frames = len(desk.shape.values)
    names = [*(drawing.name for drawing in desk.chart.drawings), ""]
    for _ in range(int(random.integers(1, 9))):
        first = int(random.integers(0, frames - 4))
        row = [verbs.Piece(0, int(random.integers(1, 12)), str(random.choice(names)))]
        desk.lay(verbs.lay(desk.track, first, row, settings.hold))
    left = {desk.state()}
    for _ in range(MOST):
        cures = [check.fix for check in with_cures(desk.looked(), checks(desk.looked())) if check.fix]
        if not cures:
            break
        desk.press(cures[int(random.integers(len(cures)))])
        assert desk.state() not in left
        left.add(desk.state())
    else:
        pytest.fail("The cures went on and on.")


@pytest.mark.parametrize("hold", [1, 2, 3])
@pytest.mark.parametrize("seed", range(10))
def test_what_is_planned_needs_no_cure(hold, seed):
    desk = desk_of(np.random.default_rng(seed), Settings(hold), built_in())
    found = {check.kind for check in checks(desk.looked())} - {Kind.BUSY}
    assert not found


def test_open_here_is_held_as_long_as_all_are():
    sounds, seconds = say("m:80 'ɑ:90 m:80 'i:200")
    shape = curves(sounds, seconds, FPS)
    desk = Desk(shape, (), built_in(), Settings(hold=3))
    desk.track = (Exposure(0, len(shape.values), "press"),)
    shut = [check for check in with_cures(desk.looked(), checks(desk.looked())) if check.kind == Kind.SHUT]
    assert shut
    assert all(check.fix.what["pieces"][0][1] >= 3 for check in shut if check.fix)
    assert any(check.fix for check in shut)


def test_a_drawing_held_over_three_shapes_is_found_and_moved():
    sounds, seconds = say("'ɛ:160 s:90 'ɛ:160 l:90 'ɛ:160")
    shape = curves(sounds, seconds, FPS)
    desk = Desk(shape, (), built_in(), Settings())
    desk.planned()
    frozen = next(e for e in desk.track if e.drawing != "rest")
    last = next(e for e in reversed(desk.track) if e.drawing != "rest")
    desk.track = verbs.lay(desk.track, frozen.frame, [verbs.Piece(0, last.end - frozen.frame, "half")])
    assert [check.text for check in checks(desk.looked()) if check.kind == Kind.STILL]
    pinned = replace(desk, pins=anchor_pins([Pin(frozen.frame, last.end - frozen.frame, "half")], ()))
    pinned.planned()
    (still,) = (check for check in with_cures(pinned.looked(), checks(pinned.looked())) if check.kind == Kind.STILL)
    assert still.fix.verb == "free"
    pinned.press(still.fix)
    assert not [check for check in checks(pinned.looked()) if check.kind == Kind.STILL]
