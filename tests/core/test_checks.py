"""What looks wrong is found where it is, with its figure and a cure that works; what looks right is left in peace."""

from dataclasses import replace
from fractions import Fraction

import pytest

from tests.speech import say
from tinfork.core.exposure import verbs
from tinfork.core.exposure.checks import Kind, Looked, checks
from tinfork.core.exposure.cures import tried, with_cures
from tinfork.core.exposure.curves import curves
from tinfork.core.exposure.plan import dials, plan
from tinfork.core.exposure.track import Exposure, Settings
from tinfork.core.exposure.verbs import Piece
from tinfork.core.mouths.chart import Chart, Drawing, built_in
from tinfork.core.mouths.shapes import SHAPES
from tinfork.core.speech.reading import Line, Word

FPS = Fraction(24)
CHART = built_in()
BOAT = "b:80 'oʊ:200 t:90 _:500 m:90 'ɑ:260 p:90 'i:200 _:600"


def looked(text=BOAT, settings=None, chart=CHART, change=lambda track: track, lines=None):
    dial = settings or Settings()
    sounds, seconds = say(text)
    shape = curves(sounds, seconds, FPS)
    track = change(tuple(replace(e, sounds=()) for e in plan(shape, chart, dial)))
    word = Word("boat", sounds[0].start, sounds[-1].end, 0.9, False, tuple(sounds))
    line = Line(id=1, text="boat", start=word.start, end=word.end, words=(word,))
    return Looked(track, shape, chart, dials(shape.frames, FPS, dial), (line,) if lines is None else lines)


def found(own, kind):
    return [check for check in with_cures(own, checks(own)) if check.kind == kind]


def cured(own, check):
    """What there is after the one click."""
    return tried(own, check.fix)


def pinned(frame, frames, drawing):
    return lambda track: verbs.keep(show(frame, frames, drawing)(track), [frame])


def show(frame, frames, drawing):
    return lambda track: verbs.lay(track, frame, [Piece(0, frames, drawing)])


@pytest.mark.parametrize("detail", [0.0, 0.5, 1.0])
def test_what_is_planned_is_in_order(detail):
    own = looked(BOAT, Settings(detail=detail), lines=())
    assert not [check for check in checks(own) if check.kind != Kind.BUSY]


@pytest.mark.parametrize(
    ("kind", "change", "figure"),
    [
        (Kind.FLASH, show(33, 1, "tuck"), "1 frame; the hold is 2"),
        (Kind.EMPTY, show(20, 3, ""), "for 3 frames"),
        (Kind.OPEN, show(53, 4, "open"), "open for 4 frames"),
        (Kind.CLOSURE, show(10, 50, "ajar"), "is not seen"),
        (Kind.SHUT, show(28, 14, "press"), "stays shut"),
    ],
)
def test_what_a_person_set_wrong_is_found_and_one_click_cures_it(kind, change, figure):
    own = looked(change=change)
    (first, *_) = found(own, kind)
    assert figure in first.text
    before = len(found(own, kind))
    if first.fix.verb != "free":
        assert len(found(cured(own, first), kind)) < before


def test_a_closure_is_missed_and_not_one_that_is_seen():
    assert not found(looked(), Kind.CLOSURE)
    only_p = [e.frame for e in looked().exposures if e.drawing == "press"][-1]
    own = looked(change=lambda track: verbs.show(track, [only_p], "open"))
    (missed,) = found(own, Kind.CLOSURE)
    assert only_p <= missed.frame + missed.frames
    assert not found(cured(own, missed), Kind.CLOSURE)


def test_the_same_mouth_twice_is_a_double_unless_lips_close_between():
    lay = looked(
        change=lambda track: verbs.lay(track, 28, [Piece(0, 3, "open"), Piece(3, 1, "half"), Piece(4, 3, "open")])
    )
    (double,) = found(lay, Kind.DOUBLE)
    assert (double.frame, double.frames) == (31, 1)
    assert "“open” is seen twice, with “half” for 1 frame between" in double.text
    closes = looked(
        change=lambda track: verbs.lay(track, 28, [Piece(0, 3, "open"), Piece(3, 1, "press"), Piece(4, 3, "open")])
    )
    assert not found(closes, Kind.DOUBLE)


def test_rest_in_a_word_follows_the_sound_again():
    own = looked("'ɑ:900 'i:900", change=pinned(20, 4, "rest"))
    (rest,) = found(own, Kind.REST)
    assert (rest.frame, rest.frames) == (20, 4)
    assert rest.fix.verb == "free"
    assert not found(looked("'ɑ:900 'i:900", change=show(20, 1, "rest")), Kind.REST)


@pytest.mark.parametrize("by", [3, -3])
def test_a_line_that_opens_late_or_early_is_slid_back(by):
    text = "b:80 'ɑ:240 p:90 'i:150 b:90 'ɔ:260 _:120 m:90 'ɑ:260 p:90"
    assert not found(looked(text), Kind.OFF)

    def moved(track):
        frames = [e.frame for e in track[1:-1]]
        return verbs.slide(track, frames, by, verbs.Border.OVERWRITE)

    own = looked(text, change=moved)
    (off,) = found(own, Kind.OFF)
    assert f"{abs(by)} frames {'later' if by > 0 else 'earlier'}" in off.text
    assert off.fix.what["by"] == -by
    assert not found(cured(own, off), Kind.OFF)
    assert not found(looked(text, change=lambda track: verbs.slide(track, [e.frame for e in track[1:-1]], 1)), Kind.OFF)


@pytest.mark.parametrize(("pieces", "counted"), [(9, 0), (10, 1)])
def test_a_flutter_is_more_than_ten_changes_within_a_second(pieces, counted):
    own = looked("'ɑ:1500")
    end = own.exposures[-1].end
    flutter = tuple(Exposure(20 + 2 * n, 2, ("ajar", "half")[n % 2]) for n in range(pieces))
    after = 20 + 2 * pieces
    track = (Exposure(0, 20, "rest"), *flutter, Exposure(after, end - after, "rest"))
    assert len(found(replace(own, exposures=track), Kind.BUSY)) == counted


def test_what_the_chart_lacks_is_said_once_with_what_stands_in():
    chart = Chart(tuple(Drawing(name, SHAPES[name].place) for name in ("rest", "press", "open")))
    lacking = found(looked(BOAT, chart=chart), Kind.UNCOVERED)
    assert [check.text for check in lacking] == [
        "The chart has nothing for teeth (1×, “rest” stands in), spread (1×, “rest” stands in), "
        "round (1×, “open” stands in), purse (1×, “rest” stands in)."
    ]
    assert not found(looked(), Kind.UNCOVERED)


def test_words_that_are_unread_out_of_order_or_said_at_once():
    own = looked()
    (line,) = own.lines
    word = line.words[0]
    half = replace(word, start=1.0, end=1.4, at=(0, 1), sounds=word.sounds[:1])
    early = replace(word, at=(0, 2), start=0.5, end=0.9, sounds=word.sounds[:1], extra=((2.0, 2.5),))
    lines = (replace(line, words=(early, half)), replace(line, id=2, start=1.5, words=(word,)))
    strange = replace(own, lines=lines)
    assert "0.5 s of speech" in found(strange, Kind.UNREAD)[0].text
    assert "is heard before" in found(strange, Kind.ORDER)[0].text
    assert "at once for" in found(strange, Kind.SPEAKERS)[0].text


def test_a_chart_whose_shut_mouth_rests_and_closes_is_not_blamed_for_resting():
    chart = Chart(tuple(Drawing(name, SHAPES[name].place) for name in ("rest", "open", "half")))
    assert not found(looked("'ɑ:200 m:90 'ɑ:200 b:90 'ɑ:200", chart=chart), Kind.REST)


def test_an_exposure_that_begins_before_what_is_looked_at_is_seen_from_there():
    own = looked()
    sounds, seconds = say(BOAT)
    part = curves(sounds, seconds, FPS, frames=range(30, 60))
    near = tuple(e for e in own.exposures if e.end > 30 and e.frame < 60)
    cut = tuple(Exposure(max(30, e.frame), min(60, e.end) - max(30, e.frame), e.drawing) for e in near)
    assert not [
        c for c in checks(Looked(cut, part, CHART, dials(part.frames, FPS, Settings()))) if c.kind != Kind.FLASH
    ]
