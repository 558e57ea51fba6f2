"""Each limit of the checks, just on either side of it."""

from dataclasses import replace
from fractions import Fraction

import pytest

from tests.core.test_checks import BOAT, CHART, found, looked, show
from tinfork.core.exposure import verbs
from tinfork.core.exposure.checks import Kind, checks
from tinfork.core.exposure.cures import tried
from tinfork.core.exposure.track import Exposure, Settings
from tinfork.core.exposure.verbs import Piece
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.speech.reading import Line, Word

FPS = Fraction(24)
LINE = "b:80 'ɑ:240 p:90 'i:150 b:90 'ɔ:260 _:120 m:90 'ɑ:260 p:90"


def kinds(own):
    return [check.kind for check in checks(own)]


def with_track(own, *pieces):
    """It with these drawings for so many frames, and rest to the end."""
    track, at = [], 0
    for frames, drawing in pieces:
        track.append(Exposure(at, frames, drawing))
        at += frames
    end = own.exposures[-1].end
    return replace(own, exposures=(*track, Exposure(at, end - at, "rest")))


def late(by, hold=2):
    """A line with its mouths so many frames later than they were planned."""

    def moved(track):
        return verbs.slide(track, [e.frame for e in track[1:-1]], by, verbs.Border.OVERWRITE)

    return looked(LINE, Settings(hold=hold), change=moved)


def test_pins_are_counted_that_are_seen_between_two_frames():
    own = looked("'ɑ:1500")
    track = tuple(Exposure(at, 4, "open", pinned=True) for at in (0, 4, 8))
    assert replace(own, exposures=track).pinned_on(4, 8) == [4]


@pytest.mark.parametrize("hold", [2, 3])
def test_what_is_seen_for_its_hold_is_no_flash_and_a_frame_less_is(hold):
    own = looked("'ɑ:1500", Settings(hold=hold))
    for frames, count in ((hold, 0), (hold - 1, 1)):
        seen = with_track(own, (20, "rest"), (6, "open"), (frames, "half"), (6, "ajar"))
        assert kinds(seen).count(Kind.FLASH) == count


@pytest.mark.parametrize("hold", [2, 3])
def test_the_same_mouth_twice_is_a_double_with_less_than_a_hold_between(hold):
    own = looked("'ɑ:1500", Settings(hold=hold))
    for frames, count in ((hold, 0), (hold - 1, 1)):
        seen = with_track(own, (20, "rest"), (6, "open"), (frames, "half"), (6, "open"))
        assert kinds(seen).count(Kind.DOUBLE) == count


def test_shut_lips_twice_with_a_mouth_between_are_no_double():
    own = looked("'ɑ:1500")
    assert Kind.DOUBLE not in kinds(with_track(own, (20, "rest"), (6, "press"), (1, "half"), (6, "press")))


@pytest.mark.parametrize(("milliseconds", "count"), [(83, 1), (41, 0)])
def test_a_vowel_of_two_frames_that_stays_shut_is_told(milliseconds, count):
    own = looked(f"t:100 'ɑ:{milliseconds} t:100", change=show(8, 14, "press"))
    assert kinds(own).count(Kind.SHUT) == count


@pytest.mark.parametrize(("frames", "count"), [(1, 0), (2, 1)])
def test_two_frames_at_rest_in_a_word_are_told(frames, count):
    assert kinds(looked("'ɑ:900 'i:900", change=show(20, frames, "rest"))).count(Kind.REST) == count


def test_rest_beside_a_words_edges_is_not_told():
    """A frame inside its first and its last."""
    own = looked("'ɑ:1000")  # frames 12 to 36
    first, end = 12, 36
    told = [
        [
            c.frame
            for c in checks(with_track(own, (first, "rest"), (at, "open"), (2, "rest"), (30, "open")))
            if c.kind == Kind.REST
        ]
        for at in (0, 1, 2)
    ]
    assert told == [[], [13], [14]]
    told = [
        [c.frame for c in checks(with_track(own, (first, "rest"), (end - first - by, "open"))) if c.kind == Kind.REST]
        for by in (1, 2, 3, 4)
    ]
    assert told == [[], [], [33], [32]]


@pytest.mark.parametrize(("by", "count"), [(1, 0), (2, 1)])
def test_a_mouth_two_frames_late_is_told(by, count):
    assert kinds(late(by)).count(Kind.OFF) == count


def line_of(number, start, end, **more):
    word = Word("boat", start, end, 0.9, False, ())
    return Line(id=number, text="boat", start=start, end=end, words=(replace(word, **more),))


@pytest.mark.parametrize(("over", "count"), [(0.1, 0), (0.105, 1)])
def test_two_lines_at_once_for_more_than_a_tenth_are_told(over, count):
    lines = (line_of(1, 0.5, 1.0), line_of(2, 1.0 - over, 1.5))
    assert kinds(looked(lines=lines)).count(Kind.SPEAKERS) == count
    same = (line_of(1, 0.5, 1.0), line_of(1, 1.0 - over, 1.5))
    assert Kind.SPEAKERS not in kinds(looked(lines=same))


def test_unread_speech_is_a_frame_at_least():
    (check,) = (
        c for c in checks(looked(lines=(line_of(1, 0.5, 1.0, extra=((0.51, 0.53),)),))) if c.kind == Kind.UNREAD
    )
    assert (check.frame, check.frames) == (12, 1)


def test_a_flutter_is_told_once_a_second():
    own = looked("'ɑ:4000")
    pieces = [(2, ("ajar", "half")[n % 2]) for n in range(30)]
    busy = [c for c in checks(with_track(own, (20, "rest"), *pieces)) if c.kind == Kind.BUSY]
    assert [(c.frame, c.text) for c in busy] == [
        (20, "12 changes within a second; 10 are read."),
        (44, "12 changes within a second; 10 are read."),
    ]


def test_a_flutter_of_pins_is_not_calmed_and_another_is_by_one_more_frame_of_hold():
    own = looked("'ɑ:1500")
    pieces = [(2, ("ajar", "half")[n % 2]) for n in range(12)]
    free = with_track(own, (20, "rest"), *pieces)
    (fix,) = next(c for c in checks(free) if c.kind == Kind.BUSY).maybe
    assert (fix.what["hold"], fix.what["detail"], fix.what["frames"]) == (3, 0.25, 24)
    pinned = replace(free, exposures=tuple(replace(e, pinned=e.drawing != "rest") for e in free.exposures))
    assert tuple(next(c for c in checks(pinned) if c.kind == Kind.BUSY).maybe) == ()
    for pins, cured in ((9, True), (10, False)):
        some = tuple(replace(e, pinned=0 < n <= pins) for n, e in enumerate(free.exposures))
        busy = next(c for c in checks(replace(free, exposures=some)) if c.kind == Kind.BUSY)
        assert bool(tuple(busy.maybe)) == cured
    longest = looked("'ɑ:1500", Settings(hold=12))
    assert tuple(next(c for c in checks(with_track(longest, (20, "rest"), *pieces)) if c.kind == Kind.BUSY).maybe) == ()


def test_a_cure_leaves_no_bit_of_less_than_a_hold_of_what_it_lies_on():
    own = looked(BOAT, change=lambda track: verbs.lay(track, 28, [Piece(0, 12, "press")]))
    for check in found(own, Kind.SHUT):
        after = tried(own, check.fix)
        assert all(e.frames >= 2 for e in after.runs() if e.end > 28 and e.frame < 40)


def test_a_mouth_that_is_open_where_nothing_is_heard_is_told_from_one_frame_on():
    own = looked(BOAT, change=show(52, 1, "open"))
    assert Kind.OPEN in kinds(own)
    assert Kind.OPEN not in kinds(looked())
    assert CHART is own.chart


@pytest.mark.parametrize(("first", "told"), [(5, False), (6, True)])
def test_a_line_that_begins_in_the_first_six_frames_is_not_judged(first, told):
    own = late(4)
    (line,) = own.lines
    assert (Kind.OFF in kinds(replace(own, lines=(replace(line, start=first / 24 + 0.001),)))) == told


@pytest.mark.parametrize(("beside", "told"), [(1, False), (2, True)])
def test_where_rest_closes_it_may_stand_two_frames_beside_a_closure(beside, told):
    """From so many frames after one on, for two frames."""
    chart = Chart(tuple(Drawing(name, SHAPES[name].place) for name in ("rest", "open", "half")))
    own = looked("'ɑ:400 m:83 'ɑ:600", chart=chart)
    (closure,) = (own.curves.touched(t) for t in own.curves.targets if t.shape == "press")
    at = closure.stop + beside
    track = (Exposure(0, at, "open"), Exposure(at, 2, "rest"), Exposure(at + 2, own.exposures[-1].end - at - 2, "open"))
    found = [(c.frame, c.frames) for c in checks(replace(own, exposures=track)) if c.kind == Kind.REST]
    assert (found == [(at, 2)]) == told


@pytest.mark.parametrize(("frames", "told"), [(11, False), (12, True)])
def test_a_line_of_less_than_twelve_frames_is_not_judged(frames, told):
    own = late(4)
    (line,) = own.lines
    short = replace(line, end=line.start + frames / 24)
    assert (Kind.OFF in kinds(replace(own, lines=(short,)))) == told


@pytest.mark.parametrize(("end", "told"), [(59, True), (60, False)])
def test_a_line_that_ends_in_the_last_six_frames_is_not_judged(end, told):
    own = late(4)
    assert own.exposures[-1].end == 65
    (line,) = own.lines
    assert (Kind.OFF in kinds(replace(own, lines=(replace(line, end=end / 24 + 0.001),)))) == told


@pytest.mark.parametrize(
    ("levels", "told"),
    [
        ((0.2, 0.1, 0.9, 0.2, 0.2, 0.1, 0.7, 0.4, 0.9), False),  # better by 0.079
        ((0.4, 0.1, 0.9, 0.0, 0.4, 0.3, 0.1, 0.4, 0.8), True),  # better by 0.081
    ],
)
def test_a_line_is_late_where_it_agrees_eight_hundredths_better_elsewhere(levels, told):
    own = late(2)
    (line,) = own.lines
    (word,) = line.words
    sounds = tuple(replace(sound, level=level) for sound, level in zip(word.sounds, levels, strict=True))
    assert (Kind.OFF in kinds(replace(own, lines=(replace(line, words=(replace(word, sounds=sounds),)),)))) == told


@pytest.mark.parametrize("hold", [2, 3])
@pytest.mark.parametrize("by", [2, 3, -2, -3])
def test_a_line_slides_back_by_what_it_is_late_or_early_or_one_less(by, hold):
    own = late(by, hold)
    (check,) = (c for c in checks(own) if c.kind == Kind.OFF)
    mouths = [e.frame for e in own.exposures[1:-1]]
    assert [(fix.what["by"], fix.what["border"], fix.what["at"]) for fix in check.maybe] == [
        (back, border, mouths) for back in (-by, 1 - by if by > 0 else -1 - by) for border in ("squeeze", "overwrite")
    ]


def test_what_slides_back_are_the_mouths_of_the_line_and_not_those_beside_it():
    """From as early as the lead asks for and a hold takes, to its end and what it is late."""
    own = late(3)
    (check,) = (c for c in checks(own) if c.kind == Kind.OFF)
    ends = check.frame + check.frames + 3
    beside = [Exposure(0, 9, "rest"), Exposure(9, 1, "open"), *own.exposures[1:-1]]
    beside = [replace(e, frame=10, frames=e.end - 10) if e.frame == 13 else e for e in beside]
    last = beside.pop()
    beside += [replace(last, frames=ends - last.frame), Exposure(ends, own.exposures[-1].end - ends, "open")]
    (found,) = (c for c in checks(replace(own, exposures=tuple(beside))) if c.kind == Kind.OFF)
    at = next(iter(found.maybe)).what["at"]
    assert (at[0], at[-1]) == (10, last.frame)


@pytest.mark.parametrize(
    ("beside", "places"),
    [
        (5, [(24 + 1, 3), (24, 3), (23, 3)]),
        (4, [(23, 3), (24, 3), (24, 5), (22, 3), (20, 5)]),
    ],
)
def test_a_flash_is_held_where_it_leaves_nothing_of_less_than_a_hold(beside, places):
    """As early as the lead asks, where it is, and later; what would be left of its neighbours goes with it."""
    own = looked("'ɑ:1500", Settings(hold=3))
    seen = with_track(own, (20, "rest"), (beside, "open"), (1, "half"), (beside, "ajar"), (6, "open"))
    (flash,) = (c for c in checks(seen) if c.kind == Kind.FLASH)
    found = [(fix.what["frame"], fix.what["pieces"][0][1]) for fix in flash.maybe if fix.label == "Hold it"]
    assert sorted(found) == sorted(places)
