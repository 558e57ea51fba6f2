"""Two shots made one, and somebody in the place of somebody else."""

import pytest

from tests.web.test_many_shots import said
from tinfork.core.errors import TinForkError
from tinfork.web.acting.models import acting_of
from tinfork.web.board.cutting import copy_scene, cut_scene
from tinfork.web.board.joining import join_scenes
from tinfork.web.board.recasting import copy_character, copy_scene_to, swap
from tinfork.web.edits import actions as edits
from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.productions.models import Scene
from tinfork.web.rushes import actions as rushes
from tinfork.web.script.actions import script_of
from tinfork.web.sheet.actions import write_note
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import SoundFile
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import placed_now
from tinfork.web.staves.planning import scene_reading
from tinfork.web.staves.seeing import track_of


def test_what_was_split_and_is_joined_again_is_as_it_was(ferry, board):
    reading = scene_reading(ferry.fresh)
    frame = int(reading.lines[0].words[4].start * 24)
    ferry.edit(ferry.owner, "pin", frame=6, frames=3, drawing="purse")
    ferry.edit(ferry.owner, "pin", frame=frame + 8, frames=3, drawing="open")
    ferry.edit(ferry.owner, "settings", hold=3, lead=1, detail=0.5)
    write_note(ferry.owner, ferry.scene, frame + 8, "wind")
    rushes.write(ferry.owner, ferry.scene, rushes.Note("Softer.", frame + 8, frame + 9))
    before = ferry.track
    cut_scene(ferry.owner, ferry.scene, frame + 1001)
    first, second = Scene.objects.filter(shot__archived=None).order_by("pk")
    told = said(board("join", scenes=[first.pk, second.pk]))
    assert "which are put away" in told
    made = Scene.objects.get(shot__archived=None)
    stave = Stave.objects.get(scene=made)
    assert arrangement_of(made).value.frames == arrangement_of(ferry.scene).value.frames
    assert [(pin.frame, pin.drawing) for pin in placed_now(stave).pins.shown] == [(6, "purse"), (frame + 8, "open")]
    words = [word for line in scene_reading(stave).lines for word in line.words]
    assert [word.text for word in words if word.said] == [word.text for word in reading.words()]
    assert [round(w.start, 3) for w in words if w.said] == [round(w.start, 3) for w in reading.words()]
    assert SheetNotes.objects.get(scene=made).notes == {str(frame + 8): "wind"}
    assert list(made.comments.values_list("frame", "end")) == [(frame + 8, frame + 9)]
    assert stave.hold == 3
    near = range(frame - 8, frame + 8)
    apart = [(e.frame, e.drawing) for e in before if e.frame not in near]
    assert [(e.frame, e.drawing) for e in track_of(stave) if e.frame not in near] == apart


def test_two_of_one_kind_come_after_another_with_all_that_they_have(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    acting = acting_of(ferry.scene, ferry.stave.character)
    body = {"keys": {"turn": [[10, 1.0, "smooth", 0]]}, "shows": [], "lead": 0, "alone": False}
    nod = [[1, "nod", 30, 1, 0, {"tilt": [[0, 0.0], [4, 1.0], [9, 0.0]]}, [], 1.0, True]]
    edits.change(ferry.owner, edits.locked(ferry.owner, acting), "keys", {"lane Head": body, "gestures Head": nod})
    copy_scene(ferry.owner, ferry.scene)
    other = Scene.objects.exclude(pk=ferry.scene.pk).get()
    stave = Stave.objects.get(scene=other)
    edits.change(ferry.owner, edits.locked(ferry.owner, stave), "settings", {"hold": 4})
    frames = arrangement_of(ferry.scene).value.frames
    join_scenes(ferry.owner, ferry.scene, other)
    made = Scene.objects.exclude(pk__in=[ferry.scene.pk, other.pk]).get()
    joined = Stave.objects.get(scene=made)
    assert [pin.frame for pin in placed_now(joined).pins.shown] == [10, 10 + frames]
    assert len(scene_reading(joined).lines) == 2
    assert len(script_of(made).value.lines) == 2
    assert {line.id for line in scene_reading(joined).lines} == {line.id for line in script_of(made).value.lines}
    assert [(p.frame, p.frames, p.settings.hold) for p in placed_now(joined).passages] == [(frames, frames, 4)]
    lane = acting_of(made, ferry.stave.character).lane("Head")
    assert [key.frame for key in lane.keys["turn"]] == [10, 10 + frames]
    assert [(one.id, one.frame, one.line) for one in lane.gestures] == [(1, 30, 1), (2, 30 + frames, 3)]


def test_shots_that_cannot_be_joined_stay_as_they_are(ferry, board):
    other = create_scene(ferry.owner, ferry.scene.production, "Boot", "25", "1")
    with pytest.raises(TinForkError, match="set both to one rate"):
        join_scenes(ferry.owner, ferry.scene, other)
    with pytest.raises(TinForkError, match="Choose two shots"):
        join_scenes(ferry.owner, ferry.scene, ferry.scene)
    assert "Tick the two shots" in board("join", scenes=[ferry.scene.pk]).json()["problem"]
    assert Scene.objects.count() == 2


# Somebody else, and elsewhere


def acts(ferry):
    acting = acting_of(ferry.scene, ferry.stave.character)
    body = {"keys": {"turn": [[10, 1.0, "smooth", 0]]}, "shows": [], "lead": 0, "alone": False}
    parts = {"lane head": body, "lane tail": body}
    edits.change(ferry.owner, edits.locked(ferry.owner, acting), "keys", parts)
    return acting


def test_somebody_else_speaks_with_all_that_was_set(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    acts(ferry)
    before, track = ferry.reading, [(e.frame, e.drawing) for e in ferry.track]
    pock = create_character(ferry.owner, ferry.scene.production, "Pock")
    found = swap(ferry.owner, [ferry.scene], ferry.stave.character, pock)
    assert found.scenes == 1
    assert found.lacking == ["tail"]
    other = Stave.objects.get(scene=ferry.scene, character=pock)
    assert [(pin.frame, pin.drawing) for pin in placed_now(other).pins.shown] == [(10, "purse")]
    assert [word.text for word in other.reading_value.words()] == [
        word["text"] for line in before["lines"] for word in line["words"]
    ]
    assert [(e.frame, e.drawing) for e in track_of(other)] == track
    assert [line.character for line in script_of(ferry.scene).value.lines] == [pock.pk]
    assert [(t.character, t.name) for t in arrangement_of(ferry.scene).value.tracks] == [(pock.pk, "Pock")]
    assert not ferry.fresh.has_mouths
    assert acting_of(ferry.scene, pock).lane("head").keys["turn"][0].frame == 10
    assert acting_of(ferry.scene, ferry.stave.character).lane("tail").keys["turn"][0].frame == 10
    assert ferry.edit(ferry.owner, "undo").status_code == 200
    assert ferry.reading == before
    assert [(e.frame, e.drawing) for e in ferry.track] == track
    assert not Stave.objects.get(pk=other.pk).has_mouths


def test_a_swap_that_cannot_be_says_why(ferry):
    marit = ferry.stave.character
    pock = create_character(ferry.owner, ferry.scene.production, "Pock")
    for old, new, why in ((marit, marit, "Choose two"), (pock, marit, "is in “Fog” already")):
        with pytest.raises(TinForkError, match=why):
            swap(ferry.owner, [ferry.scene], old, new)
    goat = create_character(ferry.owner, ferry.scene.production, "Goat")
    with pytest.raises(TinForkError, match="in none of these"):
        swap(ferry.owner, [ferry.scene], pock, goat)
    asked = {"old": marit.pk, "new": 99999}
    answer = ferry.client(ferry.owner).post(f"/scenes/{ferry.scene.pk}/recast", asked)
    assert "not in the cast" in answer.content.decode()


def test_a_scene_goes_into_another_production_by_names(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    track = [(e.frame, e.drawing) for e in ferry.track]
    to = create_production(ferry.owner, "The Boot")
    marit = create_character(ferry.owner, to, "Marit")
    made = copy_scene_to(ferry.owner, ferry.scene, to, moved=True)
    assert made.production == to
    own = Stave.objects.get(scene=made)
    assert own.character == marit
    assert [(e.frame, e.drawing) for e in track_of(own)] == track
    assert [line.character for line in script_of(made).value.lines] == [marit.pk]
    (clip,) = arrangement_of(made).value.clips
    sound, before = SoundFile.objects.get(pk=clip.sound), SoundFile.objects.exclude(pk=clip.sound).get()
    assert (sound.production, sound.original.name) == (to, before.original.name)
    assert Scene.objects.get(pk=ferry.scene.pk).shot.archived
    again = copy_scene_to(ferry.owner, ferry.scene, to)
    assert again.name == "Fog 2"
    assert to.sounds.count() == 1


def test_who_speaks_as_whom_there_is_chosen_by_picture(ferry):
    to = create_production(ferry.owner, "The Boot")
    create_character(ferry.owner, to, "Marit")
    goat = create_character(ferry.owner, to, "Goat")
    client, marit = ferry.client(ferry.owner), ferry.stave.character
    page = client.get(f"/scenes/{ferry.scene.pk}/elsewhere?to={to.pk}").content.decode()
    assert page.count("<svg") == 3
    assert f'name="who-{marit.pk}" value="{goat.pk}"' in page
    asked = {"to": to.pk, f"who-{marit.pk}": goat.pk}
    assert "is in “The Boot” now" in client.post(f"/scenes/{ferry.scene.pk}/elsewhere", asked).content.decode()
    assert Stave.objects.get(scene__production=to).character == goat
    client.post(f"/scenes/{ferry.scene.pk}/elsewhere", asked | {f"who-{marit.pk}": 0})
    assert to.characters.filter(name="Marit 2").exists()


def test_who_is_not_there_comes_along(ferry):
    to = create_production(ferry.owner, "The Boot")
    copy_scene_to(ferry.owner, ferry.scene, to)
    assert [one.name for one in to.characters.all()] == ["Marit"]
    assert to.characters.get().skin == ferry.stave.character.skin


def test_nobody_copies_to_where_they_may_not(ferry):
    elsewhere = create_production(ferry.stranger, "Nowhere")
    answer = ferry.client(ferry.owner).post(f"/scenes/{ferry.scene.pk}/elsewhere", {"to": elsewhere.pk})
    assert answer.status_code == 404
    assert not elsewhere.scenes.exists()


def test_a_character_is_copied_with_what_they_look_like(ferry):
    ferry.stave.character.sound_rules.create(ipa="m", drawing="press", place=[0.0] * 6)
    made = copy_character(ferry.owner, ferry.stave.character)
    assert made.name == "Marit 2"
    assert made.skin == ferry.stave.character.skin
    assert made.sound_rules.get().ipa == "m"
    page = f"/productions/{ferry.scene.production_id}/cast-and-charts/"
    asked = {"thing": f"character {made.pk}", "do": "copy"}
    assert ferry.client(ferry.owner).post(page, asked).status_code == 302
    assert ferry.scene.production.characters.filter(name="Marit 2 2").exists()
