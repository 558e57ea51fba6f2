"""Next, on the desk: it says hand over only when no speech is unread and no check is open."""

import pytest

from tests.web.test_exposing import done
from tests.web.test_scale import queries
from tinfork.web.pages.next_step import step_of
from tinfork.web.staves.seeing import track_of


def means_all(ferry):
    """Everything that is to be looked at is meant so."""
    frames = track_of(ferry.fresh)[-1].end
    found = ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/checks?first=0&end={frames}").json()["checks"]
    for one in found:
        done(ferry.edit(ferry.owner, "meant so", frame=one["frame"], frames=one["frames"], kind=one["kind"]))


@pytest.fixture
def clean(ferry):
    """The ferry's scene with nothing open."""
    means_all(ferry)
    return ferry


def looked(ferry):
    return step_of(ferry.scene, "desk", look=True)


def test_what_is_not_known_is_not_said_and_a_clean_scene_is_handed_over(clean):
    done(clean.edit(clean.owner, "pin", frame=20, frames=4, drawing="tuck"))
    done(clean.edit(clean.owner, "undo"))
    assert step_of(clean.scene, "desk") == ("desk", "watch and correct")
    assert looked(clean) == ("handover", "hand over")
    assert step_of(clean.scene, "desk") == ("handover", "hand over")


def test_an_open_check_comes_first_until_it_is_meant_so(clean):
    done(clean.edit(clean.owner, "lay", frame=30, pieces=[[0, 3, ""]]))
    assert looked(clean) == ("desk", "look at the checks")
    answer = clean.client(clean.owner).get(f"/scenes/{clean.scene.pk}/next?view=desk")
    assert "look at the checks" in answer.content.decode()
    means_all(clean)
    assert looked(clean) == ("handover", "hand over")


def test_speech_nobody_wrote_comes_first_until_it_is_written(clean):
    stave = clean.fresh
    line = next(iter(stave.where))
    (source, _, end, _), *_ = stave.where[line]
    stave.where[line].append([source, end, end + 0.14, False])
    stave.save()
    assert looked(clean) == ("handover", "hand over"), "too short to be a word"
    stave.where[line][-1][2] = end + 0.16
    stave.save()
    assert looked(clean) == ("desk", "write what was said")


def test_what_is_known_is_not_looked_for_again(clean):
    looked(clean)
    assert queries(lambda: looked(clean)) <= 8
