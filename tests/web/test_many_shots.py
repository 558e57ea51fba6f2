"""Many shots at once: their mouths, their sequences, and shots cut out of something longer."""

import json
from dataclasses import replace

import opentimelineio as otio
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from opentimelineio.opentime import RationalTime, TimeRange

from tests.speech import LINE
from tests.web.remembered import once
from tests.web.test_board import rows
from tinfork.core.exposure.pins import Pin
from tinfork.core.speech.anchors import to_source
from tinfork.core.speech.reading import moved
from tinfork.web.board import cutting
from tinfork.web.edits.models import Edit
from tinfork.web.productions.actions import create_scene
from tinfork.web.rushes import actions as rushes
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.script.actions import move as move_line
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.shots import changing
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.sound.models import SoundFile
from tinfork.web.staves import actions
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import placed_now
from tinfork.web.staves.seeing import track_of


def said(answer):
    assert answer.status_code == 200, answer.content
    return answer.json()["said"]


# Mouths


def test_settings_of_many_are_one_step_on_the_board_and_one_in_each_scene(ferry, board):
    ferry.edit(ferry.owner, "settings", hold=3, lead=1, detail=0.5)
    told = said(board("mouths", scenes=[ferry.scene.pk], hold=5, detail=0.2))
    assert told == "Change the mouths of 1 shot."
    now = ferry.fresh
    assert (now.hold, now.lead, now.detail) == (5, 1, 0.2)
    assert Edit.objects.filter(scene=ferry.scene).values("step").distinct().count() == 2
    assert board("mouths", scenes=[ferry.scene.pk], hold=5).json()["said"] == "All of them are so already."
    assert said(board("undo")) == "Taken back: change the mouths of 1 shot."
    assert (ferry.fresh.hold, ferry.fresh.detail) == (3, 0.5)


def test_undo_leaves_what_was_done_in_a_scene_since(ferry, board, editor):
    board("mouths", scenes=[ferry.scene.pk], hold=5)
    ferry.edit(editor, "pin", frame=10, frames=3, drawing="purse")
    said(board("undo"))
    assert ferry.fresh.hold == 2
    assert [pin.drawing for pin in ferry.fresh.pin_values] == ["purse"]
    board("mouths", scenes=[ferry.scene.pk], hold=5)
    ferry.edit(editor, "settings", hold=7, lead=1, detail=0.5)
    assert "1 stay, the first: Fog" in said(board("undo"))
    assert ferry.fresh.hold == 7


def test_where_it_cannot_be_done_is_said_and_the_others_are_changed(ferry, board):
    empty = create_scene(ferry.owner, ferry.scene.production, "Boot", "24", "1")
    told = said(board("mouths", scenes=[ferry.scene.pk, empty.pk], hold=4))
    assert "1 left out, the first: Boot: nobody of these has mouths here" in told
    assert ferry.fresh.hold == 4


@pytest.mark.parametrize(
    ("asked", "why"),
    [
        ({"hold": 99}, "A hold is 1 to"),
        ({"mood": "grim"}, "no mood “grim”"),
        ({"chart": 99999}, "cannot be shown here"),
        ({}, "Say what is to be another"),
        ({"scenes": [], "hold": 2}, "Choose shots first"),
        ({"hold": 2, "characters": [99999]}, "nobody of these has mouths"),
        ({"detail": "much"}, "could not be understood"),
    ],
)
def test_mouths_that_cannot_be_so_say_why(ferry, board, asked, why):
    answer = board("mouths", **{"scenes": [ferry.scene.pk]} | asked)
    assert answer.status_code == 422
    assert why in answer.json()["problem"]
    assert not Edit.objects.filter(scene=ferry.scene).exists()


# Sequences


@pytest.fixture
def sequences(ferry):
    production = ferry.scene.production
    other = create_scene(ferry.owner, production, "Boot", "24", "1")
    changing.set_field(ferry.owner, production, [ferry.scene.pk], "sequence", "The pier")
    changing.set_field(ferry.owner, production, [other.pk], "sequence", "The crossing")
    return {one.name: one.pk for one in production.sequences.all()}


def sequence(ferry, **asked):
    return ferry.client(ferry.owner).post(f"/productions/{ferry.scene.production_id}/board/sequence", asked)


def test_the_film_has_its_sequences_in_the_order_they_are_given(ferry, sequences):
    assert [row["name"] for row in rows(ferry)] == ["Fog", "Boot"]
    assert sequence(ferry, sequence=sequences["The crossing"], do="up").status_code == 302
    assert [row["name"] for row in rows(ferry)] == ["Boot", "Fog"]
    sequence(ferry, sequence=sequences["The crossing"], do="up")
    sequence(ferry, sequence=sequences["The crossing"], do="down")
    assert [row["name"] for row in rows(ferry)] == ["Fog", "Boot"]
    sequence(ferry, sequence=sequences["The pier"], do="rename", name="The quay")
    assert [row["sequence"] for row in rows(ferry)] == ["The quay", "The crossing"]


def test_a_sequence_that_cannot_be_changed_so_says_why(ferry, sequences):
    pier = sequences["The pier"]
    for asked, why in (
        ({"sequence": pier, "do": "remove"}, "has shots"),
        ({"sequence": pier, "do": "rename", "name": "The crossing"}, "already"),
        ({"sequence": pier, "do": "rename", "name": " "}, "Give the sequence a name"),
        ({"sequence": 0, "do": "up"}, "is gone"),
        ({"sequence": pier, "do": "burn"}, "could not be understood"),
    ):
        answer = sequence(ferry, **asked)
        assert answer.status_code == 422, asked
        assert why in answer.json()["problem"]
    changing.set_field(ferry.owner, ferry.scene.production, [ferry.scene.pk], "sequence", "The crossing")
    assert sequence(ferry, sequence=pier, do="remove").status_code == 302
    assert not ferry.scene.production.sequences.filter(pk=pier).exists()


# Cutting


@pytest.fixture
def two_shots(ferry, spoken):
    """Marit says her line twice, each time under a heading, and both are read; the numbers of the lines."""
    scene, character = ferry.scene, ferry.stave.character
    first = arrangement_of(scene).value.clips[0]
    place_sound(ferry.owner, arrangement_of(scene), SoundFile.objects.get(), None, character)
    add_text(ferry.owner, script_of(scene), None, f"[SHOT 0020]\nMarit: {LINE}\n[SHOT 0010]")
    document = script_of(scene)
    heading = document.value.lines[-1].id
    for _ in range(3):
        document = script_of(scene)
        move_line(ferry.owner, document, document.version, heading, -1)
    numbers = [line.id for line in script_of(scene).value.lines if not line.text.startswith("[")]
    (line,) = spoken[1].lines
    lines = [replace(moved(line, at), id=number) for number, at in zip(numbers, (0, first.frames / 24), strict=True)]
    kept = to_source(lines, arrangement_of(scene).value.clips, 24.0)
    actions.take_reading(ferry.owner, ferry.fresh, replace(spoken[1], lines=kept))
    return [[numbers[0]], [numbers[1]]]


def seen(stave, frames):
    return [e.drawing for e in track_of(stave) for _ in range(e.frames)][frames.start : frames.stop]


def test_a_scene_falls_into_shots_and_what_was_decided_comes_along(ferry, board, two_shots):
    parts = cutting.parts_of(ferry.scene)
    assert [part.name for part in parts] == ["SHOT 0010", "SHOT 0020"]
    edge = int(parts[0].end * 24)
    long = ferry.fresh
    ferry.edit(ferry.owner, "pin", frame=edge + 12, frames=4, drawing="purse")
    SheetNotes.objects.create(scene=ferry.scene, notes={"3": "hat", str(edge + 5): "boot"})
    before = {
        name: seen(ferry.fresh, span) for name, span in (("a", range(edge - 6)), ("b", range(edge + 6, edge + 40)))
    }
    told = said(board("cut", scene=ferry.scene.pk))
    assert told == "2 shots made of “Fog”, which is put away."
    made = list(ferry.scene.production.scenes.exclude(pk=ferry.scene.pk))
    assert [scene.name for scene in made] == ["SHOT 0010", "SHOT 0020"]
    first, second = (Stave.objects.get(scene=scene) for scene in made)
    lengths = [arrangement_of(scene).value.frames for scene in made]
    assert lengths == [edge, placed_now(long).frames - edge]
    for scene, own in zip(made, two_shots, strict=True):
        assert [line.id for line in script_of(scene).value.lines] == own
    assert {body["id"] for body in second.bodies(second.order)} <= set(two_shots[1])
    assert seen(first, range(edge - 6)) == before["a"]
    assert seen(second, range(6, 40)) == before["b"]
    assert [(p.frame, p.drawing) for p in placed_now(second).pins.shown] == [(12, "purse")]
    assert [scene.sheet_notes.notes for scene in made] == [{"3": "hat"}, {"5": "boot"}]
    assert not Edit.objects.filter(scene__in=made).exists()
    assert [row["name"] for row in rows(ferry)] == ["SHOT 0010", "SHOT 0020"]


def test_a_pin_on_frames_of_the_scene_itself_comes_along(ferry, board, two_shots):
    document = arrangement_of(ferry.scene)
    end = document.value.frames
    ferry.sound(ferry.owner, "length", frames=end + 100)
    ferry.edit(ferry.owner, "pin", frame=end + 40, frames=5, drawing="open")
    board("cut", scene=ferry.scene.pk)
    last = ferry.scene.production.scenes.get(name="SHOT 0020")
    length = arrangement_of(last).value.frames
    (pin,) = placed_now(Stave.objects.get(scene=last)).pins.shown
    assert isinstance(pin, Pin)
    assert pin.frame == length - 60
    assert not placed_now(Stave.objects.get(scene__name="SHOT 0010")).pins.shown


def test_a_scene_without_headings_is_not_cut(ferry, board):
    answer = board("cut", scene=ferry.scene.pk)
    assert answer.status_code == 422
    assert "no heading" in answer.json()["problem"]
    assert ferry.scene.production.scenes.count() == 1
    at = f"/productions/{ferry.scene.production_id}/board/parts?scene={ferry.scene.pk}"
    assert ferry.client(ferry.owner).get(at).status_code == 422


def test_a_shot_is_cut_in_two_at_a_frame_with_its_notes(ferry, board, two_shots):
    scene = ferry.scene
    total = arrangement_of(scene).value.frames
    at = total // 2 + 7  # Within what is said the second time.
    note = rushes.write(ferry.viewer, scene, rushes.Note(text="Late", frame=at + 4, end=total + 50))
    rushes.write(ferry.owner, scene, rushes.Note(text="Yes", on=note.pk))
    rushes.write(ferry.viewer, scene, rushes.Note(text="Early", frame=2))
    before = seen(ferry.fresh, range(total))
    told = said(board("cut", scene=scene.pk, frame=scene.start_frame + at))
    assert told == "2 shots made of “Fog”, which is put away."
    first, second = (scene.production.scenes.get(name=name) for name in ("Fog A", "Fog B"))
    assert [arrangement_of(one).value.frames for one in (first, second)] == [at, total - at]
    assert [line.id for line in script_of(second).value.lines if not line.text.startswith("[")] == two_shots[1]
    assert [(one.text, one.frame, one.end, bool(one.on)) for one in second.comments.order_by("pk")] == [
        ("Late", 4, total - at - 1, False),
        ("Yes", 4, 4, True),
    ]
    assert [one.text for one in first.comments.all()] == ["Early"]
    assert scene.comments.count() == 3
    assert seen(Stave.objects.get(scene=first), range(at - 6)) == before[: at - 6]
    assert seen(Stave.objects.get(scene=second), range(6, 30)) == before[at + 6 : at + 30]
    clips = arrangement_of(second).value.clips
    assert all(clip.offset + clip.frames <= clip.whole for clip in clips)
    assert any(clip.offset for clip in clips), "what lies before is still there to be drawn out"


@pytest.mark.parametrize("frame", [-5, 1001, 99_999])
def test_a_shot_is_cut_within_itself_alone(ferry, board, frame):
    answer = board("cut", scene=ferry.scene.pk, frame=frame)
    assert answer.status_code == 422
    assert "Give a frame within the shot, 1002 to" in answer.json()["problem"]
    assert ferry.scene.production.scenes.count() == 1


def test_a_copy_is_like_its_shot_and_stands_alone(ferry, board):
    changing.set_field(ferry.owner, ferry.scene.production, [ferry.scene.pk], "sequence", "The pier")
    ferry.edit(ferry.owner, "pin", frame=10, frames=3, drawing="purse")
    assert said(board("copy", scenes=[ferry.scene.pk])) == "“Fog 2” is another one like “Fog”."
    copy = ferry.scene.production.scenes.get(name="Fog 2")
    own = Stave.objects.get(scene=copy)
    assert track_of(own) == ferry.track
    assert (own.pins, str(copy.shot.sequence)) == (ferry.fresh.pins, "The pier")
    assert (copy.rate, copy.start_frame) == ("24", 1001)
    ferry.edit(ferry.owner, "unpin", frame=10)
    assert Stave.objects.get(scene=copy).pins and not ferry.fresh.pins


def test_the_parts_are_told_before(ferry, two_shots):
    at = f"/productions/{ferry.scene.production_id}/board/parts?scene={ferry.scene.pk}"
    parts = ferry.client(ferry.owner).get(at).json()["parts"]
    assert [(part["name"], part["lines"]) for part in parts] == [
        ("SHOT 0010", len(two_shots[0])),
        ("SHOT 0020", len(two_shots[1])),
    ]


# A reel and its cut


def cut_of(*shots, rate=24.0):
    timeline = otio.schema.Timeline("Reel", tracks=None)
    track = otio.schema.Track("V1")
    for name, frames in shots:
        track.append(otio.schema.Clip(name, source_range=TimeRange(RationalTime(0, rate), RationalTime(frames, rate))))
    timeline.tracks.append(track)
    return SimpleUploadedFile("cut.otio", otio.adapters.write_to_string(timeline, "otio_json").encode())


@pytest.fixture
def reel(ferry, spoken):
    def bring(cut, film=None, first="1"):
        film = film or SimpleUploadedFile("reel.wav", spoken[0])
        address = f"/productions/{ferry.scene.production_id}/board/reel"
        with once("tinfork.web.sound.actions.aside"):
            return ferry.client(ferry.owner).post(address, {"film": film, "cut": cut, "first": first})

    return bring


def test_a_reel_in_one_piece_falls_into_shots_at_its_markers(ferry, reel):
    timeline, track = otio.schema.Timeline("Reel", tracks=None), otio.schema.Track("V1")
    track.append(otio.schema.Clip("reel", source_range=TimeRange(RationalTime(86_400, 24), RationalTime(60, 24))))
    timeline.tracks.append(track)
    for name, frame in (("Buoy", 86_424), ("Fog bank", 86_400)):
        at = TimeRange(RationalTime(frame, 24), RationalTime(1, 24))
        track[0].markers.append(otio.schema.Marker(name, marked_range=at))
    cut = SimpleUploadedFile("cut.otio", otio.adapters.write_to_string(timeline, "otio_json").encode())
    assert "2 shots made." in said(reel(cut))
    shots = {scene.name: arrangement_of(scene).value for scene in ferry.scene.production.scenes.all()}
    assert [shots[name].frames for name in ("Fog bank", "Buoy")] == [24, 36]
    assert shots["Buoy"].clips[0].offset == 24


def test_a_reel_falls_into_the_shots_of_its_cut(ferry, reel):
    told = said(reel(cut_of(("0010", 12), ("0020", 24), ("Fog", 6), ("0040", 0)), first="101"))
    assert told == "3 shots made. 1 left out: “0040” has no length."
    made = list(ferry.scene.production.scenes.exclude(pk=ferry.scene.pk))
    assert [(scene.name, scene.start_frame, scene.rate) for scene in made] == [
        ("0010", 101, "24"),
        ("0020", 101, "24"),
        ("Fog 2", 101, "24"),
    ]
    clips = [arrangement_of(scene).value.clips[0] for scene in made]
    assert [(clip.start, clip.offset, clip.frames) for clip in clips] == [(0, 0, 12), (0, 12, 24), (0, 36, 6)]
    assert [arrangement_of(scene).value.frames for scene in made] == [12, 24, 6]


def test_a_shot_behind_the_end_of_the_film_is_left_out_and_told(ferry, reel):
    told = said(reel(cut_of(("0010", 12), ("0020", 24 * 600), ("0030", 5))))
    assert told == "2 shots made. 1 left out: “0030”: it lies behind the end of the film."


@pytest.mark.parametrize("what", ["cut", "film", "both"])
def test_a_reel_that_cannot_be_cut_says_why(ferry, reel, what):
    if what == "cut":
        answer = reel(SimpleUploadedFile("cut.otio", b"[" * 50_000))
    elif what == "film":
        answer = reel(cut_of(("0010", 12)), SimpleUploadedFile("reel.wav", b"no sound"))
    else:
        answer = ferry.client(ferry.owner).post(f"/productions/{ferry.scene.production_id}/board/reel", {"first": "1"})
    assert answer.status_code == 422
    assert json.loads(answer.content)["problem"]
    assert ferry.scene.production.scenes.count() == 1
