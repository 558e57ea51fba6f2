"""A scene's frame rate and first frame are changed: what was decided stays in time, on the nearest frames, in order."""

import uuid
from datetime import UTC, datetime

import pytest

from tinfork.core.errors import TinForkError
from tinfork.core.exposure.ranges import AnchoredMood
from tinfork.core.speech import read
from tinfork.web.acting.models import acting_of
from tinfork.web.edits import actions as edits
from tinfork.web.edits.history import take_back
from tinfork.web.following.clock import set_clock
from tinfork.web.handover.wishes import Wish, files
from tinfork.web.prompter import actions as camera
from tinfork.web.reading.scene import Asked, read_part, to_read
from tinfork.web.rushes import actions as rushes
from tinfork.web.sheet.actions import write_note
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.models import Stave
from tinfork.web.staves.planning import planned, planned_anew
from tinfork.web.tracks.takes import keep_take


@pytest.fixture
def worked(ferry):
    """A scene in which something of every kind was set."""
    who = ferry.owner
    ferry.edit(who, "pin", frame=10, frames=3, drawing="purse")
    ferry.edit(who, "pin", frame=13, frames=2, drawing="open")
    edits.change(who, edits.locked(who, ferry.fresh), "mood", {"moods": [AnchoredMood(20, 11, "plain")]})
    ferry.edit(who, "settings of a range", frame=5, frames=7, hold=3, lead=1, detail=0.5)
    ferry.edit(who, "stretch", frame=30, frames=6, drawing="purse")
    write_note(who, ferry.scene, 25, "wind")
    rushes.write(who, ferry.scene, rushes.Note("Softer.", 12, 14))
    camera.keep(who, ferry.scene, [camera.Said(uuid.uuid4(), 7, datetime.now(UTC))])
    return ferry


def turn(ferry, rate, first="1001"):
    scene = type(ferry.scene).objects.get(pk=ferry.scene.pk)
    return set_clock(ferry.owner, scene, rate, first, (scene.rate, scene.start_frame))


def decided(ferry):
    """Everything that lies on frames, as it is kept."""
    stave = Stave.objects.get(pk=ferry.stave.pk)
    ranged = {name: getattr(stave, name) for name in ("pins", "moods", "passages", "stretches", "intents", "eases")}
    clips = [(c.start, c.offset, c.frames, c.whole) for c in arrangement_of(ferry.scene).value.clips]
    comments = list(ferry.scene.comments.values_list("frame", "end"))
    shot = list(ferry.scene.exposed.values_list("frame", flat=True))
    return ranged, clips, SheetNotes.objects.get().notes, comments, shot


def test_what_was_set_lies_at_the_same_time_at_another_rate(worked):
    turn(worked, "12")
    ranged, clips, notes, comments, shot = decided(worked)
    assert [(p["frame"], p["frames"]) for p in ranged["pins"]] == [(5, 2), (7, 1)]
    assert [(m["frame"], m["frames"]) for m in ranged["moods"]] == [(10, 6)]
    assert [p["frame"] for p in ranged["passages"]] == [3]
    assert notes == {"13": "wind"}
    assert comments == [(6, 7)]
    assert shot == [4]
    ((start, offset, frames, whole),) = clips
    assert (start, offset) == (0, 0)
    assert frames == whole
    assert worked.scene.__class__.objects.get(pk=worked.scene.pk).rate == "12"


@pytest.mark.parametrize("rate", ["25", "30", "23.976"])
def test_there_and_back_everything_is_as_it_was(worked, rate):
    before, track = decided(worked), worked.track
    turn(worked, rate)
    assert decided(worked)[0] != before[0] or rate == "23.976"
    turn(worked, "24")
    assert decided(worked) == before
    assert worked.track == track


def test_a_rate_is_undone_as_one_step_and_done_again(worked):
    before, track = decided(worked), worked.track
    turn(worked, "12", "7")
    other, otherwise = decided(worked), worked.track
    assert worked.edit(worked.owner, "undo").status_code == 200
    scene = type(worked.scene).objects.get(pk=worked.scene.pk)
    assert (scene.rate, scene.start_frame) == ("24", 1001)
    assert decided(worked) == before
    assert worked.track == track
    assert worked.edit(worked.owner, "redo").status_code == 200
    scene = type(worked.scene).objects.get(pk=worked.scene.pk)
    assert (scene.rate, scene.start_frame) == ("12", 7)
    assert decided(worked) == other
    assert worked.track == otherwise


def test_what_falls_on_the_same_frame_is_told(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=1, drawing="purse")
    ferry.edit(ferry.owner, "pin", frame=11, frames=1, drawing="open")
    ferry.edit(ferry.owner, "pin", frame=12, frames=1, drawing="press")
    write_note(ferry.owner, ferry.scene, 13, "one")
    write_note(ferry.owner, ferry.scene, 14, "two")
    along = turn(ferry, "8")
    assert ("mouth", 11, "open") in [(one.what, one.frame, one.drawing) for one in along.together]
    assert not along.left
    assert SheetNotes.objects.get().notes == {"4": "one", "5": "two"}


def test_an_edit_asked_for_at_the_old_rate_is_refused(ferry):
    version, sound = ferry.fresh.version, arrangement_of(ferry.scene).version
    turn(ferry, "12")
    answer = ferry.edit(ferry.owner, "pin", version, frame=40, frames=2, drawing="open")
    assert answer.status_code in {409, 422}
    assert "frame rate" in answer.content.decode()
    answer = ferry.sound(ferry.owner, "slide", sound, clips=[1], by=4, ripple=False)
    assert "frame rate" in answer.content.decode()
    assert not ferry.fresh.pins


def test_two_who_set_the_rate_hear_of_each_other(ferry):
    scene = ferry.scene
    set_clock(ferry.owner, scene, "25", "1001", ("24", 1001))
    with pytest.raises(TinForkError, match="Somebody else set it meanwhile: 25"):
        set_clock(ferry.owner, scene, "12", "1001", ("24", 1001))
    with pytest.raises(TinForkError, match="not a frame rate"):
        set_clock(ferry.owner, scene, "fast", "1001", ("25", 1001))
    assert type(scene).objects.get(pk=scene.pk).rate == "25"


def test_a_version_keeps_the_rate_it_was_shown_at(ferry):
    rushes.show_for_review(ferry.owner, ferry.scene)
    turn(ferry, "12", "1")
    scene = type(ferry.scene).objects.get(pk=ferry.scene.pk)
    (png,) = files(Wish(kinds=["png"], version=1), scene)
    (now,) = files(Wish(kinds=["png"]), scene)
    assert png["inside"] != now["inside"]
    seen = ferry.client(ferry.owner).get(f"/scenes/{scene.pk}/rushes/versions/1").json()
    assert sum(e["frames"] for e in seen["roles"][0]["exposures"]) == arrangement_of(scene).value.frames


def test_a_take_of_mouths_comes_back_where_it_was_in_time(ferry):
    ferry.edit(ferry.owner, "pin", frame=20, frames=4, drawing="purse")
    take = keep_take(ferry.owner, ferry.fresh, "first")
    ferry.edit(ferry.owner, "unpin", frame=20)
    turn(ferry, "12")
    assert ferry.edit(ferry.owner, "restore take", take=take.pk).status_code == 200
    assert [(p.frame, p.frames) for p in ferry.fresh.pin_values] == [(10, 2)]


def test_what_a_face_does_goes_along(ferry):
    acting = acting_of(ferry.scene, ferry.stave.character)
    edits.change(
        ferry.owner,
        edits.locked(ferry.owner, acting),
        "keys",
        {
            "lane Head": {
                "keys": {"turn": [[10, 1.0, "smooth", 0], [20, 0.0, "smooth", 0]]},
                "shows": [],
                "lead": 0,
                "alone": False,
            },
            "gestures Head": [[1, "nod", 30, 0, 0, {"tilt": [[0, 0.0], [4, 1.0], [9, 0.0]]}, [], 1.0, True]],
        },
    )
    turn(ferry, "12")
    lane = acting_of(ferry.scene, ferry.stave.character).lane("Head")
    assert [key.frame for key in lane.keys["turn"]] == [5, 10]
    (nod,) = lane.gestures
    assert (nod.frame, [frame for frame, _ in nod.dials["tilt"]]) == (15, [0, 2, 5])
    turn(ferry, "24")
    assert [key.frame for key in acting_of(ferry.scene, ferry.stave.character).lane("Head").keys["turn"]] == [10, 20]


def test_a_step_of_another_rate_is_not_taken_back_alone(ferry):
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    ferry.edit(ferry.owner, "unpin", frame=10)
    step = ferry.fresh.edits.last().step
    turn(ferry, "12")
    with pytest.raises(TinForkError, match="at another frame rate"):
        take_back(ferry.owner, ferry.scene, step)
    assert not ferry.fresh.pins


def test_a_rate_that_changes_while_a_sound_is_read_moves_no_word(ferry, monkeypatch):
    """The worker began at the old rate; what it heard is put where it was heard, and mouths are planned by the new."""
    before = [(word.text, word.start) for word in ferry.fresh.reading_value.words()]
    heard = read.read_lines

    def meanwhile(*asked, **named):
        found = heard(*asked, **named)
        turn(ferry, "12")
        return found

    monkeypatch.setattr(read, "read_lines", meanwhile)
    scene = type(ferry.scene).objects.select_related("production").get(pk=ferry.scene.pk)
    for part in to_read(scene)[0]:
        read_part(ferry.owner, scene, part, Asked(), lambda share: None)
    now = list(ferry.fresh.reading_value.words())
    assert [word.text for word in now] == [text for text, _ in before]
    assert [word.start for word in now] == pytest.approx([at for _, at in before], abs=0.05)
    anew = planned_anew(planned(ferry.fresh))
    assert [(e.frame, e.drawing) for e in ferry.track] == [(e.frame, e.drawing) for e in anew]
