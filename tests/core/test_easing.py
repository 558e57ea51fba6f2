"""Seams that are eased: what is seen of both drawings, and that every drawing is seen whole."""

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tinfork.core.errors import TrackError
from tinfork.core.exposure.easing import blends, check_ease
from tinfork.core.exposure.track import Exposure


def track(*rows):
    """Exposures of a drawing and frames each, one after the other."""
    found, frame = [], 0
    for drawing, frames in rows:
        found.append(Exposure(frame, frames, drawing))
        frame += frames
    return found


def shares(exposures, ease):
    return {b.frame: (b.before.drawing, b.after.drawing, round(b.weight, 3)) for b in blends(exposures, ease)}


def test_a_seam_is_eased_about_its_frame_and_a_cut_is_not():
    own = track(("rest", 6), ("open", 6), ("press", 6))
    assert shares(own, lambda seam: 4 if seam == 6 else 0) == {
        4: ("rest", "open", 0.043),
        5: ("rest", "open", 0.316),
        6: ("rest", "open", 0.684),
        7: ("rest", "open", 0.957),
    }
    assert shares(own, lambda seam: 3 if seam == 12 else 1) == {
        11: ("open", "press", 0.259),
        12: ("open", "press", 0.741),
    }


def test_between_the_same_drawings_nothing_is_eased():
    assert not shares(track(("open", 6), ("open", 6), ("", 4)), lambda seam: 4 if seam == 6 else 0)


@given(
    st.lists(st.tuples(st.sampled_from(["rest", "open", "press", ""]), st.integers(1, 9)), min_size=1, max_size=12),
    st.integers(0, 12),
)
def test_every_drawing_is_seen_whole_in_its_middle(rows, ease):
    own = track(*rows)
    found = list(blends(own, lambda seam: ease))
    frames = [b.frame for b in found]
    assert len(frames) == len(set(frames)), "two drawings at once and never three"
    for b in found:
        assert 0 < b.weight < 1
        mirrored = next(o for o in found if o.after is b.after and o.frame == 2 * b.after.frame - 1 - b.frame)
        assert mirrored.weight == pytest.approx(1 - b.weight)
        assert abs(b.frame + 0.5 - b.after.frame) < min(b.before.frames, b.after.frames) / 2


def test_what_the_browser_is_held_against_is_what_the_engine_says():
    table = json.loads((Path(__file__).parents[1] / "easing.json").read_text())
    for before, after, ease, at, share in table:
        own = track(("rest", before), ("open", after))
        found = {b.frame - before: b.weight for b in blends(own, lambda seam, ease=ease: ease)}
        assert found.get(at, 0.0 if at < 0 else 1.0) == pytest.approx(share)


@pytest.mark.parametrize("frames", [-1, 13])
def test_a_seam_is_eased_over_a_few_frames_only(frames):
    with pytest.raises(TrackError, match="0 to 12 frames"):
        check_ease(frames)
