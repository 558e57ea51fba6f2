"""What the desk says of every sound is true: where it is shown, or why it is not."""

import functools
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from tests.speech import say
from tinfork.core.exposure import plan as planner
from tinfork.core.exposure.curves import curves
from tinfork.core.exposure.served import Fate, with_sounds
from tinfork.core.exposure.track import Exposure, Pin, Settings
from tinfork.core.mouths.chart import Chart, Drawing, built_in
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.speech.reading import Sound

FPS = Fraction(24)
IPA = ["m", "b", "f", "ɑ", "i", "u", "s", "t", "oʊ", "aɪ", "θ", "l", "ʃ", "ə", "ɛ", "k"]
CHART = built_in()
DIAL = Settings()


def fates(text, settings=DIAL, chart=CHART, pins=()):
    sounds, seconds = say(text)
    shape = curves(sounds, seconds, FPS)
    track = planner.plan(shape, chart, settings, pins)
    return track, planner.explain(track, shape, chart, settings, pins)


def shown_at(track, frame):
    return next(e.drawing for e in track if e.frame <= frame < e.end)


def test_a_sound_is_shown_where_its_drawing_is():
    track, seen = fates("m:80 'ɑ:200 f:90 'aɪ:240")
    assert [answer.fate for answer in seen] == [Fate.SHOWN] * 4
    assert [shown_at(track, answer.frame) for answer in seen] == ["press", "open", "tuck", "open"]
    assert [answer.reason for answer in seen] == [""] * 4


def test_what_the_dial_took_away_is_there_at_the_crispest():
    text = "ə:60 l:60 'ɛ:110 f:80 t:60 b:60 'u:180 t:90"
    _, calm = fates(text, Settings(detail=0.0))
    _, crisp = fates(text, Settings(detail=1.0))
    assert [a.sound for a in calm if a.fate == Fate.DIAL] == [1]
    assert crisp[1].fate == Fate.SHOWN
    assert (calm[4].fate, crisp[4].fate) == (Fate.BOTH, Fate.NO_ROOM)
    assert "dial" in calm[1].reason
    assert "hold of 1" in crisp[4].reason


CHANGES = {
    Fate.KEPT: {},
    Fate.DIAL: {"detail": 1.0},
    Fate.NO_ROOM: {"hold": 1},
    Fate.BOTH: {"hold": 1, "detail": 1.0},
}


def own_drawings(target):
    """What shows an aim: what closes for it, what opens as far, or the drawing nearest to it."""
    if target.shape in ("press", "tuck"):
        return {CHART.drawings[row].name for row in CHART.closers(target.shape)}
    rows = CHART.openers(target.shape) if target.nucleus else [CHART.nearest(SHAPES[target.shape].place)]
    return {CHART.drawings[row].name for row in rows}


def is_seen(track, target, lead):
    first, end = target.start * 24 - lead, target.end * 24
    return any(e.drawing in own_drawings(target) for e in track if e.frame < end and e.end > max(0, first))


@pytest.mark.parametrize("hold", [1, 2, 3])
@pytest.mark.parametrize("detail", [0.0, 0.25, 0.5, 0.75, 1.0])
@pytest.mark.parametrize("seed", range(6))
def test_what_is_said_of_a_sound_is_what_planning_with_that_one_thing_changed_shows(hold, detail, seed):
    random = np.random.default_rng(seed)
    said = " ".join(f"{random.choice(IPA)}:{random.integers(40, 220)}" for _ in range(24))
    sounds, seconds = say(said)
    shape, dial = curves(sounds, seconds, FPS), Settings(hold, 1, detail)
    pins = [Pin(20, 6, "purse")] if seed % 2 else []
    fresh = planner.plan(shape, CHART, dial, pins)
    edited = planner.plan(shape, CHART, dial, pins, before=planner.Before(planner.plan(shape, CHART, Settings(4))))

    @functools.cache
    def changed_by(fate):
        return planner.plan(shape, CHART, replace(dial, **CHANGES[fate]), pins)

    unpinned = planner.plan(shape, CHART, dial) if pins else fresh
    for track in (fresh, edited):
        seen = {answer.sound: answer for answer in planner.explain(track, shape, CHART, dial, pins)}
        for target in shape.targets:
            answer = seen[target.sound]
            if answer.fate is Fate.SHOWN:
                assert answer.frame is not None
            elif answer.fate is Fate.PINNED:
                assert target_seen(unpinned, shape, target.sound)
            elif answer.fate in CHANGES:
                assert target_seen(changed_by(answer.fate), shape, target.sound)
                assert not target_seen(track, shape, target.sound)
            elif answer.fate is Fate.OUTWEIGHED:
                assert not any(target_seen(changed_by(fate), shape, target.sound) for fate in CHANGES)


def target_seen(track, shape, sound):
    return any(is_seen(track, target, 1) for target in shape.targets if target.sound == sound)


def test_a_sound_whose_mouth_is_alike_is_merged_with_its_neighbour():
    _, seen = fates("b:70 'ɪ:120 ɡ:110 'ɑ:200")
    merged = [answer for answer in seen if answer.fate in (Fate.MERGED, Fate.SHOWN)]
    assert len(merged) == 4
    _, seen = fates("f:90 'æ:160 h:70 m:80 'ɑ:160")
    assert seen[2].fate == Fate.MERGED
    assert seen[2].other == 1


def test_a_drawing_that_is_wanting_is_said_so_with_what_stands_in():
    chart = Chart(tuple(Drawing(name, SHAPES[name].place) for name in ("ajar", "open")))
    _, seen = fates("m:80 'ɑ:200 u:200", chart=chart)
    assert [answer.fate for answer in seen] == [Fate.NO_DRAWING, Fate.SHOWN, Fate.NO_DRAWING]
    assert seen[0].frame is None
    assert "“ajar” stands in" in seen[2].reason


def test_a_drawing_that_left_the_chart_is_said_so_until_it_is_planned_anew():
    sounds, seconds = say("m:80 'ɑ:200 m:80")
    shape = curves(sounds, seconds, FPS)
    track = planner.plan(shape, CHART, DIAL, ())
    left = Chart(tuple(replace(one, name="wide") if one.name == "open" else one for one in CHART.drawings))
    seen = planner.explain(track, shape, left, DIAL, ())
    assert [answer.fate for answer in seen] == [Fate.SHOWN, Fate.NO_DRAWING, Fate.SHOWN]
    assert "left the chart" in seen[1].reason


def test_a_pin_in_its_place_is_said_so():
    _, seen = fates("m:80 'ɑ:200 m:80", pins=[Pin(10, 14, "tuck")])
    assert {answer.fate for answer in seen} == {Fate.PINNED}


@pytest.mark.parametrize("detail", [0.0, 0.5, 1.0])
def test_every_sound_has_one_answer_and_every_exposure_says_what_it_serves(detail):
    text = "p:80 'aɪ:200 n:60 t:60 ə:60 _:700 m:80 'oʊ:200"
    track, seen = fates(text, Settings(detail=detail))
    assert [answer.sound for answer in seen] == list(range(7))
    assert {sound for e in track for sound in e.sounds} == set(range(7))


def served(sound, *exposures):
    """What of a sound from one frame to another each exposure serves, with no lead."""
    ipa, first, last = sound
    shape = curves([Sound(ipa, first / 24, last / 24, 1.0)], 2.0, FPS)
    track = [Exposure(frame, frames, drawing) for frame, frames, drawing in exposures]
    return [e.sounds for e in with_sounds(track, shape, CHART, np.zeros(48, np.int64))]


def test_an_exposure_serves_what_it_shows_most_of_or_two_fifths_of():
    track = [(0, 12, "rest"), (12, 4, "open"), (16, 6, "half"), (22, 26, "rest")]
    assert served(("ɑ", 12, 22), *track) == [(), (0,), (0,), ()]
    assert served(("ɑ", 13, 22), *track) == [(), (), (0,), ()]


def test_an_exposure_serves_lips_it_closes_for_however_briefly():
    track = [(0, 12, "rest"), (12, 6, "ajar"), (18, 2, "press"), (20, 28, "rest")]
    assert served(("m", 12, 19), *track) == [(), (0,), (0,), ()]
    assert served(("t", 12, 19), *track) == [(), (0,), (), ()]
