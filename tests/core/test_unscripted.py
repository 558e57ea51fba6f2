import itertools
import shutil
from pathlib import Path

import numpy as np
import pocketsphinx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bench import alone
from bench.truth import espeak, flite
from tests.core.test_read import check_total_and_monotone
from tests.speech import LINE, noise, recording_of
from tinfork.core.errors import ScriptError
from tinfork.core.speech import model, recognise
from tinfork.core.speech.hearing import Ear
from tinfork.core.speech.loop import best_english, best_loop
from tinfork.core.speech.phones import from_arpabet
from tinfork.core.speech.unscripted import HEARD, LOUDNESS, SOUNDS, SOUNDS_ONLY, read_unscripted

T = np.arange(16_000 * 4) / 16_000
SWELLS = np.sin(2 * np.pi * 220 * T) * np.maximum(0, np.sin(2 * np.pi * T)) ** 2 * 0.5
SWEEP = 0.3 * np.sin(2 * np.pi * (100 + 400 * T) * T)
CLICK = np.eye(1, 32_000, 16_000)[0] * 0.9


def test_english_words_are_heard_and_read():
    first = []
    reading, lines, basis = read_unscripted(flite(LINE, "rms").recording, "en", first=first.append)
    assert basis == HEARD
    assert [word.text for word in first[0].words()] == [SOUNDS_ONLY]
    heard = " ".join(line.text for line in lines).split()
    assert len(set(heard) & set(LINE.lower().strip(".").split())) >= 4
    assert [word.text for word in reading.words()] == heard
    check_total_and_monotone(reading, reading.seconds)
    assert "recognised" in reading.notes[0]


def test_another_language_gives_its_sounds():
    truth = espeak("Nadie vendió un billete a la cabra", "es")
    first = []
    reading, lines, basis = read_unscripted(truth.recording, "es", first=first.append)
    assert (basis, lines, first) == (SOUNDS, [], [])
    check_total_and_monotone(reading, reading.seconds)
    vowels = [(p.start + p.end) / 2 for p in truth.phones if p.ipa and p.ipa[0] in "aeiou"]
    found = [s for s in reading.sounds() if s.ipa[0] in "aeiouɑɛɪɔæʌəɝʊ"]
    seen = sum(any(s.start <= middle < s.end for s in found) for middle in vowels)
    assert seen >= 0.7 * len(vowels)
    assert sum(s.end - s.start for s in found) < 0.8 * reading.seconds
    assert reading.notes[-1].startswith("Nothing is written")


@pytest.mark.parametrize("language", ["sv", "en"])
@pytest.mark.parametrize("sound", [SWELLS, SWEEP, CLICK, noise(3), np.zeros(16_000), noise(0.1)])
def test_no_speech_still_gives_a_reading_that_says_so(sound, language):
    reading, lines, basis = read_unscripted(recording_of(sound), language)
    assert (basis, lines) == (LOUDNESS, [])
    sounds = list(reading.sounds())
    assert all(a.end <= b.start for a, b in itertools.pairwise(sounds))
    assert all(s.confidence <= 0.2 for s in sounds)
    assert "loudness" in reading.notes[-1]


def test_the_mouth_opens_with_every_swell():
    reading, _, _ = read_unscripted(recording_of(SWELLS), "sv")
    assert len(reading.lines) == 4
    for number, line in enumerate(reading.lines):
        assert abs((line.start + line.end) / 2 - (number + 0.25)) < 0.05
        assert line.text == SOUNDS_ONLY


@settings(max_examples=15, deadline=None)
@given(st.floats(0.05, 2.0), st.sampled_from([0.0, 0.001, 0.9]), st.sampled_from(["en", "hi"]))
def test_any_sound_has_a_reading(seconds, level, language):
    sound = recording_of(noise(seconds, level))
    reading, _, _ = read_unscripted(sound, language)
    assert all(0 <= s.start <= s.end <= sound.seconds + 1e-6 for s in reading.sounds())


def test_a_larger_recogniser_is_a_folder(tmp_path, monkeypatch):
    given_model = Path(pocketsphinx.get_model_path("en-us"))
    sound = flite(LINE, "slt").recording
    usual = recognise.heard_lines(sound)
    monkeypatch.setenv(recognise.SETTING, str(tmp_path))
    with pytest.raises(ScriptError, match="holds no recogniser"):
        recognise.heard_lines(sound)
    shutil.copytree(given_model / "en-us", tmp_path / "acoustic")
    shutil.copy(given_model / "en-us.lm.bin", tmp_path / "large.lm.bin")
    (tmp_path / "large.dict").write_text("boot B UW T\nleft L EH F T\nmy M AY\n")
    only = {word for line in recognise.heard_lines(sound) for word in line.text.split()}
    assert only
    assert only <= {"boot", "left", "my"}
    assert usual != recognise.heard_lines(sound)


def test_most_frames_show_the_right_class_of_mouth_without_any_words():
    for voice in ("slt", "rms"):
        line = flite("Push the lever forward and pray for the pump.", voice)
        true = alone.of_truth(line)
        right = {n: np.mean(true == alone.of_reading(way(line.recording, line.text))) for n, way in alone.WAYS.items()}
        assert right["with its script"] > 0.88
        assert right["by its sounds"] > 0.72


def test_what_comes_after_what_in_english_tells_sounds_apart():
    acoustic, right = model.load(), {best_loop: 0.0, best_english: 0.0}
    for voice in ("slt", "rms", "awb"):
        line = flite("She sold my sister six fresh fish by the harbour wall", voice)
        ear = Ear(line.recording.samples, acoustic)
        heard = ear.listen(ear.warps()[0])
        for way in right:
            spans = way(heard.scores, acoustic)
            assert [span.start for span in spans[1:]] == [span.end for span in spans[:-1]]
            assert (spans[0].start, spans[-1].end) == (0, len(heard.scores))
            timed = [(acoustic.phones[span.phone], span.start / 100, span.end / 100) for span in spans]
            spoken = [(from_arpabet(f"{name}1")[0], *at) for name, *at in timed if name.isalpha() and name != "SIL"]
            found = alone.classes(spoken, line.recording.seconds)
            right[way] += float(np.mean(alone.of_truth(line) == found))
    assert right[best_english] > right[best_loop] + 0.03 * 3


def test_a_long_sound_is_searched_in_pieces_and_covered_whole():
    line = flite(LINE, "slt")
    ear = Ear(np.tile(line.recording.samples, 14), model.load())
    scores = ear.listen(1.0).scores
    assert len(scores) > 2500
    spans = best_english(scores, model.load())
    assert [span.start for span in spans[1:]] == [span.end for span in spans[:-1]]
    assert (spans[0].start, spans[-1].end) == (0, len(scores))
