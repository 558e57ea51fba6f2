"""An edit moves only what it must, and undo, redo, takes and moves of the sound show the same frames again."""

import json

import pytest

from tests.web.test_correcting import reads
from tests.web.test_exposing import done, rows, shown
from tinfork.core.timebase import frame_at
from tinfork.web.edits.models import Edit
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.staves.planning import scene_reading


def word(ferry, number):
    return scene_reading(ferry.fresh).lines[0].words[number]


def nudged(ferry, number, by=0.06):
    """The seam before a word moved a little; the frames between which that is."""
    before = word(ferry, number)
    done(ferry.edit(ferry.owner, "edge", at=[0, number], edge=0, time=before.start + by))
    neighbour = word(ferry, number - 1)
    return frame_at(neighbour.start, ferry.scene.fps) - 2, frame_at(before.end, ferry.scene.fps) + 2


def test_a_moved_seam_leaves_what_lies_off_as_it_was(ferry):
    before = shown(ferry.fresh)
    first, end = nudged(ferry, 3)
    after = shown(ferry.fresh)
    changed = [frame for frame, (was, now) in enumerate(zip(before, after, strict=True)) if was != now]
    assert changed
    assert all(first - 4 <= frame < end + 4 for frame in changed)


def test_undo_and_redo_show_exactly_what_was_seen(ferry):
    seen = [rows(ferry.fresh)]
    for number in (2, 4, 3):
        nudged(ferry, number)
        seen.append(rows(ferry.fresh))
    done(ferry.edit(ferry.owner, "pin", frame=20, frames=3, drawing="tuck"))
    seen.append(rows(ferry.fresh))
    for want in reversed(seen[:-1]):
        done(ferry.edit(ferry.owner, "undo"))
        assert rows(ferry.fresh) == want
    for want in seen[1:]:
        done(ferry.edit(ferry.owner, "redo"))
        assert rows(ferry.fresh) == want


def test_a_clip_takes_its_track_along_and_undo_brings_it_back(ferry):
    done(ferry.edit(ferry.owner, "pin", frame=20, frames=3, drawing="tuck"))
    nudged(ferry, 3)
    before = shown(ferry.fresh)
    clip = arrangement_of(ferry.scene).value.clips[0].id
    assert ferry.sound(ferry.owner, "slide", clips=[clip], by=30, ripple=False).status_code == 200
    after = shown(ferry.fresh)
    assert after[38 : len(before) + 22] == before[8:-8]
    assert ferry.sound(ferry.owner, "undo").status_code == 200
    assert shown(ferry.fresh)[: len(before)] == before


def test_a_take_brings_back_what_was_seen_and_follows_a_new_reading(ferry):
    nudged(ferry, 3)
    done(ferry.edit(ferry.owner, "pin", frame=20, frames=3, drawing="tuck"))
    kept = rows(ferry.fresh)
    client = ferry.client(ferry.owner)
    url = f"/staves/{ferry.stave.pk}/takes"
    take = client.post(url, json.dumps({"name": "noon"}), "application/json").json()["takes"][0]["id"]
    done(ferry.edit(ferry.owner, "pin", frame=40, frames=4, drawing="purse"))
    done(ferry.edit(ferry.owner, "unpin", frame=20))
    done(ferry.edit(ferry.owner, "restore take", take=take))
    assert rows(ferry.fresh) == kept


def test_planning_anew_is_told_before_it_is_done(ferry):
    client = ferry.client(ferry.owner)
    url = f"/staves/{ferry.stave.pk}/anew"
    assert client.get(url).json()["frames"] == 0
    for number in (2, 3, 4, 5):
        nudged(ferry, number, 0.05)
        nudged(ferry, number, -0.05)
    done(ferry.edit(ferry.owner, "pin", frame=20, frames=3, drawing="tuck"))
    done(ferry.edit(ferry.owner, "unpin", frame=20))
    told = client.get(url).json()
    before = shown(ferry.fresh)
    done(ferry.edit(ferry.owner, "plan anew"))
    after = shown(ferry.fresh)
    assert [[e[0], e[1], e[2]] for e in told["exposures"]] == [list(row) for row in rows(ferry.fresh)]
    assert sum(was != now for was, now in zip(before, after, strict=True)) <= told["frames"]
    assert client.get(url).json()["frames"] == 0
    assert ferry.client(ferry.stranger).get(url).status_code == 404


def test_a_reading_that_moves_nothing_that_is_seen_moves_no_mouth(ferry):
    done(ferry.edit(ferry.owner, "pin", frame=20, frames=3, drawing="tuck"))
    before = rows(ferry.fresh)
    reads(ferry)
    assert rows(ferry.fresh) == before


def test_what_is_left_of_a_pin_in_less_than_a_hold_goes_with_it(ferry):
    done(ferry.edit(ferry.owner, "pin", frame=20, frames=4, drawing="tuck"))
    done(ferry.edit(ferry.owner, "lay", frame=21, pieces=[[0, 4, "purse"]]))
    pins = [(e.frame, e.frames, e.drawing) for e in ferry.track if e.pinned]
    assert pins == [(21, 4, "purse")]
    runs = rows(ferry.fresh)
    assert all(frames >= 2 for frame, frames, _ in runs if frame not in (0, 20))


def test_a_rest_is_not_taken_away_where_nobody_speaks(ferry):
    end = ferry.track[-1]
    assert end.drawing == "rest" or ferry.sound(ferry.owner, "length", frames=200).status_code == 200
    frame = ferry.track[-1].end - 4
    answer = ferry.edit(ferry.owner, "remove", at=[frame])
    assert answer.status_code == 422
    assert "Nobody speaks here" in answer.json()["problem"]
    done(ferry.edit(ferry.owner, "lay", frame=frame - 8, pieces=[[0, 4, "open"]]))
    done(ferry.edit(ferry.owner, "remove", at=[frame - 8]))
    assert shown(ferry.fresh)[frame - 8 : frame] == ["rest"] * 8


def test_what_an_edit_keeps_is_small(ferry):
    nudged(ferry, 3)
    assert len(bytes(Edit.objects.last().derived)) < 2_000


@pytest.mark.parametrize("verb", ["undo", "redo"])
def test_there_is_nothing_to_go_back_to_at_the_ends(ferry, verb):
    assert ferry.edit(ferry.owner, verb).status_code == 422


def test_where_two_clips_come_to_lie_together_the_track_follows_both(ferry):
    own = arrangement_of(ferry.scene)
    sound = ferry.scene.production.sounds.get()
    place_sound(ferry.owner, own, sound, 200, ferry.stave.character)
    reads(ferry)
    later = next(c for t in arrangement_of(ferry.scene).value.tracks for c in t.clips if c.start == 200)
    done(ferry.edit(ferry.owner, "pin", frame=230, frames=3, drawing="tuck"))
    ferry.sound(ferry.owner, "add-track", kind="dialogue", name="Again", character=ferry.stave.character_id)
    track = arrangement_of(ferry.scene).value.tracks[-1]
    assert ferry.sound(ferry.owner, "move", clip=later.id, track=track.id).status_code == 200
    assert shown(ferry.fresh)
    assert ferry.sound(ferry.owner, "slide", clips=[later.id], by=-170, ripple=False).status_code == 200
    together = slice(34, 66)
    kept = shown(ferry.fresh)[together]
    done(ferry.edit(ferry.owner, "plan anew"))
    assert kept == shown(ferry.fresh)[together]
