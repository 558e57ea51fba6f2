"""Corrections that are made again and again become rules: which sound a pin is for, and what a rule does to a track."""

from fractions import Fraction

from tests.speech import say
from tinfork.core.exposure.curves import curves
from tinfork.core.exposure.habits import Habit, aims_of, habits, is_correction, sound_of
from tinfork.core.exposure.plan import plan
from tinfork.core.exposure.track import Pin, Settings
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.shapes import SHAPES

FPS = Fraction(24)
CHART = built_in()
TEXT = "m:100 'ɑ:200 t:100 'i:200 t:100 'ɑ:200 t:100 'u:200 m:100"


def planned(aims=None):
    sounds, seconds = say(TEXT)
    shape = curves(sounds, seconds, FPS, aims=aims)
    return plan(shape, CHART, Settings()), shape, [sound.ipa for sound in sounds]


def test_a_pin_is_for_the_sound_it_covers_most_of_as_early_as_the_lead_asks():
    _, shape, ipa = planned()
    vowel = next(target for target in shape.targets if ipa[target.sound] == "ɑ")
    begins = round(vowel.start * 24)
    assert sound_of(Pin(begins, 4, "half"), shape.targets, FPS, 0) == vowel.sound
    assert sound_of(Pin(begins - 3, 4, "half"), shape.targets, FPS, 3) == vowel.sound
    assert sound_of(Pin(500, 4, "half"), shape.targets, FPS, 0) is None


def test_what_was_chosen_often_is_a_habit_and_what_was_only_timed_is_none():
    track, shape, ipa = planned()
    places = [round(t.start * 24) - 1 for t in shape.targets if ipa[t.sound] == "t"]
    pins = [Pin(frame, 3, "push") for frame in places]

    def found(pins):
        own = [pin for pin in pins if is_correction(pin, track)]
        return habits((ipa[sound_of(pin, shape.targets, FPS, 1)], pin.drawing) for pin in own)

    assert found(pins) == (Habit("t", "push", 3),)
    assert found(pins[:2]) == ()
    assert found([Pin(p.frame, p.frames, p.drawing, chosen=False) for p in pins]) == ()
    assert found([Pin(frame, 3, "") for frame in places]) == ()
    same = [Pin(p.frame, p.frames, next(e.drawing for e in track if e.frame <= p.frame + 1 < e.end)) for p in pins]
    assert found(same) == ()


def test_a_rule_shows_its_drawing_for_its_sound_and_for_no_other():
    before, shape, ipa = planned()
    after, _, _ = planned(aims_of([("t", "push", SHAPES["push"].place)], CHART))
    frames = {f for t in shape.targets if ipa[t.sound] == "t" for f in shape.touched(t)}
    assert not [e for e in before if e.drawing == "push"]
    shown = [e for e in after if e.drawing == "push"]
    assert len(shown) == 3
    assert all(set(range(e.frame, e.end)) & {f - 1 for f in frames} for e in shown)
    lips = [[e.drawing for e in track if e.drawing in ("press", "open")] for track in (before, after)]
    assert lips[0] == lips[1]


def test_a_rule_follows_its_drawing_when_that_lies_elsewhere():
    assert aims_of([("t", "push", (0.0,) * 8)], CHART) == {"t": SHAPES["push"].place}
    assert aims_of([("t", "gone", (0.5,) * 8)], CHART) == {"t": (0.5,) * 8}
