"""Placing clips: nothing is lost, and what belongs to a sound moves with it."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from tests.speech import sounds_of
from tinfork.core.errors import SoundError, TrackError
from tinfork.core.exposure import pins as anchored_pins
from tinfork.core.exposure.track import Pin
from tinfork.core.plain import plain, restore
from tinfork.core.sound import anchors, mix
from tinfork.core.sound import arrangement as core
from tinfork.core.speech import anchors as anchored_words
from tinfork.core.speech.reading import Line, Word

FPS = 24.0


def two_tracks():
    made = core.add_track(core.Arrangement(), "dialogue", "Marit", 1)
    made = core.add_track(made, "effects", "Horn")
    made = core.place(made, 1, sound=5, whole=100, start=0)
    made = core.place(made, 1, sound=6, whole=50, start=120)
    return core.place(made, 2, sound=7, whole=40, start=90)


def spans(made):
    return [[(c.start, c.end, c.offset) for c in t.clips] for t in made.tracks]


def heard_at(made):
    """All that is heard on each track: (scene frame, sound, the sound's own frame)."""
    return [
        {(frame, c.sound, frame - c.start + c.offset) for c in t.clips for frame in range(c.start, c.end)}
        for t in made.tracks
    ]


def test_split_changes_nothing_that_is_heard():
    made = two_tracks()
    assert heard_at(core.split(made, [c.id for c in made.clips], 95)) == heard_at(made)


def test_slide_with_and_without_what_follows():
    made = two_tracks()
    assert spans(core.slide(made, [3], 10)) == [[(10, 110, 0), (120, 170, 0)], [(90, 130, 0)]]
    assert spans(core.slide(made, [5], 10, ripple=True)) == [[(0, 100, 0), (130, 180, 0)], [(100, 140, 0)]]
    assert spans(core.slide(made, [4, 5], -5)) == [[(0, 100, 0), (115, 165, 0)], [(85, 125, 0)]]


def test_trim_stays_within_the_sound_and_comes_back():
    made = two_tracks()
    trimmed = core.trim(made, 3, 20, 60)
    assert spans(trimmed)[0][0] == (20, 60, 20)
    assert spans(core.trim(trimmed, 3, -500, 500)) == spans(made)
    with pytest.raises(SoundError, match="at least one frame"):
        core.trim(made, 3, 60, 60)


def test_a_piece_is_taken_away_and_the_gap_closed_or_not():
    made = two_tracks()
    assert spans(core.cut_out(made, 50, 100)) == [[(0, 50, 0), (120, 170, 0)], [(100, 130, 10)]]
    assert spans(core.cut_out(made, 50, 100, ripple=True)) == [[(0, 50, 0), (70, 120, 0)], [(50, 80, 10)]]
    assert spans(core.cut_out(made, 50, 100, [1], ripple=True)) == [[(0, 50, 0), (70, 120, 0)], [(90, 130, 0)]]
    inside = core.cut_out(made, 40, 60, [1], ripple=True)
    assert spans(inside)[0] == [(0, 40, 0), (40, 80, 60), (100, 150, 0)]
    assert spans(core.delete(made, [3], ripple=True)) == [[(20, 70, 0)], [(90, 130, 0)]]


def test_a_gap_is_opened_through_what_lies_across_it():
    opened = core.shift_after(two_tracks(), 50, 24, split_across=True)
    assert spans(opened) == [[(0, 50, 0), (74, 124, 50), (144, 194, 0)], [(114, 154, 0)]]


def test_solo_and_mute_say_what_is_heard():
    made = two_tracks()
    assert [t.id for t in core.heard_tracks(made)] == [1, 2]
    assert [t.id for t in core.heard_tracks(core.set_track(made, 2, muted=True))] == [1]
    assert [t.id for t in core.heard_tracks(core.set_track(made, 2, solo=True))] == [2]


def test_length_follows_the_sound_or_is_set():
    made = two_tracks()
    assert made.frames == 170
    assert core.set_length(made, 90).frames == 90
    assert core.Arrangement().frames == 1


moves = st.lists(
    st.tuples(
        st.sampled_from(["slide", "trim", "split", "cut", "gap"]),
        st.integers(-60, 200),
        st.integers(1, 80),
        st.booleans(),
    ),
    max_size=8,
)


def moved(made, run):
    for verb, a, b, flag in run:
        ids = [c.id for c in made.clips]
        try:
            if verb == "slide" and ids:
                made = core.slide(made, [ids[a % len(ids)]], b - 40, flag)
            elif verb == "trim" and ids:
                made = core.trim(made, ids[a % len(ids)], a, a + b)
            elif verb == "split" and ids:
                made = core.split(made, ids, a)
            elif verb == "cut":
                made = core.cut_out(made, a, a + b, None, flag)
            elif verb == "gap":
                made = core.shift_after(made, a, b, split_across=flag)
        except SoundError:
            continue
    return made


@given(moves)
def test_every_clip_stays_within_its_sound_whatever_is_done(run):
    made = moved(two_tracks(), run)
    for clip in made.clips:
        assert clip.frames >= 1
        assert clip.offset >= 0
        assert clip.offset + clip.frames <= clip.whole
    assert len({c.id for c in made.clips}) == len(made.clips) < made.next
    assert restore(plain(made), core.Arrangement) == made


@given(moves, st.integers(0, 99), st.integers(1, 6))
def test_a_pin_is_seen_exactly_where_its_sound_is_heard(run, frame, frames):
    before, after = two_tracks(), moved(two_tracks(), run)
    bound = anchored_pins.anchor_pins([Pin(frame, frames, "open")], before.tracks[0].clips)
    end = max(1, after.frames)
    found = anchored_pins.place_pins(bound, after.tracks[0].clips, end)
    placed, hidden = found.shown, found.hidden
    where = [at for at, sound, place in heard_at(after)[0] if (sound, place) == (5, frame) and 0 <= at < end]
    assert len(placed) + len(hidden) == 1
    if placed:
        assert placed[0].frame in where
        if sum(c.start <= placed[0].frame < c.end for c in after.tracks[0].clips) == 1:
            assert anchored_pins.anchor_pins(placed, after.tracks[0].clips)[0].frame == frame
    elif hidden == bound:
        clips = after.tracks[0].clips
        assert not where or any(c.start - c.offset + frame < 0 for c in clips if c.source_id == 3)


def line_of(words):
    placed = []
    for text, start in words:
        sounds = tuple(sounds_of(["b", "u", "t"], [0.1, 0.1, 0.1], start))
        placed.append(Word(text, start, start + 0.3, 1.0, False, sounds))
    return Line("x", placed[0].start, placed[-1].end, tuple(placed), id=4)


@given(moves)
def test_words_are_heard_where_their_sound_is(run):
    before, after = two_tracks(), moved(two_tracks(), run)
    line = line_of([("a", 0.5), ("b", 2.0), ("c", 5.5)])
    kept = anchored_words.to_source([line], before.tracks[0].clips, FPS)
    (same,) = anchored_words.to_scene(kept, before.tracks[0].clips, before.frames, FPS)
    assert [(w.text, len(w.sounds)) for w in same.words] == [(w.text, len(w.sounds)) for w in line.words]
    assert [w.start for w in same.words] == pytest.approx([w.start for w in line.words])
    clips, frames = after.tracks[0].clips, after.frames
    for found in anchored_words.to_scene(kept, clips, frames, FPS):
        assert found.id == 4
        for word in found.words:
            for sound in word.sounds:
                middle = (sound.start + sound.end) / 2 * FPS
                assert 0 <= middle <= frames
                assert any(c.source_id == word.source_id and c.start - 1 <= middle <= c.end + 1 for c in clips)


def test_what_belongs_to_no_sound_stays_where_it_is():
    clips = two_tracks().tracks[0].clips
    kept = anchored_words.to_source([line_of([("a", 4.5)])], clips, FPS)
    assert kept[0].words[0].source_id == anchors.SCENE
    slid = [replace(c, start=c.start + 50) for c in clips]
    assert anchored_words.to_scene(kept, slid, 300, FPS)[0].start == 4.5


def test_a_mix_lays_clips_where_they_are(tmp_path):
    tone = 0.25 * np.ones(48_000, np.float32)
    soundfile.write(tmp_path / "a.flac", tone, 48_000)
    pieces = [
        mix.SoundPiece(tmp_path / "a.flac", 0.5, 0.25, 0.5),
        mix.SoundPiece(tmp_path / "a.flac", -0.5, 0.0, 1.2, 2.0),
    ]
    heard = np.concatenate(list(mix.blocks(pieces, 2.0)))
    assert len(heard) == 96_000
    for second, level in ((0.1, 0.5), (0.45, 0.5), (0.6, 0.25), (0.9, 0.25), (1.1, 0.0), (1.9, 0.0)):
        assert heard[int(second * 48_000)] == pytest.approx(level, abs=1e-3)
    later = np.concatenate(list(mix.blocks(pieces, 0.2, 0.4)))
    assert np.array_equal(later, heard[19_200:28_800])
    mix.write(tmp_path / "mix.flac", pieces, 2.0)
    assert soundfile.info(tmp_path / "mix.flac").frames == 96_000
    assert mix.recording(pieces, 2.0).seconds == 2.0


one_pin = st.tuples(st.integers(0, 40), st.integers(1, 9), st.sampled_from(["open", "press"]))


@given(moves, st.lists(one_pin, max_size=6), moves)
def test_no_pin_changes_unless_a_person_changes_it(run, asked, later):
    made = moved(two_tracks(), run)
    kept = ()
    for frame, frames, drawing in asked:
        kept = anchored_pins.set_pins(kept, [Pin(frame, frames, drawing)], made.tracks[0].clips, 60)
    after = moved(made, later)
    found = anchored_pins.place_pins(kept, after.tracks[0].clips, 60)
    seen = sum(pin.frames for pin in found.shown)
    assert all(a.end <= b.frame for a, b in itertools.pairwise(found.shown))
    assert seen <= sum(pin.frames for pin in kept)
    assert {id(pin) for pin in (*found.hidden, *(one.pin for one in found.covered))} <= {id(pin) for pin in kept}
    whole = [pin for pin in kept if pin not in found.hidden and pin not in [one.pin for one in found.covered]]
    assert all(any(shown.drawing == pin.drawing for shown in found.shown) for pin in whole)


def test_a_pin_set_later_lies_on_those_a_move_brought_under_it():
    pins = (anchored_pins.AnchoredPin(10, 8, "open", 1), anchored_pins.AnchoredPin(4, 3, "press", 2))
    clips = (core.Clip(1, 7, 1, 0, 0, 30, 30), core.Clip(2, 8, 2, 8, 0, 20, 20))
    found = anchored_pins.place_pins(pins, clips, 60)
    assert found.shown == (Pin(10, 2, "open"), Pin(12, 3, "press"), Pin(15, 3, "open"))
    assert [(one.pin, one.frame) for one in found.covered] == [(pins[0], 10)]
    third = anchored_pins.set_pins(pins, [Pin(30, 2, "open")], clips, 60)
    assert third[:2] == pins
    on_top = anchored_pins.set_pins(pins, [Pin(16, 9, "purse")], clips, 60)
    assert on_top[0] == anchored_pins.AnchoredPin(10, 6, "open", 1)
    assert on_top[1] == pins[1]
    assert anchored_pins.unset_pins(pins, [13], clips, 60) == pins[:1]
    with pytest.raises(TrackError):
        anchored_pins.unset_pins(pins, [40], clips, 60)


def test_what_begins_with_the_first_that_is_moved_moves_along_too():
    made = core.place(two_tracks(), 2, sound=8, whole=10, start=120)
    moved = core.slide(made, [4], 7, ripple=True)
    assert spans(moved) == [[(0, 100, 0), (127, 177, 0)], [(90, 130, 0), (127, 137, 0)]]


def test_the_next_free_frames_lie_after_what_is_in_the_way():
    clips = [core.Clip(n, 1, 1, start, 0, 10, 10) for n, start in enumerate((0, 12, 40), 1)]
    asked = [(10, 2), (10, 3), (5, 5), (22, 18), (22, 19), (50, 99)]
    assert [core.free_from(clips, start, frames) for start, frames in asked] == [10, 22, 22, 22, 50, 50]
