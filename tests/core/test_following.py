"""Where what was set lies afterwards: at another rate, and in another version of its sound."""

import itertools
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from bench import following as bench
from tests.speech import recording_of, speak
from tinfork.core.acting.lanes import Gesture, Key, Lane
from tinfork.core.errors import SoundError
from tinfork.core.exposure.pins import AnchoredPin
from tinfork.core.exposure.ranges import AnchoredMood, AnchoredStretch
from tinfork.core.exposure.verbs import Piece
from tinfork.core.following import carrying
from tinfork.core.following.following import ANEW, GONE, NEW, SAME, SPEED, follow, read_plain
from tinfork.core.following.likeness import runs_of
from tinfork.core.following.replacing import NewSound, replaced
from tinfork.core.following.ways import Leg, OtherRate, OtherSounds, frame_of
from tinfork.core.sound import recording
from tinfork.core.sound.arrangement import Arrangement, Clip, SoundTrack
from tinfork.core.sound.recording import READ_RATE, resampled
from tinfork.core.speech.read import LineToRead, read_lines

VOICES = Path(__file__).parents[2] / "tinfork" / "web" / "demo" / "voices"
RATES = {name: Fraction(name) for name in ("12", "24", "25", "30", "60")} | {"23.976": Fraction(24000, 1001)}
pins = st.lists(st.tuples(st.integers(0, 2_000), st.integers(1, 9)), min_size=1, max_size=12)


# Another rate


@given(pins, st.sampled_from(["25", "30", "60"]))
def test_a_finer_rate_and_back_gives_the_same(found, rate):
    own = [AnchoredPin(frame, frames, "open", 1) for frame, frames in found]
    there = carrying.pins(OtherRate(RATES["24"], RATES[rate]), own).things
    assert carrying.pins(OtherRate(RATES[rate], RATES["24"]), there).things == tuple(own)


@given(pins)
def test_a_coarser_rate_and_back_gives_the_same_where_it_has_room(found):
    own = [AnchoredPin(2 * frame, 2 * frames, "open", 1) for frame, frames in found]
    there = carrying.pins(OtherRate(RATES["24"], RATES["12"]), own).things
    assert carrying.pins(OtherRate(RATES["12"], RATES["24"]), there).things == tuple(own)


@given(pins, st.sampled_from(sorted(RATES)), st.sampled_from(sorted(RATES)))
def test_what_follows_one_another_still_does_and_covers(found, before, after):
    way = OtherRate(RATES[before], RATES[after])
    edges = sorted({frame for frame, _ in found})
    own = [AnchoredPin(a, b - a, "open", 1) for a, b in itertools.pairwise(edges)]
    there = carrying.pins(way, own).things
    for one, other in itertools.pairwise(there):
        assert one.frame <= other.frame
        assert one.frame + one.frames >= other.frame
    ratio = float(RATES[after] / RATES[before])
    assert all(abs(now.frame - pin.frame * ratio) <= 0.5 + 1e-6 for pin, now in zip(own, there, strict=True))


def test_what_has_no_frame_of_its_own_any_more_is_told():
    own = [AnchoredPin(frame, 1, str(frame), 1) for frame in range(8, 12)]
    found = carrying.pins(OtherRate(RATES["24"], RATES["12"]), own)
    assert len(found.things) == 4
    assert [pin.drawing for pin in found.together] == ["9"]
    lane, left, together = carrying.lane(
        OtherRate(RATES["24"], RATES["12"]), Lane({"turn": (Key(9, 1.0), Key(10, 0.5))}, (), (Gesture(1, "nod", 4),))
    )
    assert (left, together) == ((), (Key(10, 0.5),))
    assert [key.frame for key in lane.keys["turn"]] == [5, 5]
    assert [one.frame for one in lane.gestures] == [2]


def test_a_stretch_keeps_its_drawings_in_their_order():
    own = AnchoredStretch(10, 12, (Piece(0, 4, "a"), Piece(4, 1, "b"), Piece(5, 7, "c")), source_id=1)
    (found,) = carrying.ranges(OtherRate(RATES["24"], RATES["12"]), [own]).things
    assert (found.frame, found.frames) == (5, 6)
    assert [(piece.at, piece.frames, piece.drawing) for piece in found.pieces] == [
        (0, 2, "a"),
        (2, 1, "b"),
        (3, 3, "c"),
    ]


# Another sound

LEGS = (Leg(0, 100, 2, 0, 100), Leg(100, 200, 2, 148, 248), Leg(250, 300, 2, 248, 298))
WAY = OtherSounds(Fraction(24), {1: LEGS})


def test_a_mouth_goes_with_the_longest_part_of_it_and_a_mood_covers_what_is_put_in():
    (pin,) = carrying.pins(WAY, [AnchoredPin(98, 8, "open", 1)]).things
    assert (pin.frame, pin.frames, pin.source_id) == (148, 6, 2)
    (mood,) = carrying.ranges(WAY, [AnchoredMood(90, 20, "angry", 1)]).things
    assert (mood.frame, mood.frames) == (90, 68)


def test_what_is_gone_stays_as_it_is_kept_and_is_told():
    gone = AnchoredPin(210, 6, "open", 1)
    found = carrying.pins(WAY, [gone, AnchoredPin(240, 30, "purse", 1)])
    assert found.left == (gone,)
    assert found.things == (gone, AnchoredPin(248, 20, "purse", 2))
    assert frame_of(WAY, 1, 220) is None
    assert frame_of(WAY, 7, 220) == (7, 220)


def arranged(*clips):
    own = tuple(Clip(n, 5, 1, start, offset, frames, 300) for n, (start, offset, frames) in enumerate(clips, 3))
    return Arrangement((SoundTrack(1, "dialogue", "Marit", 9, clips=own),), None, 20)


def test_a_sound_in_the_place_of_one_that_was_cut_up_shows_what_each_piece_did():
    found = replaced(arranged((0, 0, 100), (150, 250, 50)), 1, NewSound(6, 298), LEGS, [True] * 3, ends=False)
    assert [(c.start, c.offset, c.frames, c.sound) for c in found.arrangement.clips] == [
        (0, 0, 100, 6),
        (150, 248, 50, 6),
    ]
    assert found.source_id == 20
    assert frame_of(OtherSounds(Fraction(24), {0: found.scene}), 0, 160) == (0, 160)


def test_what_follows_makes_room_and_the_scene_goes_along():
    found = replaced(arranged((10, 0, 200), (210, 200, 100)), 1, NewSound(6, 298), LEGS, [True] * 3, ends=True)
    assert [(c.start, c.offset, c.frames) for c in found.arrangement.clips] == [(10, 0, 248), (260, 248, 50)]
    way = OtherSounds(Fraction(24), {0: found.scene})
    assert [frame_of(way, 0, frame) for frame in (5, 50, 150, 270)] == [(0, 5), (0, 50), (0, 198), (0, 270)]


def test_nothing_that_is_heard_is_in_the_new_one():
    with pytest.raises(SoundError, match="Nothing that is heard"):
        replaced(arranged((0, 200, 50)), 1, NewSound(6, 298), LEGS, [True] * 3, ends=True)


# By likeness


@pytest.fixture(scope="module")
def old(tmp_path_factory):
    folder = tmp_path_factory.mktemp("old")
    texts = ("Who keeps ringing that bell at night?", "The ferry leaves at four, with or without salt.")
    return np.concatenate([recording.load(speak(folder / f"{n}.wav", text)).samples for n, text in enumerate(texts)])


def test_the_same_sound_is_the_same_to_the_sample_however_loud(old):
    shift = np.concatenate([np.zeros(5_000, np.float32), old * 0.2])
    (run,) = runs_of(old, shift)
    assert run.at(1.0) == pytest.approx(1.0 + 5_000 / 16_000, abs=1 / 16_000)
    assert (run.first, run.end) == (0.0, pytest.approx(len(old) / 16_000, abs=0.06))


def test_a_cut_is_found_where_it_was_made_and_a_speed_as_it_is(old):
    cut = np.concatenate([old[:24_000], old[36_000:]])
    one, other = runs_of(old, cut)
    assert (one.end, other.first) == (pytest.approx(1.5, abs=0.04), pytest.approx(2.25, abs=0.04))
    slow = np.interp(np.arange(int(len(old) * 1.04)) / 1.04, np.arange(len(old)), old).astype(np.float32)
    (run,) = runs_of(old, slow)
    assert run.rate == pytest.approx(1.04, abs=2e-4)


def test_another_voice_and_noise_are_not_the_same(old, tmp_path):
    other = recording.load(speak(tmp_path / "other.wav", "Who keeps ringing that bell at night?", "rms")).samples
    assert runs_of(old, other) == []
    assert runs_of(old, np.random.default_rng(1).standard_normal(48_000).astype(np.float32) * 0.1) == []
    assert runs_of(old, np.zeros(48_000, np.float32)) == []
    assert runs_of(np.zeros(16_000, np.float32), old) == []


def test_a_line_that_comes_three_times_is_one_of_them_and_the_others_are_new(old):
    lines = read_lines(recording_of(old), [LineToRead("Who keeps ringing that bell at night?", "en", 1)]).lines
    found = follow(recording_of(old), recording_of(np.concatenate([old, old, old])), lines, read_plain())
    assert [one.kind for one in found.stretches if one.kind != NEW] == [SAME]
    assert found.lines[0].words[0].start == pytest.approx(lines[0].words[0].start, abs=0.003)


def test_stretches_say_what_became_of_them(old):
    lines = read_lines(recording_of(old), [LineToRead("Who keeps ringing that bell at night?", "en", 1)]).lines
    with_gap = np.concatenate([old[:24_000], np.zeros(16_000, np.float32), old[30_000:]])
    found = follow(recording_of(old), recording_of(with_gap), lines, read_plain())
    kinds = {one.kind for one in found.stretches}
    assert kinds == {SAME, GONE, NEW}
    assert not kinds & {SPEED, ANEW}


def test_of_things_that_are_set_next_to_none_lies_elsewhere_and_none_is_lost():
    """A few of the made cases; the bench has hundreds."""
    whole = bench.Tally()
    for _, own, _ in (*bench.edits(3, 3), *bench.takes(1, 3)):
        whole.add(own)
    assert whole.lost == 0
    assert whole.right >= 0.95 * whole.placed


def test_little_speech_in_much_silence_is_known_again():
    """Pairs of its few stretches lie across the cut, and say another speed."""
    samples, rate = soundfile.read(VOICES / "goat-brede.flac", dtype="float32")
    gap, first, gone = np.zeros(rate, np.float32), int(5.2 * rate), int(2.1 * rate)
    cut = np.concatenate([samples[:first], gap, samples[first : 2 * first], samples[2 * first + gone :]])
    one, two, three = runs_of(*(resampled([own], rate, READ_RATE) for own in (samples, cut)))
    assert {run.rate for run in (one, two, three)} == {1.0}
    assert [run.first for run in (two, three)] == [pytest.approx(5.2, abs=0.04), pytest.approx(12.5, abs=0.04)]
    assert [run.to - run.first for run in (one, two, three)] == pytest.approx([0.0, 1.0, -1.1], abs=0.002)


def test_what_is_new_is_read_beside_what_is_the_same(old, tmp_path):
    lines = read_lines(recording_of(old), [LineToRead("Who keeps ringing that bell at night?", "en", 1)]).lines
    spoken = [word for word in lines[0].words if not word.is_unwritten]
    cut = int(spoken[-1].end * 16_000) + 800
    other = recording.load(speak(tmp_path / "other.wav", "There is no tea left.", "rms")).samples
    new = np.concatenate([old[:cut], other, old[cut:]])
    found = follow(recording_of(old), recording_of(new), lines, read_plain())
    was, written = ([word for word in line.words if not word.is_unwritten] for line in (lines[0], found.lines[0]))
    assert [word.text for word in written] == [word.text for word in was]
    assert [word.start for word in written] == pytest.approx([word.start for word in was], abs=0.003)
    unwritten = [word for word in found.lines[0].words if word.is_unwritten]
    spans = [(max(word.start, cut / 16_000), min(word.end, (cut + len(other)) / 16_000)) for word in unwritten]
    heard = sum(end - start for start, end in spans if end > start)
    assert heard > 0.5 * len(other) / 16_000
