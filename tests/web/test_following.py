"""Another version of a sound comes into a scene, and what was set on the old one comes along."""

import io

import numpy as np
import pytest
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.speech import speak
from tinfork.core.errors import TinForkError
from tinfork.core.plain import plain
from tinfork.core.sound.anchors import SCENE
from tinfork.web.edits.models import Edit
from tinfork.web.following.reading import ask_to_follow, compare, following_of
from tinfork.web.following.taking import plan_of, shot_otherwise, take
from tinfork.web.rushes import actions as rushes
from tinfork.web.sheet.actions import write_note
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.staves.planning import scene_reading


@pytest.fixture
def samples(spoken):
    found, rate = soundfile.read(io.BytesIO(spoken[0]), dtype="float32")
    return found, rate


def brought(ferry, samples, rate, name="next.wav"):
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV")
    return bring_in(ferry.owner, ferry.scene.production, SimpleUploadedFile(name, out.getvalue()))


def compared(ferry, sound):
    source = arrangement_of(ferry.scene).value.clips[0].source_id
    asked = ask_to_follow(ferry.owner, ferry.scene, source, sound)
    compare(job_id=asked.job.pk)
    return following_of(ferry.scene, asked.pk)


def gap_after(reading, word):
    """The middle of the pause, or the seam, after a word, in seconds."""
    words = reading.lines[0].words
    return (words[word].end + words[word + 1].start) / 2


def with_silence(samples, rate, at, seconds):
    gap = np.zeros(int(seconds * rate), np.float32)
    return np.concatenate([samples[: int(at * rate)], gap, samples[int(at * rate) :]])


def state(ferry):
    """All that is kept and seen of the scene."""
    clips = [(c.source_id, c.sound, c.start, c.offset, c.frames) for c in arrangement_of(ferry.scene).value.clips]
    notes = SheetNotes.objects.filter(scene=ferry.scene).values_list("notes", flat=True).first() or {}
    return (
        ferry.track,
        clips,
        plain(ferry.fresh.reading_value),
        ferry.fresh.pins,
        notes,
        list(ferry.scene.comments.values_list("frame", "end")),
    )


def test_silence_put_in_moves_what_comes_after_it(ferry, samples):
    found, rate = samples
    at = gap_after(ferry.fresh.reading_value, 3)
    frame = int(at * 24)
    ferry.edit(ferry.owner, "pin", frame=8, frames=3, drawing="purse")
    ferry.edit(ferry.owner, "pin", frame=frame + 6, frames=3, drawing="open")
    write_note(ferry.owner, ferry.scene, frame + 6, "wind")
    rushes.write(ferry.owner, ferry.scene, rushes.Note("Softer.", frame + 6, frame + 8))
    before, words = state(ferry), scene_reading(ferry.fresh).lines[0].words
    asked = compared(ferry, brought(ferry, with_silence(found, rate, at, 1.0), rate))
    assert [one.kind for one in asked.value.stretches] == ["same", "same", "new"]
    along = take(ferry.owner, asked, ends=True)
    assert not along.left
    assert not along.together
    assert [(pin.frame, pin.frames) for pin in ferry.track_pins()] == [(8, 3), (frame + 30, 3)]
    assert SheetNotes.objects.get().notes == {str(frame + 30): "wind"}
    assert list(ferry.scene.comments.values_list("frame", "end")) == [(frame + 30, frame + 32)]
    after = scene_reading(ferry.fresh).lines[0].words
    assert [word.text for word in after] == [word.text for word in words]
    assert [b.start - a.start for a, b in zip(words, after, strict=True)] == pytest.approx(
        [0.0] * 4 + [1.0] * (len(words) - 4), abs=0.002
    )
    assert {e.drawing for e in ferry.track if frame + 4 < e.frame < frame + 18} <= {"rest"}
    assert Edit.objects.filter(scene=ferry.scene, undone=False, superseded=False).values("step").distinct().last()
    now = state(ferry)
    assert ferry.edit(ferry.owner, "undo").status_code == 200
    assert state(ferry) == before
    assert ferry.edit(ferry.owner, "redo").status_code == 200
    assert state(ferry) == now


def test_mouths_before_a_cut_stay_as_they_are(ferry, samples):
    found, rate = samples
    at = gap_after(ferry.fresh.reading_value, 4)
    before = ferry.track
    take(ferry.owner, compared(ferry, brought(ferry, with_silence(found, rate, at, 2.0), rate)), ends=True)
    edge = int(at * 24) - 6
    assert [e for e in ferry.track if e.end <= edge] == [e for e in before if e.end <= edge]
    moved = [(e.frame + 48, e.frames, e.drawing) for e in before if e.frame > edge + 12]
    assert [(e.frame, e.frames, e.drawing) for e in ferry.track if e.frame > edge + 60][: len(moved) - 1] == moved[:-1]


def test_what_was_cut_away_is_listed_and_not_lost(ferry, samples):
    found, rate = samples
    words = ferry.fresh.reading_value.lines[0].words
    a, b = (words[2].start + words[2].end) / 2 - 0.12, words[4].end + 0.02
    ferry.edit(ferry.owner, "pin", frame=int((a + b) / 2 * 24), frames=3, drawing="purse")
    asked = compared(ferry, brought(ferry, np.concatenate([found[: int(a * rate)], found[int(b * rate) :]]), rate))
    assert "gone" in [one.kind for one in asked.value.stretches]
    along = take(ferry.owner, asked, ends=True)
    assert [(one.what, one.drawing) for one in along.left] == [("mouth", "purse")]
    assert [pin.drawing for pin in ferry.fresh.pin_values] == ["purse"]


def test_another_take_goes_by_its_words(ferry, tmp_path):
    words = scene_reading(ferry.fresh).lines[0].words
    pinned = int((words[4].start + 0.02) * 24)
    ferry.edit(ferry.owner, "pin", frame=pinned, frames=3, drawing="purse")
    path = speak(tmp_path / "other.wav", voice="rms")
    with path.open("rb") as file:
        sound = bring_in(ferry.owner, ferry.scene.production, SimpleUploadedFile("other.wav", file.read()))
    asked = compared(ferry, sound)
    assert not asked.value.alike
    along = take(ferry.owner, asked, ends=True)
    assert not along.left
    after = scene_reading(ferry.fresh).lines[0].words
    assert [word.text for word in after] == [word.text for word in words]
    (pin,) = ferry.track_pins()
    assert abs(pin.frame - (after[4].start + 0.02) * 24) < 1.6
    assert ferry.scene.takes.get().sound.name == "line.wav"


def test_what_cannot_be_followed_says_why_and_changes_nothing(ferry, samples, tone):
    found, rate = samples
    before = state(ferry)
    clip = arrangement_of(ferry.scene).value.clips[0]
    with pytest.raises(TinForkError, match="lies here already"):
        ask_to_follow(ferry.owner, ferry.scene, clip.source_id, type(ferry.scene.production.sounds.get()).objects.get())
    with pytest.raises(TinForkError, match="not in this scene any more"):
        ask_to_follow(ferry.owner, ferry.scene, 999, brought(ferry, found * 0.5, rate))
    for sound in (bring_in(ferry.owner, ferry.scene.production, tone), brought(ferry, found * 0, rate, "silence.wav")):
        asked = compared(ferry, sound)
        assert asked.job.state == "failed"
        assert "Nothing of the old sound is heard in this one" in asked.job.message
        with pytest.raises(TinForkError, match="still being compared"):
            take(ferry.owner, asked, ends=True)
    assert state(ferry) == before


def test_a_reading_that_changed_meanwhile_is_compared_again(ferry, samples):
    found, rate = samples
    asked = compared(ferry, brought(ferry, np.concatenate([np.zeros(rate, np.float32), found]), rate))
    word = scene_reading(ferry.fresh).lines[0].words[2]
    ferry.edit(ferry.owner, "edge", at=[0, 2], edge=0, time=word.start + 0.03)
    with pytest.raises(TinForkError, match="was changed since both sounds were compared"):
        take(ferry.owner, asked, ends=True)


def test_an_edge_that_was_set_comes_along(ferry, samples):
    found, rate = samples
    word = scene_reading(ferry.fresh).lines[0].words[2]
    ferry.edit(ferry.owner, "edge", at=[0, 2], edge=0, time=word.start + 0.03)
    take(
        ferry.owner,
        compared(ferry, brought(ferry, np.concatenate([np.zeros(rate, np.float32), found]), rate)),
        ends=True,
    )
    own = scene_reading(ferry.fresh).lines[0].words[2]
    assert own.pinned == (0,)
    assert own.start == pytest.approx(word.start + 1.03, abs=0.002)


def test_handles_are_not_heard_unless_they_are_asked_for(ferry, samples):
    found, rate = samples
    asked = compared(ferry, brought(ferry, np.concatenate([np.zeros(rate, np.float32), found]), rate))
    (clip,) = plan_of(asked, ends=False).replaced.arrangement.clips
    assert (clip.start, clip.offset) == (0, 24)
    (clip,) = plan_of(asked, ends=True).replaced.arrangement.clips
    assert (clip.start, clip.offset) == (0, 0)


def test_frames_at_the_camera_are_told_where_they_show_something_else(ferry, samples):
    found, rate = samples
    at = gap_after(ferry.fresh.reading_value, 3)
    frame = int(at * 24)
    for one in (2, frame + 5, frame + 6):
        ferry.scene.exposed.create(key=f"00000000-0000-0000-0000-0000000{one:05d}", frame=one, when="2026-12-01T00:00Z")
    asked = compared(ferry, brought(ferry, with_silence(found, rate, at, 1.0), rate))
    assert shot_otherwise(plan_of(asked, ends=True)) == [range(frame + 5, frame + 7)]


# Waiting in the middle of a shoot


def waits(ferry, person=None, **asked):
    return ferry.client(person or ferry.owner).post(f"/scenes/{ferry.scene.pk}/wait", asked)


def test_waiting_moves_what_comes_after_and_leaves_the_log(ferry):
    at = int(gap_after(ferry.fresh.reading_value, 3) * 24)
    ferry.edit(ferry.owner, "pin", frame=8, frames=3, drawing="purse")
    ferry.edit(ferry.owner, "pin", frame=at + 6, frames=3, drawing="open")
    write_note(ferry.owner, ferry.scene, at + 6, "wind")
    for n, frame in enumerate((3, at + 4)):
        ferry.scene.exposed.create(key=f"00000000-0000-0000-0000-0000000{n:05d}", frame=frame, when="2026-12-01T00:00Z")
    before = state(ferry)
    words = scene_reading(ferry.fresh).lines[0].words
    told = waits(ferry, frame=at + 1001, frames=12, who="", do="look").content.decode()
    assert "Shot already after it: frames" in told
    assert str(at + 1005) in told
    assert state(ferry) == before
    answer = waits(ferry, frame=at + 1001, frames=12, who="", do="wait")
    assert answer["HX-Redirect"] == f"/scenes/{ferry.scene.pk}/prompter/"
    assert [(pin.frame, pin.drawing) for pin in ferry.track_pins()] == [(8, "purse"), (at + 18, "open")]
    after = scene_reading(ferry.fresh).lines[0].words
    assert after[-1].start == pytest.approx(words[-1].start + 0.5, abs=1e-3)
    assert after[0].start == words[0].start
    assert SheetNotes.objects.get().notes == {str(at + 18): "wind"}
    assert sorted(ferry.scene.exposed.values_list("frame", flat=True)) == [3, at + 4]
    assert waits(ferry, do="undo").status_code == 204
    assert state(ferry) == before


def test_words_that_lie_on_no_sound_wait_too(ferry):
    """Put in by hand after the sound's end; a line of the script has its time in the scene."""
    ferry.sound(ferry.owner, "length", frames=200)
    told = ferry.edit(ferry.owner, "write line", start=7.0, text="Fog")
    assert told.status_code == 200, told.content
    word = scene_reading(ferry.fresh).lines[-1].words[0]
    assert word.source_id == SCENE
    waits(ferry, frame=1151, frames=24, do="wait")
    moved = scene_reading(ferry.fresh).lines[-1].words[0]
    assert (moved.text, moved.start) == (word.text, pytest.approx(word.start + 1, abs=1e-3))
    waits(ferry, do="undo")
    assert scene_reading(ferry.fresh).lines[-1].words[0].start == word.start


def test_a_wait_is_shortened_as_long_as_nothing_of_it_is_shot(ferry):
    at = int(gap_after(ferry.fresh.reading_value, 3) * 24)
    ferry.edit(ferry.owner, "pin", frame=at + 6, frames=3, drawing="open")
    waits(ferry, frame=at + 1001, frames=12, do="wait")
    waits(ferry, frame=at + 1001, frames=4, way="shorter", do="wait")
    assert [pin.frame for pin in ferry.track_pins()] == [at + 14]
    told = waits(ferry, frame=at + 1001, frames=9, way="shorter", do="wait").content.decode()
    assert "8 frames from here on are silent" in told
    ferry.scene.exposed.create(key="00000000-0000-0000-0000-000000000001", frame=at + 2, when="2026-12-01T00:00Z")
    told = waits(ferry, frame=at + 1001, frames=4, way="shorter", do="wait").content.decode()
    assert f"Frame {at + 1003} is shot already" in told
    assert [pin.frame for pin in ferry.track_pins()] == [at + 14]


def test_a_wait_that_cannot_be_says_why(ferry):
    for asked, why in (
        ({"frame": 1001, "frames": 0}, "Give how many frames"),
        ({"frame": 99999, "frames": 4}, "not in the scene any more"),
        ({"frame": 1005, "frames": 4, "who": 99999}, "choose everybody"),
    ):
        assert why in waits(ferry, do="wait", **asked).content.decode()
    assert waits(ferry, ferry.viewer, frame=1001, frames=4, do="wait").status_code in {403, 404}
    assert not Edit.objects.filter(scene=ferry.scene).exists()
