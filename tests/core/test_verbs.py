"""What people do to exposures: what is seen afterwards, frame by frame, and that no frame is ever lost."""

import itertools
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import TrackError
from tinfork.core.exposure import verbs
from tinfork.core.exposure.track import Exposure
from tinfork.core.exposure.verbs import Border, Piece

NAMES = {"-": "rest", "p": "press", "o": "open", "s": "spread", "a": "ajar", "u": "purse", ".": ""}


def track(text, pinned=""):
    """Exposures of a text with a letter for each frame; a bar parts two of the same drawing. pinned: letters of those
    that are."""
    found = []
    for part in text.split("|"):
        frame = found[-1].end if found else 0
        for n, letter in enumerate(part, frame):
            if n > frame and found[-1].drawing == NAMES[letter]:
                found[-1] = replace(found[-1], frames=found[-1].frames + 1)
            else:
                found.append(Exposure(n, 1, NAMES[letter], letter in pinned))
    return tuple(found)


def text(exposures):
    letter = {name: one for one, name in NAMES.items()}
    shown = ""
    for before, e in zip((None, *exposures), exposures, strict=False):
        shown += ("|" if before and before.drawing == e.drawing else "") + letter[e.drawing] * e.frames
    return shown


def pins(before, after, **how):
    return [(p.frame, p.frames, p.drawing) for p in verbs.decided(before, after, **how)]


BOAT = track("----ppoooosss---")


def test_another_drawing_takes_the_frames_of_the_exposures_that_were_selected():
    after = verbs.show(BOAT, [6, 12], "ajar")
    assert text(after) == "----ppaaaa|aaa---"
    assert pins(BOAT, after) == [(6, 4, "ajar"), (10, 3, "ajar")]
    assert all(pin.chosen for pin in verbs.decided(BOAT, after))
    assert text(verbs.show(BOAT, [6], "")) == "----pp....sss---"


def test_kept_as_it_is_an_exposure_is_pinned_and_goes_on_with_its_mood():
    (pin,) = verbs.decided(BOAT, verbs.keep(BOAT, [5]))
    assert (pin.frame, pin.frames, pin.drawing, pin.chosen) == (4, 2, "press", False)


def test_what_is_laid_covers_what_is_there_and_decides_nothing_else():
    after = verbs.lay(BOAT, 8, [Piece(0, 2, "press")])
    assert text(after) == "----ppooppsss---"
    assert pins(BOAT, after) == [(8, 2, "press")]
    assert text(verbs.lay(BOAT, 14, [Piece(0, 4, "open"), Piece(4, 2, "press")])) == "----ppoooosss-oo"
    assert text(verbs.lay(BOAT, 0, [Piece(0, 2, "open"), Piece(1, 2, "press")])) == "opp-ppoooosss---"
    with pytest.raises(TrackError, match="outside the scene"):
        verbs.lay(BOAT, 16, [Piece(0, 2, "open")])


def test_a_range_is_laid_again_and_again():
    row = verbs.stretch_of(BOAT, 5, 8)
    assert row == (Piece(0, 1, "press", False), Piece(1, 2, "open", False))
    assert text(verbs.lay(BOAT, 9, verbs.repeated(row, 2))) == "----ppooopoopoo-"
    with pytest.raises(TrackError, match="once at least"):
        verbs.repeated(row, 0)


def test_an_exposure_is_split_at_the_playhead_and_nowhere_else():
    after = verbs.split(BOAT, 8)
    assert text(after) == "----ppoo|oosss---"
    assert pins(BOAT, after, whole=True) == [(6, 2, "open"), (8, 2, "open")]
    with pytest.raises(TrackError, match="begins on this frame"):
        verbs.split(BOAT, 6)


def test_neighbours_become_one_with_the_drawing_of_the_first():
    assert text(verbs.merge(BOAT, [4, 6, 10])) == "----ppppppppp---"
    assert text(verbs.merge(BOAT, [0, 4, 10, 14])) == "------oooosssss" + "s"
    with pytest.raises(TrackError, match="side by side"):
        verbs.merge(BOAT, [4, 10])


@pytest.mark.parametrize(
    ("removed", "seams", "expected"),
    [
        ([4], None, "------oooosss---"),
        ([4], {4: 4}, "----oooooosss---"),
        ([4], {4: 5}, "-----ooooosss---"),
        ([4, 6], {4: 7}, "-------ssssss---"),
        ([0], None, "ppppppoooosss---"),
        ([13], {13: 15}, "----ppoooossssss"),
    ],
)
def test_what_is_removed_is_closed_up_by_its_neighbours(removed, seams, expected):
    assert text(verbs.remove(BOAT, removed, seams)) == expected


def test_something_must_be_left_when_exposures_are_removed():
    with pytest.raises(TrackError, match="Something must be seen"):
        verbs.remove(BOAT, [0, 4, 6, 10, 13])


@pytest.mark.parametrize(
    ("first", "frames", "expected"),
    [
        (5, 1, "-----poooosss---"),
        (4, 1, "----pooooosss---"),
        (3, 3, "---pppoooosss---"),
        (4, 5, "----ppppposss---"),
        (8, 2, "--------ppsss---"),
        (1, 2, "-ppooooooosss---"),
        (0, 99, "pppppppppppppppp"),
        (15, 1, "---------------p"),
    ],
)
def test_an_exposure_is_put_anywhere_and_its_neighbours_hold(first, frames, expected):
    assert text(verbs.span(BOAT, 4, first, frames)) == expected


def test_both_sides_of_a_new_seam_are_decided_and_no_more():
    assert pins(BOAT, verbs.span(BOAT, 4, 5, 1)) == [(0, 5, "rest"), (5, 1, "press")]
    assert pins(BOAT, verbs.span(BOAT, 4, 4, 6)) == [(4, 6, "press")]
    with pytest.raises(TrackError, match="at least one frame inside"):
        verbs.span(BOAT, 4, 16, 2)


def test_of_a_long_pause_only_what_is_beside_the_seam_is_decided():
    pause = track("-" * 40 + "ppoo" + "-" * 30)
    assert pins(pause, verbs.seam(pause, 40, 38)) == [(36, 2, "rest"), (38, 4, "press")]
    assert pins(pause, verbs.seam(pause, 40, 41)) == [(39, 2, "rest"), (41, 1, "press")]
    assert pins(pause, verbs.seam(pause, 40, 1)) == [(0, 1, "rest"), (1, 41, "press")]
    assert pins(pause, verbs.keep(pause, [0])) == [(0, 40, "rest")]
    assert pins(pause, verbs.split(pause, 20), whole=True) == [(0, 20, "rest"), (20, 20, "rest")]
    pinned = track("-" * 40 + "ppoo", pinned="-")
    assert pins(pinned, verbs.seam(pinned, 40, 38)) == [(0, 38, "rest"), (38, 4, "press")]


@pytest.mark.parametrize(
    ("to", "expected"),
    [(7, "----pppooosss---"), (5, "----poooooss" + "s---"), (12, "----pppppppps---"), (2, "--oooooooosss---")],
)
def test_a_seam_is_rolled_and_covers_what_it_passes(to, expected):
    assert text(verbs.seam(BOAT, 6, to)) == expected


def test_a_seam_is_where_an_exposure_begins():
    for frame in (7, 0):
        with pytest.raises(TrackError, match="no seam"):
            verbs.seam(BOAT, frame, 3)


def test_an_exposure_is_held_until_the_next_that_is_pinned_or_at_rest():
    assert text(verbs.hold_on(BOAT, 4, {"rest"})) == "----ppppppppp---"
    assert text(verbs.hold_on(track("--ppoooss-", "s"), 2)) == "--pppppss-"
    assert text(verbs.hold_on(BOAT, 6)) == "----pp" + "o" * 10
    with pytest.raises(TrackError, match="pinned, or at rest"):
        verbs.hold_on(BOAT, 10, {"rest"})


@pytest.mark.parametrize(
    ("frames", "by", "border", "expected"),
    [
        ([4], 1, Border.SQUEEZE, "-----ppooosss---"),
        ([4], 3, Border.SQUEEZE, "-------ppooss---"),
        ([4], 3, Border.OVERWRITE, "-------pposss---"),
        ([4], 2, Border.REFUSE, "------ppoosss---"),
        ([4, 6], 2, Border.SQUEEZE, "------ppooooss--"),
        ([4, 6], -2, Border.SQUEEZE, "--ppoooosssss---"),
        ([4, 6], -2, Border.OVERWRITE, "--ppoooosssss---"),
        ([10], -3, Border.SQUEEZE, "---ppoosss------"),
        ([10], -3, Border.OVERWRITE, "----pposss------"),
        ([4, 10], 1, Border.SQUEEZE, "-----ppoooosss--"),
        ([0], 2, Border.SQUEEZE, "------ppoosss---"),
    ],
)
def test_what_slides_is_held_behind_and_gives_way_before_as_was_said(frames, by, border, expected):
    assert text(verbs.slide(BOAT, frames, by, border, hold=2)) == expected


@pytest.mark.parametrize(
    ("frames", "by", "border", "why"),
    [
        ([4], 3, Border.REFUSE, "less than its hold"),
        ([4], 8, Border.SQUEEZE, "no room left"),
        ([13], 1, Border.SQUEEZE, "out of the scene"),
        ([4], -5, Border.OVERWRITE, "out of the scene"),
        ([], 1, Border.SQUEEZE, "Select an exposure"),
        ([99], 1, Border.SQUEEZE, "No exposure"),
    ],
)
def test_a_slide_that_cannot_be_says_why(frames, by, border, why):
    with pytest.raises(TrackError, match=why):
        verbs.slide(BOAT, frames, by, border, hold=2)


tracks = st.lists(
    st.tuples(st.integers(1, 20), st.sampled_from(["rest", "press", "open", "spread"]), st.booleans()),
    min_size=2,
    max_size=9,
)


def of_rows(rows):
    found = ()
    for frames, drawing, pinned in rows:
        found += (Exposure(found[-1].end if found else 0, frames, drawing, pinned),)
    return found


def test_what_slides_is_what_was_chosen_though_what_it_covered_is_gone():
    assert text(verbs.slide(track("-p-oo-ss--"), [1, 6], -1, Border.OVERWRITE)) == "p--ooss---"
    assert text(verbs.slide(track("-p-oo-ss-"), [1, 6], 1, Border.OVERWRITE)) == "--poo--ss"


@given(tracks, st.data())
def test_every_verb_covers_every_frame_once_and_keeps_what_it_did_not_touch(rows, data):
    before = of_rows(rows)
    end = before[-1].end
    frame = st.integers(0, end - 1)
    many = st.lists(frame, min_size=1, max_size=4)
    by = st.integers(-6, 6)
    verb = data.draw(
        st.sampled_from(
            [
                lambda: verbs.show(before, data.draw(many), "purse"),
                lambda: verbs.lay(before, data.draw(frame), [Piece(0, 3, "purse"), Piece(5, 2, "ajar")]),
                lambda: verbs.split(before, data.draw(frame)),
                lambda: verbs.merge(before, data.draw(many)),
                lambda: verbs.remove(before, data.draw(many), {data.draw(frame): data.draw(frame)}),
                lambda: verbs.span(before, data.draw(frame), data.draw(frame), data.draw(st.integers(1, 30))),
                lambda: verbs.seam(before, data.draw(frame), data.draw(frame)),
                lambda: verbs.hold_on(before, data.draw(frame), {"rest"}),
                lambda: verbs.slide(before, data.draw(many), data.draw(by), data.draw(st.sampled_from(Border)), 2),
                lambda: verbs.keep(before, data.draw(many)),
            ]
        )
    )
    try:
        after = verb()
    except TrackError:
        return
    assert after[0].frame == 0 and after[-1].end == end
    assert all(one.end == next_one.frame for one, next_one in itertools.pairwise(after))
    assert all(e.frames > 0 for e in after)
    shown = {frame: e.drawing for e in after for frame in range(e.frame, e.end)}
    decided = verbs.decided(before, after)
    assert all(shown[frame] == pin.drawing for pin in decided for frame in range(pin.frame, pin.end))
    sure = {frame for pin in decided for frame in range(pin.frame, pin.end)}
    differs = {frame for e in before for frame in range(e.frame, e.end) if shown[frame] != e.drawing}
    assert differs <= sure
