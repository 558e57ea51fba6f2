"""Readings, mouths, pins and marks belong to the sound and move with it."""

import threading

import pytest
from django.db import connection

from tinfork.web.productions.actions import create_character
from tinfork.web.script import actions
from tinfork.web.script.actions import add_text, in_scene, script_of
from tinfork.web.sound import arranging
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.placing import Placed
from tinfork.web.staves.planning import scene_reading
from tinfork.web.staves.seeing import track_of


def starts(ferry):
    return [word.start for word in scene_reading(ferry.fresh).words()]


def track(ferry):
    return [(e.frame, e.frames, e.drawing) for e in track_of(ferry.fresh)]


def the_clip(ferry):
    return arrangement_of(ferry.scene).value.clips[0]


def test_words_mouths_and_pins_slide_with_their_clip_and_come_back(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    words, mouths = starts(ferry), track(ferry)
    assert ferry.sound(ferry.owner, "slide", clips=[the_clip(ferry).id], by=12, ripple=False).status_code == 200
    assert starts(ferry) == pytest.approx([start + 0.5 for start in words], abs=1e-5)
    assert Placed(ferry.fresh).pins.shown[0].frame == 22
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
    assert Placed(ferry.fresh).pins.shown == ()
    assert (
        ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()["pinsAway"][0]["why"]
        == "its sound is cut away"
    )
    ferry.edit(ferry.owner, "pin", frame=40, frames=2, drawing="open")
    ferry.sound(ferry.owner, "trim", clip=clip.id, first=0, end=clip.end)
    assert starts(ferry) == words
    assert [(p.frame, p.drawing) for p in Placed(ferry.fresh).pins.shown] == [(10, "purse"), (40, "open")]


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
    assert track_of(ferry.fresh)[-1].end == 30
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


def test_times_brought_with_a_script_lie_where_their_sound_does(ferry):
    srt = "1\n00:00:00,500 --> 00:00:01,000\nMarit: Fog.\n"
    client = ferry.client(ferry.owner)
    client.post(f"/scenes/{ferry.scene.pk}/script/import", {"text": srt})
    kept = script_of(ferry.scene).body

    def times():
        line = in_scene(ferry.scene).lines[-1]
        return line.start, line.end

    ferry.sound(ferry.owner, "slide", clips=[the_clip(ferry).id], by=24, ripple=False)
    assert times() == (1.5, 2.0)
    assert script_of(ferry.scene).body == kept
    ferry.sound(ferry.owner, "trim", clip=the_clip(ferry).id, first=24 + 20, end=24 + 40)
    assert times() == (None, None)
    for _ in range(2):
        ferry.sound(ferry.owner, "undo")
    assert times() == (0.5, 1.0)


def test_marks_lie_where_their_sound_does_and_only_what_is_changed_changes(ferry):
    who = ferry.stave.character_id
    for first, end in ((0.2, 0.6), (1.0, 1.5)):
        ferry.sound(ferry.owner, "pass", character=who, held=[[first + 0.2, end + 0.2]], first=first, end=end)
    before = arrangement_of(ferry.scene).the_marks.marks
    ferry.sound(ferry.owner, "slide", clips=[the_clip(ferry).id], by=12, ripple=False)
    after = arrangement_of(ferry.scene).the_marks.marks
    assert [(m.start, m.end) for m in after] == [(m.start + 0.5, m.end + 0.5) for m in before]
    kept = arrangement_of(ferry.scene).kept_marks.marks
    ferry.sound(ferry.owner, "mark", mark=after[1].id, start=after[1].start, end=after[1].end - 0.1)
    assert arrangement_of(ferry.scene).kept_marks.marks[0] == kept[0]
    assert arrangement_of(ferry.scene).kept_marks.marks[1].end == pytest.approx(kept[1].end - 0.1)


def test_pins_that_a_move_brings_together_stay_as_they_were_set_and_are_told_of(ferry):
    clip = the_clip(ferry)
    ferry.sound(ferry.owner, "split", clips=[clip.id], frame=30)
    ferry.edit(ferry.owner, "pin", frame=20, frames=8, drawing="purse")
    ferry.edit(ferry.owner, "pin", frame=32, frames=4, drawing="open")
    set_by_hand = ferry.fresh.pins
    later = arrangement_of(ferry.scene).value.clips[1]
    ferry.sound(ferry.owner, "trim", clip=clip.id, first=0, end=25)
    ferry.sound(ferry.owner, "slide", clips=[later.id], by=-5, ripple=False)
    assert ferry.fresh.pins == set_by_hand
    (away,) = ferry.client(ferry.owner).get(f"/staves/{ferry.stave.pk}/").json()["pinsAway"]
    assert (away["drawing"], away["why"]) == ("purse", "a newer pin lies on it")
    ferry.edit(ferry.owner, "pin", frame=2, frames=2, drawing="rest")
    assert ferry.fresh.pins[:2] == set_by_hand


@pytest.mark.django_db(transaction=True)
def test_no_line_that_was_written_is_lost_while_the_sound_is_slid(ferry):
    """Two people at once, each on a connection of their own: one writes lines, the other slides the sound."""
    for number in range(8):
        add_text(
            ferry.owner, script_of(ferry.scene), None, f"1\n00:00:0{number},500 --> 00:00:0{number},900\nFog {number}."
        )
    done, problems = [], []

    def write():
        for line in list(script_of(ferry.scene).value.lines):
            actions.write(ferry.owner, script_of(ferry.scene), None, line.id, f"written {line.id}")
            done.append(line.id)

    def slide():
        for step in range(12):
            arranging.slide(
                ferry.owner, arrangement_of(ferry.scene), None, [the_clip(ferry).id], 1 if step % 2 else -1, False
            )

    def alone(work):
        try:
            work()
        except Exception as problem:  # Whatever it is, it is what the test is about.
            problems.append(problem)
        finally:
            connection.close()

    threads = [threading.Thread(target=alone, args=(work,)) for work in (write, slide)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    assert not problems
    texts = {line.id: line.text for line in script_of(ferry.scene).value.lines}
    assert len(done) == 9
    assert all(texts[number] == f"written {number}" for number in done)


def test_a_mark_is_drawn_and_given_to_another_of_the_cast_alone(ferry):
    brede = create_character(ferry.owner, ferry.scene.production, "Brede")
    marit = ferry.stave.character_id
    assert ferry.sound(ferry.owner, "add-mark", character=marit, start=0.5, end=1.5).status_code == 200
    (mark,) = arrangement_of(ferry.scene).the_marks.marks
    assert (mark.character, mark.start, mark.end) == (marit, 0.5, 1.5)
    assert ferry.sound(ferry.owner, "give-mark", mark=mark.id, character=brede.pk).status_code == 200
    assert [m.character for m in arrangement_of(ferry.scene).the_marks.marks] == [brede.pk]
    assert ferry.sound(ferry.owner, "give-mark", mark=mark.id, character=10**6).status_code == 422
    assert ferry.sound(ferry.owner, "add-mark", character=10**6, start=0.5, end=1.5).status_code == 422
