"""A cut comes in over shots that are there."""

import opentimelineio as otio
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from opentimelineio.opentime import RationalTime, TimeRange

from tests.web.test_many_shots import said
from tinfork.web.productions.actions import create_scene
from tinfork.web.productions.models import Scene
from tinfork.web.sheet.actions import write_note
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.shots.changing import in_film_order
from tinfork.web.sound.arranging import arrangement_of, set_length


def cut_of(*shots, rate=24, numbered=False):
    """A cut of shots: of each its name, the frame of its picture it begins with, and how many there are."""
    track = otio.schema.Track(kind=otio.schema.TrackKind.Video)
    for name, first, frames in shots:
        lies = TimeRange(RationalTime(first, rate), RationalTime(frames, rate))
        media = otio.schema.ExternalReference("shot.mov")
        media.available_range = None if numbered else TimeRange(RationalTime(0, rate), RationalTime(10_000, rate))
        track.append(otio.schema.Clip(name=name, source_range=lies, media_reference=media))
    timeline = otio.schema.Timeline("Film")
    timeline.tracks.append(track)
    return SimpleUploadedFile("film.otio", otio.adapters.write_to_string(timeline, "otio_json").encode())


def asks(ferry, cut, do="apply", person=None):
    page = f"/productions/{ferry.scene.production_id}/recut"
    return ferry.client(person or ferry.owner).post(page, {"cut": cut, "do": do})


@pytest.fixture
def film(ferry):
    """Three shots: Fog, which is spoken, Boot and Gull."""
    others = [create_scene(ferry.owner, ferry.scene.production, name, "24", "1") for name in ("Boot", "Gull")]
    for scene in others:
        set_length(ferry.owner, arrangement_of(scene), None, 48)
    ferry.edit(ferry.owner, "pin", frame=30, frames=3, drawing="purse")
    write_note(ferry.owner, ferry.scene, 30, "wind")
    return ferry


def shots(ferry):
    own = in_film_order(ferry.scene.production.scenes.filter(shot__archived=None))
    return [(scene.name, arrangement_of(scene).value.frames) for scene in own]


def test_a_cut_gives_order_ins_outs_and_lengths_and_is_taken_back_as_one(film, board):
    before, track = shots(film), film.track
    cut = [("Gull", 0, 60), ("Fog", 12, 40), ("Storm", 0, 33)]
    told = asks(film, cut_of(*cut), "look").content.decode()
    for words in ("out grew by 12 frames", "in shrank by 12 frames", "another place", "new", "gone"):
        assert words in told
    assert shots(film) == before
    assert "3 shots are as the cut has them: 1 new, 1 put away" in asks(film, cut_of(*cut)).content.decode()
    assert shots(film) == [("Gull", 60), ("Fog", 40), ("Storm", 33)]
    assert [(pin.frame, pin.drawing) for pin in film.track_pins()] == [(18, "purse")]
    assert SheetNotes.objects.get().notes == {"18": "wind"}
    assert "Taken back: take a cut of 3 shots." in said(board("undo"))
    assert shots(film) == before
    assert film.track == track
    assert SheetNotes.objects.get().notes == {"30": "wind"}


def test_an_in_that_is_let_out_again_brings_back_what_was_there(film):
    track = film.track
    frames = arrangement_of(film.scene).value.frames
    asks(film, cut_of(("Fog", 40, 20), ("Boot", 0, 48), ("Gull", 0, 48)))
    assert not film.track_pins()
    asks(film, cut_of(("Fog", -40, frames), ("Boot", 0, 48), ("Gull", 0, 48)))
    assert [pin.frame for pin in film.track_pins()] == [30]
    assert film.track[-1].end == track[-1].end


def test_frames_may_be_numbered_as_the_scene_numbers_them(film):
    asks(film, cut_of(("Fog", 1013, 40), ("Boot", 0, 48), ("Gull", 0, 48), numbered=True))
    assert [pin.frame for pin in film.track_pins()] == [18]


def test_a_cut_that_says_what_is_there_changes_nothing(film):
    own = [(name, 0, frames) for name, frames in shots(film)]
    assert "as the cut has them already" in asks(film, cut_of(*own)).content.decode()


def test_a_cut_that_cannot_be_taken_says_why_and_changes_nothing(film):
    before = shots(film)
    for cut, why in (
        (cut_of(("Whale", 0, 20), ("Storm", 0, 20)), "No shot of this cut is here"),
        (cut_of(("Fog", 0, 20), ("Fog", 20, 20)), "is in this cut twice"),
        (SimpleUploadedFile("film.otio", b"{}"), "OpenTimelineIO file is no"),
        ("", "Choose the cut"),
    ):
        answer = asks(film, cut)
        assert answer.status_code == 422
        assert why in answer.content.decode()
    assert shots(film) == before
    assert asks(film, cut_of(("Fog", 0, 20)), person=film.viewer).status_code == 404
    assert Scene.objects.count() == 3
