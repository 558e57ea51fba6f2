"""Readings, mouths, pins and marks belong to the sound and move with it."""

import pytest

from tinfork.web.reading.planning import placed_pins, scene_reading
from tinfork.web.script.actions import script_of
from tinfork.web.sound.arranging import arrangement_of


def starts(ferry):
    return [word.start for word in scene_reading(ferry.fresh).words()]


def track(ferry):
    return [(e.frame, e.frames, e.drawing) for e in ferry.fresh.the_exposures()]


def the_clip(ferry):
    return arrangement_of(ferry.scene).value.clips[0]


def test_words_mouths_and_pins_slide_with_their_clip_and_come_back(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    words, mouths = starts(ferry), track(ferry)
    assert ferry.sound(ferry.owner, "slide", clips=[the_clip(ferry).id], by=12, ripple=False).status_code == 200
    assert starts(ferry) == pytest.approx([start + 0.5 for start in words], abs=1e-5)
    assert placed_pins(ferry.fresh)[0][0].frame == 22
    moved = track(ferry)
    assert (22, 3, "purse") in moved
    assert moved[0][0] == 0
    assert moved[0][2] == "rest"
    ferry.sound(ferry.owner, "undo")
    assert starts(ferry) == words
    assert track(ferry) == mouths
    ferry.sound(ferry.owner, "redo")
    assert track(ferry) == moved


def test_what_is_trimmed_away_is_hidden_and_not_lost(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    words, clip = starts(ferry), the_clip(ferry)
    ferry.sound(ferry.owner, "trim", clip=clip.id, first=30, end=clip.end)
    assert len(starts(ferry)) < len(words)
    assert placed_pins(ferry.fresh)[0] == ()
    assert ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()["pinsHidden"] == 1
    ferry.edit(ferry.owner, "pin", frame=40, frames=2, drawing="open")
    ferry.sound(ferry.owner, "trim", clip=clip.id, first=0, end=clip.end)
    assert starts(ferry) == words
    assert [(p.frame, p.drawing) for p in placed_pins(ferry.fresh)[0]] == [(10, "purse"), (40, "open")]


def test_split_halves_move_apart_with_their_words(ferry):
    words = starts(ferry)
    answer = ferry.sound(ferry.owner, "split", clips=[the_clip(ferry).id], frame=36).json()["document"]
    first, second = answer["tracks"][0]["clips"]
    assert starts(ferry) == words
    ferry.sound(ferry.owner, "slide", clips=[second["id"]], by=48, ripple=False)
    after = starts(ferry)
    assert [start for start in after if start < 1.5] == [start for start in words if start < 1.5]
    assert set(after) >= {round(start + 2, 6) for start in words if start >= 1.5}
    assert (first["frames"], second["offset"]) == (36, 36)


def test_an_edit_made_on_an_older_arrangement_is_refused(ferry):
    version = arrangement_of(ferry.scene).version
    clip = the_clip(ferry).id
    ferry.sound(ferry.owner, "slide", version, clips=[clip], by=12, ripple=False)
    answer = ferry.sound(ferry.owner, "slide", version, clips=[clip], by=12, ripple=False)
    assert answer.status_code == 409
    assert "changed meanwhile (slide, by owner)" in answer.json()["problem"]
    assert the_clip(ferry).start == 12


def test_the_desk_hears_that_its_track_moved(ferry):
    version = ferry.fresh.version
    ferry.sound(ferry.owner, "slide", clips=[the_clip(ferry).id], by=12, ripple=False)
    assert ferry.edit(ferry.owner, "pin", version, frame=1, frames=2, drawing="open").status_code == 409


@pytest.mark.parametrize(
    "what",
    [
        {"verb": "slide", "clips": [99], "by": 1, "ripple": False},
        {"verb": "slide", "clips": [1], "by": 10**9, "ripple": False},
        {"verb": "slide", "clips": "all", "by": 1, "ripple": False},
        {"verb": "slide", "clips": [1], "by": 1.5, "ripple": False},
        {"verb": "trim", "clip": 2, "first": 50, "end": 50},
        {"verb": "split", "clips": [2], "frame": 0},
        {"verb": "delete", "clips": [], "ripple": True},
        {"verb": "cut-out", "first": 9, "end": 3, "tracks": None, "ripple": True},
        {"verb": "gain", "clip": 2, "gain": 1e308},
        {"verb": "add-track", "kind": "video", "name": "x", "character": None},
        {"verb": "add-track", "kind": "dialogue", "name": "x", "character": 10**6},
        {"verb": "track", "track": 77, "muted": True},
        {"verb": "length", "frames": 0},
        {"verb": "mark", "mark": 5, "start": 1, "end": 2},
        {"verb": "pass", "character": 0, "held": [[0, 1]], "first": 0, "end": 2},
        {"verb": "pass", "character": 1, "held": [[0, "nan"]], "first": 0, "end": 2},
        {"verb": "undo"},
        {"verb": "fly"},
    ],
)
def test_an_edit_that_cannot_be_is_a_sentence(ferry, what):
    before = arrangement_of(ferry.scene)
    answer = ferry.sound(ferry.owner, what.pop("verb"), **what)
    assert answer.status_code == 422
    assert answer.json()["problem"].endswith(".")
    after = arrangement_of(ferry.scene)
    assert (after.version, after.body) == (before.version, before.body)


def test_tracks_are_muted_set_solo_named_and_taken_away(ferry):
    answer = ferry.sound(ferry.owner, "add-track", kind="music", name="Foghorn", character=None).json()["document"]
    music = answer["tracks"][1]
    assert (music["kind"], music["name"]) == ("music", "Foghorn")
    ferry.sound(ferry.owner, "track", track=music["id"], muted=True, gain=-6.5)
    changed = ferry.sound(ferry.owner, "track", track=music["id"], solo=True, name="Bell").json()["document"]
    assert {k: changed["tracks"][1][k] for k in ("muted", "solo", "gain", "name")} == {
        "muted": True,
        "solo": True,
        "gain": -6.5,
        "name": "Bell",
    }
    gone = ferry.sound(ferry.owner, "remove-track", track=music["id"]).json()["document"]
    assert len(gone["tracks"]) == 1


def test_a_set_length_hides_and_shows(ferry):
    words = starts(ferry)
    ferry.sound(ferry.owner, "length", frames=30)
    assert ferry.fresh.the_exposures()[-1].end == 30
    assert 0 < len(starts(ferry)) < len(words)
    ferry.sound(ferry.owner, "length", frames=None)
    assert starts(ferry) == words


def test_a_live_pass_marks_moves_and_limits_the_mouth(ferry):
    before = track(ferry)
    held = [[0.4, 1.2]]
    answer = ferry.sound(ferry.owner, "pass", character=ferry.stave.character_id, held=held, first=0, end=3)
    (mark,) = answer.json()["document"]["marks"]
    assert mark["start"] < 0.4
    assert mark["end"] == pytest.approx(1.0, abs=0.35)
    last = max(frame + frames for frame, frames, drawing in track(ferry) if drawing != "rest")
    assert last <= mark["end"] * 24 + 6
    assert track(ferry) != before
    ferry.sound(ferry.owner, "slide", clips=[the_clip(ferry).id], by=24, ripple=False)
    moved = arrangement_of(ferry.scene).the_marks.marks[0]
    assert moved.start == pytest.approx(mark["start"] + 1)
    ferry.sound(ferry.owner, "undo")
    ferry.sound(ferry.owner, "mark", mark=mark["id"], start=0.0, end=3.0)
    ferry.sound(ferry.owner, "remove-mark", mark=mark["id"])
    assert track(ferry) == before


def test_times_brought_with_a_script_follow_the_sound(ferry):
    srt = "1\n00:00:00,500 --> 00:00:01,000\nMarit: Fog.\n"
    client = ferry.client(ferry.owner)
    client.post(f"/scenes/{ferry.scene.pk}/script/import", {"text": srt})
    ferry.sound(ferry.owner, "slide", clips=[the_clip(ferry).id], by=24, ripple=False)
    line = script_of(ferry.scene).value.lines[-1]
    assert (line.start, line.end) == (1.5, 2.0)
    ferry.sound(ferry.owner, "undo")
    assert script_of(ferry.scene).value.lines[-1].start == 0.5
