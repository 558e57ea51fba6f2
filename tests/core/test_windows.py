import itertools
from dataclasses import replace
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.speech import sounds_of
from tinfork.core.exposure.curves import curves, silence
from tinfork.core.exposure.pins import PlacedPins
from tinfork.core.exposure.plan import plan
from tinfork.core.exposure.track import Exposure, Passage, Pin, Settings, Track, cut_to
from tinfork.core.exposure.windows import Known, merged, window, without
from tinfork.core.exposure.windows import around as around_pins
from tinfork.core.mouths.chart import built_in
from tinfork.core.timebase import frames_touched

CHART = built_in()
IPA = ["m", "b", "p", "f", "ɑ", "i", "u", "s", "t", "oʊ", "aɪ", "θ", "l", "ə"]
rates = st.sampled_from([Fraction(12), Fraction(24000, 1001), Fraction(24), Fraction(60)])
dials = st.builds(Settings, st.integers(1, 4), st.integers(0, 3), st.floats(0, 1), st.integers(1, 3))
phrases = st.lists(st.tuples(st.sampled_from(IPA), st.floats(0.03, 0.3)), min_size=1, max_size=9)
speech = st.lists(st.tuples(phrases, st.floats(0.15, 1.6)), min_size=1, max_size=7)


def said(asked):
    rows = [(ipa, length) for phrase, pause in asked for ipa, length in (*phrase, ("_", pause))]
    found = sounds_of([ipa for ipa, _ in rows], [length for _, length in rows])
    rounded = [replace(sound, start=round(sound.start, 6), end=round(sound.end, 6)) for sound in found]
    return [sound for sound in rounded if sound.ipa != "_"]


passages_of = st.lists(st.builds(Passage, st.integers(0, 90), st.integers(1, 60), dials), max_size=2)


def planned_anew(track, before, after, seconds, rate, dial, pins, changed, passages=(), around=30):
    """What replanning only what must be gives, with how many frames that was; ever more is looked at until it is
    enough."""
    whole = curves(after, seconds, rate)
    silent = silence(after, rate, whole.frames)
    first = last = None
    while first is None or last is None:
        frames = range(max(0, changed.start - around), min(len(silent), changed.stop + around))
        known = Known(frames, silent[frames.start : frames.stop], len(silent))
        first, last = window(changed, known, rate, dial, pins, passages)
        around *= 3
    near = around_pins(range(first, last), pins, rate, len(silent))
    part = curves(after, seconds, rate, frames=near)
    own = [pin for pin in pins if near.start <= pin.frame < near.stop]
    fresh = cut_to(plan(part, CHART, dial, own, passages), range(first, last))
    return Track.of(track).with_fresh(fresh).exposures(), last - first


def plain(track):
    return [replace(exposure, sounds=()) for exposure in track]


@settings(max_examples=70, deadline=None)
@given(speech, st.data(), dials, rates, passages_of)
def test_a_changed_sound_planned_anew_where_it_must_be_equals_planning_all(asked, data, dial, rate, passages):
    before = said(asked)
    seconds = before[-1].end + 1.0
    number = data.draw(st.integers(0, len(before) - 1))
    old = before[number]
    room = before[number + 1].start if number + 1 < len(before) else seconds
    new = data.draw(
        st.sampled_from(
            [
                None,
                replace(old, ipa=data.draw(st.sampled_from(IPA))),
                replace(old, end=round(old.start + 0.6 * (old.end - old.start), 6)),
                replace(old, end=round(old.end + 0.9 * (room - old.end), 6)),
            ]
        )
    )
    after = [*before[:number], *([new] if new else []), *before[number + 1 :]]
    track = plan(curves(before, seconds, rate), CHART, dial, passages=passages)
    changed = merged(frames_touched(s.start, s.end, rate) for s in (old, new) if s)
    span = range(changed[0].start, changed[-1].stop)
    anew, _ = planned_anew(track, before, after, seconds, rate, dial, [], span, passages)
    assert plain(anew) == plain(plan(curves(after, seconds, rate), CHART, dial, passages=passages))


@settings(max_examples=50, deadline=None)
@given(speech, st.integers(0, 90), st.integers(1, 9), st.integers(0, 90), dials, rates)
def test_a_new_pin_planned_anew_where_it_must_be_equals_planning_all(asked, old, frames, new, dial, rate):
    sounds = said(asked)
    shape = curves(sounds, sounds[-1].end + 8.5, rate)
    pins = [Pin(old, frames, "open")]
    after = [*pins, Pin(new, 3, "press")] if new >= old + frames or new + 3 <= old else pins
    after.sort(key=lambda pin: pin.frame)
    track = plan(shape, CHART, dial, pins)
    anew, _ = planned_anew(track, sounds, sounds, sounds[-1].end + 8.5, rate, dial, after, range(new, new + 3))
    assert plain(anew) == plain(plan(shape, CHART, dial, after))


def test_only_the_phrase_that_changed_is_planned_anew():
    phrase = [("b", 0.1), ("ɑ", 0.2), ("t", 0.1)]
    before = said([(phrase, 1.5)] * 20)
    after = [replace(sound, ipa="u") if number == 31 else sound for number, sound in enumerate(before)]
    rate, dial = Fraction(24), Settings()
    track = plan(curves(before, 40.0, rate), CHART, dial)
    changed = frames_touched(before[31].start, before[31].end, rate)
    anew, frames = planned_anew(track, before, after, 40.0, rate, dial, [], changed)
    assert frames < 100
    assert plain(anew) != plain(track)
    assert plain(anew) == plain(plan(curves(after, 40.0, rate), CHART, dial))


def test_what_is_not_known_is_said_to_be_unknown():
    rate, dial = Fraction(24), Settings()
    sounds = said([([("ɑ", 0.2)], 0.02)] * 30)
    frames = range(40, 100)
    known = Known(frames, silence(sounds, rate, frames), 400)
    assert window(range(60, 62), known, rate, dial) == (None, None)
    quiet = Known(frames, silence([], rate, frames), 400)
    first, last = window(range(60, 62), quiet, rate, dial)
    assert 40 <= first < 60
    assert 62 < last <= 100


def test_a_track_keeps_what_is_not_planned_anew():
    track = Track.of([Exposure(0, 4, "rest"), Exposure(4, 4, "open", sounds=(1,)), Exposure(8, 4, "rest")])
    assert plain(track.with_fresh([Exposure(4, 2, "half")]).exposures())[1:3] == [
        Exposure(4, 2, "half"),
        Exposure(6, 2, "open"),
    ]
    pinned = track.with_fresh([Exposure(4, 2, "rest", True), Exposure(6, 2, "rest")])
    assert [(e.frame, e.frames, e.pinned) for e in pinned.exposures()] == [(0, 4, False), (4, 2, True), (6, 6, False)]
    beside = track.with_fresh([Exposure(4, 2, "open", True)]).with_fresh([Exposure(6, 2, "open", True)])
    assert [(e.frame, e.frames) for e in beside.exposures() if e.pinned] == [(4, 2), (6, 2)]
    assert track.of_length(6, "rest").exposures() == (Exposure(0, 4, "rest"), Exposure(4, 2, "open"))
    assert track.of_length(17, "rest").exposures()[-1] == Exposure(8, 9, "rest")
    assert Track.of([]).of_length(3, "rest").exposures() == (Exposure(0, 3, "rest"),)


@given(st.lists(st.tuples(st.integers(1, 9), st.sampled_from(["rest", "open", "half"]), st.booleans()), min_size=1))
def test_a_track_is_what_it_was_made_of(rows):
    begins = itertools.accumulate((0, *(frames for frames, _, _ in rows)))
    whole = [Exposure(at, frames, name, pin) for at, (frames, name, pin) in zip(begins, rows, strict=False)]
    track = Track.of(whole)
    assert list(track.exposures()) == whole
    assert Track.unpacked(track.packed(), track.drawings) == track
    frames = range(3, 7)
    assert list(track.exposures(frames)) == [e for e in whole if e.frame < frames.stop and e.end > frames.start]


def test_ranges_are_joined_and_taken_from_one_another():
    assert merged([range(8, 9), range(0, 3), range(3, 5), range(6, 6)]) == [range(0, 5), range(8, 9)]
    assert without([range(0, 5), range(8, 12)], range(3, 9)) == [range(0, 3), range(9, 12)]
    assert all(a.stop < b.start for a, b in itertools.pairwise(without([range(0, 9)], range(2, 4))))


def test_a_window_does_not_begin_inside_a_pin_nor_in_a_rest_too_short_to_be_held():
    rate, dial = Fraction(24), Settings(hold=4)
    frames = range(0, 200)
    quiet = Known(frames, silence([], rate, frames), 200)
    changed = range(100, 101)
    assert window(changed, quiet, rate, dial, [Pin(0, 92, "open"), Pin(110, 20, "open")]) == (92, 110)
    assert window(changed, quiet, rate, dial, [Pin(0, 93, "open"), Pin(108, 20, "open")]) == (93, 108)
    assert window(changed, quiet, rate, dial, [Pin(0, 94, "open"), Pin(107, 20, "open")]) == (0, 131)


@settings(max_examples=70, deadline=None)
@given(speech, st.lists(st.integers(0, 200), max_size=12), st.data(), dials, rates)
def test_among_many_pins_a_change_is_planned_between_two_of_them_and_equals_planning_all(
    asked, places, data, dial, rate
):
    before = said(asked)
    seconds = before[-1].end + 1.0
    frames = len(curves(before, seconds, rate).values)
    pins, end = [], 0
    for place in sorted(places):
        if end <= place and place + 2 <= frames:
            pins.append(Pin(place, 2, data.draw(st.sampled_from(["open", "press", "rest", ""]))))
            end = place + 2
    number = data.draw(st.integers(0, len(before) - 1))
    old = before[number]
    after = [*before[:number], replace(old, ipa=data.draw(st.sampled_from(IPA))), *before[number + 1 :]]
    track = plan(curves(before, seconds, rate), CHART, dial, pins)
    changed = frames_touched(old.start, old.end, rate)
    anew, _ = planned_anew(track, before, after, seconds, rate, dial, pins, changed)
    assert plain(anew) == plain(plan(curves(after, seconds, rate), CHART, dial, pins))


def test_a_track_can_be_planned_from_any_frame_on_and_to_any():
    sounds = said([([("b", 0.08), ("ɑ", 0.3), ("m", 0.1), ("aɪ", 0.25), ("s", 0.2)], 0.6)])
    frames = len(curves(sounds, sounds[-1].end + 1.0, Fraction(24)).values)
    for first in range(frames - 1):
        for last in (first + 1, (first + frames) // 2 + 1, frames):
            part = curves(sounds, sounds[-1].end + 1.0, Fraction(24), frames=range(first, last))
            track = plan(part, CHART, Settings())
            assert (track[0].frame, track[-1].end) == (first, last)


@given(st.lists(st.integers(1, 5), min_size=8, max_size=8), st.sets(st.integers(0, 7)))
def test_what_lies_over_a_track_is_put_there_all_at_once_as_one_by_one(lengths, over):
    firsts = [sum(lengths[:place]) for place in range(8)]
    track = Track.of([Exposure(0, 20, "rest"), Exposure(20, 20, "open")])
    some = [Exposure(firsts[place], lengths[place], "ajar", True) for place in sorted(over)]
    by_one = track
    for exposure in some:
        by_one = by_one.with_fresh([exposure])
    assert track.with_over(some) == by_one


@given(st.sets(st.integers(0, 30)), st.integers(0, 40), st.integers(0, 20))
def test_pins_near_some_frames_are_those_seen_on_them(at, first, many):
    shown = tuple(Pin(2 * frame, 1 + frame % 2, "ajar") for frame in sorted(at))
    frames = range(first, first + many)
    found = PlacedPins(shown)
    assert found.near(frames) == tuple(pin for pin in shown if pin.frame < frames.stop and pin.end > frames.start)
    assert found.beginning(frames) == tuple(pin for pin in shown if pin.frame in frames)
