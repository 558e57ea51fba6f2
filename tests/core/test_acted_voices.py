"""Voices that are not like those the model has learned from: sized, shouted, whispered, over music."""

import itertools

import numpy as np
import pytest

from bench import acted, alone
from bench.alignment import WINDOW, measure, whole_reading
from bench.conditions import echoing, noisy
from bench.truth import Truth, espeak, flite
from tests.speech import recording_of
from tinfork.core.sound.bed import has_bed, without_bed
from tinfork.core.sound.clipped import clipped, restored
from tinfork.core.sound.features import cepstra, spectra, with_differences
from tinfork.core.sound.recording import READ_RATE, Recording
from tinfork.core.speech import align, model
from tinfork.core.speech.adapt import adapted
from tinfork.core.speech.fit import Fitted
from tinfork.core.speech.hearing import Ear
from tinfork.core.speech.listening import well_read
from tinfork.core.speech.read import LineToRead, read, read_lines
from tinfork.core.speech.throat import warps_of

GULL, HORN = "Please put both paws behind the yellow line.", "My left boot went overboard near the lighthouse."


def warp_of(line: Truth) -> float:
    return warps_of(spectra(line.recording.samples), model.load())[0]


@pytest.mark.parametrize("name", [name for name in acted.VOICES if name != "plain"])
def test_acted_voices_are_read(name):
    lines = [acted.VOICES[name](GULL, "slt"), acted.VOICES[name](HORN, "rms")]
    tally = measure(lines, whole_reading)
    near = np.abs(np.array(tally.true) - tally.found) <= WINDOW
    assert tally.failures == 0
    assert near.mean() >= (0.8 if name == "squeak whispered over music" else 0.85), name


@pytest.mark.parametrize("voice", ["slt", "rms"])
def test_how_large_somebody_is_is_heard(voice):
    squeak, plain, giant = (warp_of(acted.sized(HORN, voice, factor)) for factor in (acted.SQUEAKY, 1.0, acted.HUGE))
    assert 0.9 <= plain <= 1.1
    assert squeak / plain == pytest.approx(acted.SQUEAKY, rel=0.15)
    assert giant / plain == pytest.approx(acted.HUGE, rel=0.15)


def test_noise_makes_nobody_small():
    for voice in ("slt", "rms"):
        assert 0.9 <= warp_of(noisy(flite(HORN, voice), 10)) <= 1.2


def test_two_of_unlike_size_in_one_sound_are_each_heard_as_themselves():
    said = [acted.sized(GULL, "slt", acted.SQUEAKY), acted.sized(HORN, "rms", acted.HUGE)] * 2
    samples = np.concatenate([np.pad(one.recording.samples, (0, READ_RATE // 2)) for one in said])
    lines = [LineToRead(one.text, "en", n, n % 2 + 1) for n, one in enumerate(said)]
    found = read_lines(recording_of(samples), lines)
    assert found.warps[1] > 1.2
    assert found.warps[2] < 0.9
    begins = np.cumsum([0, *(len(one.recording.samples) + READ_RATE // 2 for one in said)]) / READ_RATE
    for line, begin, one in zip(found.lines, begins, said, strict=False):
        true = [phone.start + begin for phone in one.phones if phone.ipa]
        assert line.start == pytest.approx(true[0], abs=0.08)
        assert min(word.confidence for word in line.words) > 0.6


def test_what_is_known_of_a_voice_is_used():
    known = read_lines(acted.sized(GULL, "slt", 1.4).recording, [LineToRead(GULL, speaker=3)], warps={3: 1.36})
    assert known.warps == {3: 1.36}


def test_a_voice_that_is_known_wrongly_is_heard_anew():
    line = acted.sized(HORN, "rms", acted.HUGE)
    assert read_lines(line.recording, [LineToRead(HORN, speaker=3)], warps={3: 1.587}).warps[3] < 0.9


def test_a_long_sound_is_heard_anew_by_a_stretch_of_it():
    line = alone.in_one([acted.sized(text, "rms", acted.HUGE) for text in (HORN, GULL) * 6])
    assert line.recording.seconds > 30
    shares = []
    found = read_lines(line.recording, [LineToRead(line.text, speaker=3)], warps={3: 1.587}, progress=shares.append)
    assert found.warps[3] < 0.9
    assert np.mean([word.confidence for word in found.words()]) > 0.9
    assert shares == sorted(shares)
    assert max(b - a for a, b in itertools.pairwise(shares)) < 0.3


def test_wrong_words_do_not_become_right_by_hearing_them_as_somebody_else():
    for voice in ("slt", "rms"):
        found = read(flite(HORN, voice).recording, "Five brave people fell off the ferry and laughed.")
        assert np.mean([word.confidence for word in found.words()]) < 0.5


def test_peaks_that_were_cut_off_are_drawn_again():
    t = np.arange(48_000) / 48_000
    true = (np.sin(2 * np.pi * 200 * t) + 0.4 * np.sin(2 * np.pi * 430 * t + 1)).astype(np.float32)
    cut = np.clip(true, -0.8, 0.8)
    found = restored(cut, 48_000)
    assert np.array_equal(found[np.abs(true) < 0.78], true[np.abs(true) < 0.78])
    left = [np.sqrt(np.mean((one - true) ** 2)) for one in (cut, found)]
    assert left[1] < 0.25 * left[0]


def test_what_was_not_cut_off_stays_as_it_is():
    line = flite(GULL, "slt").recording.samples
    assert restored(line, READ_RATE) is line
    assert not clipped(np.zeros(1000, np.float32)).any()
    flat = np.full(5000, 0.5, np.float32)  # no sound: it is held for longer than any peak
    assert np.array_equal(restored(flat, READ_RATE), flat)


def test_a_bed_is_told_from_noise_a_room_and_other_voices():
    for text, voice in itertools.product((GULL, HORN), ("slt", "rms")):
        line = flite(text, voice)
        assert has_bed(acted.over_music(line).recording.samples)
        for other in (line, noisy(line, 10), echoing(line), acted.whispered(line), acted.sized(text, voice, 1.4)):
            assert not has_bed(other.recording.samples)
    assert not has_bed(espeak(GULL, "en-us").recording.samples)


def test_tones_that_stay_go_and_the_voice_stays():
    line = flite(HORN, "rms")
    voice = line.recording.samples
    t = np.arange(len(voice)) / READ_RATE
    tone = (0.3 * np.sqrt(np.mean(voice**2)) * np.sin(2 * np.pi * 587 * t)).astype(np.float32)
    found = without_bed(voice + tone)
    assert found is not voice
    assert np.abs(found @ tone) < 0.2 * (tone @ tone)
    assert np.corrcoef(found, voice)[0, 1] > 0.9


def test_features_are_moved_to_where_the_model_has_them():
    acoustic = model.load()
    line = flite(HORN, "slt")
    heard = Ear(line.recording.samples, acoustic).listen(1.0)
    phones = [tuple(acoustic.index(name) for name in ("K", "IY", "P"))]
    spans = align.best_path(heard.scores[20:80], align.build_graph([phones], acoustic))
    features = acoustic.fitted(with_differences(cepstra(line.recording.samples)))[20:80]
    moved = features * 1.3 + 0.4
    back = adapted(moved, acoustic.scores_of(moved), spans, acoustic)
    likely = [acoustic.scores_of(own)[range(60), [s.phone * 3 + 1 for s in spans for _ in range(s.start, s.end)]].mean()
              for own in (moved, back)]  # fmt: skip
    assert likely[1] > likely[0] + 1


def test_too_little_teaches_nothing():
    acoustic = model.load()
    features = np.zeros((50, 3, 13), np.float32)
    spans = [align.Span(0, 50, acoustic.index("AA"), 0, 0, 0)]
    assert adapted(features, acoustic.scores_of(features), spans, acoustic) is features
    assert adapted(features, acoustic.scores_of(features), [], acoustic) is features


def test_only_what_was_read_well_teaches():
    spans = tuple(align.Span(10 * n, 10 * n + 10, n, n, 0, 0) for n in range(3))
    assert well_read([Fitted(0, 3, 0, 30, spans, (0.97, 0.7, 0.8))]) == [spans[0], spans[2]]


def test_what_is_held_does_not_move_the_mean():
    static = np.random.default_rng(2).normal(0, 1, (300, 13)).astype(np.float32)
    there = np.zeros(300, bool)
    there[100:200] = True
    static[:, 0] = 0
    static[there, 1:] += 5
    found = with_differences(static, there)[~there, 0, 1:]
    assert np.allclose(found, static[~there, 1:] - static[~there, 1:].mean(axis=0), atol=1e-4)


def test_no_sound_is_too_short_or_too_strange_to_be_heard():
    acoustic = model.load()
    for samples in (np.zeros(400), np.ones(20_000), np.random.default_rng(1).standard_normal(9000)):
        ear = Ear(samples.astype(np.float32), acoustic)
        heard = ear.listen(ear.warps()[0])
        assert np.isfinite(heard.scores).all() and len(heard.scores) == -(-len(samples) // 160)
    assert Recording(np.zeros(10, np.float32), 1.0, 16_000).peak == 0
