import itertools

import numpy as np
import pytest

from bench import conversations
from tests.speech import noise, recording_of, speak
from tinfork.core.plain import plain
from tinfork.core.sound import recording, voices
from tinfork.core.sound.quality import ClippingMeter, good_enough, report


@pytest.fixture(scope="module")
def voice(tmp_path_factory):
    folder = tmp_path_factory.mktemp("voice")
    return {name: recording.load(speak(folder / f"{name}.wav", voice=name)).samples for name in ("slt", "rms")}


def found(samples, rate=16_000):
    meter = ClippingMeter(rate)
    meter.add(samples.astype(np.float32))
    clipped = (np.clip(samples, -1, 1) * 32767).astype(np.int16)
    return {finding.kind: finding for finding in report(clipped, meter)}


def test_a_clean_voice_is_good_enough(voice):
    said = found(voice["slt"])
    assert set(said) == {"verdict"}
    assert "Good enough to read" in said["verdict"].text


def test_clipping_is_found_where_it_is(voice):
    quiet = 0.3 * voice["slt"] / np.abs(voice["slt"]).max()
    loud = np.concatenate([quiet, np.clip(quiet * 12, -1, 1)])
    said = found(loud)
    first = len(quiet) / 16_000
    assert said["clipping"].places
    assert all(end >= first for _, end in said["clipping"].places)
    assert not good_enough(plain(list(said.values()))) or not said["clipping"].grave


def test_noise_is_measured_to_a_few_decibels(voice):
    speech = np.sqrt(np.quantile(voice["slt"].reshape(-1)[: len(voice["slt"]) // 320 * 320].reshape(-1, 320) ** 2, 0.9))
    level = speech * 10 ** (-10 / 20)
    said = found(
        np.concatenate(
            [noise(0.5, level), voice["slt"] + noise(len(voice["slt"]) / 16_000, level)[: len(voice["slt"])]]
        )
    )
    assert said["noise"].grave
    assert said["verdict"].grave


def test_hum_is_named_by_its_mains(voice):
    quiet = np.concatenate([np.zeros(48_000), voice["slt"]])
    t = np.arange(len(quiet)) / 16_000
    for mains in (50, 60):
        hum = sum(0.004 / n * np.sin(2 * np.pi * mains * n * t) for n in (1, 2, 3, 4))
        mixed = quiet + hum + noise(len(quiet) / 16_000 + 1, 0.0004)[: len(quiet)]
        assert f"{mains} Hz" in found(mixed)["hum"].text


def test_silence_and_long_ends_are_said(voice):
    assert set(found(np.zeros(16_000))) == {"silent"}
    said = found(np.concatenate([np.zeros(16_000 * 3), voice["slt"], np.zeros(16_000 * 4)]))
    assert "3." in said["lead-in"].text
    assert "4." in said["tail"].text
    assert "cut off" in found(voice["slt"][4_000:])["cut-in"].text


def test_two_voices_are_told_apart_by_how_they_sound(voice):
    gap = np.zeros(8_000, np.float32)
    turns = ["slt", "rms"] * 3
    both = np.concatenate([part for name in turns for part in (voice[name], gap)])
    for count in (2, None):
        grouped = voices.group(both + noise(len(both) / 16_000, 1e-3)[: len(both)].astype(np.float32), count)
        edges = np.cumsum([0, *(len(voice[name]) + 8_000 for name in turns)]) / 16_000
        heard = [{s.voice for s in grouped if a <= s.start < b} for a, b in itertools.pairwise(edges)]
        assert heard == [{0}, {1}] * 3
    assert {s.voice for s in voices.group(np.concatenate([voice["slt"], gap] * 3))} == {0}
    assert "2 voices suspected" in found(both)["voices"].text


@pytest.mark.parametrize("speakers", [1, 2, 3])
def test_how_many_speak_is_heard_in_conversations_that_nothing_was_tuned_on(speakers):
    rows = [conversations.right(conversations.conversation(seed, speakers=speakers)) for seed in range(5)]
    assert sum(found == speakers for found, _ in rows) >= 4
    assert min(share for found, share in rows if found == speakers) > 0.9


@pytest.mark.parametrize("seconds", [0.05, 0.1, 0.3, 0.62, 0.64, 1.1])
def test_a_sound_of_any_length_has_a_verdict(voice, seconds):
    assert "verdict" in found(np.resize(voice["slt"][8_000:], int(seconds * 16_000)))
    assert found(np.zeros(int(seconds * 16_000)))["silent"].grave


@pytest.mark.parametrize("samples", [np.zeros(0), np.zeros(100), np.zeros(50_000), noise(2.0), noise(0.1)])
def test_grouping_is_total(samples):
    stretches = voices.group(recording_of(samples).samples, 3)
    assert all(s.end > s.start for s in stretches)


def test_what_lies_35_decibels_below_the_loud_is_no_speech():
    tone = np.sin(np.arange(16_000) / 3)
    heard = np.concatenate([tone, tone * 0, tone * 10 ** (-45 / 20), tone * 0, tone * 10 ** (-20 / 20)])
    found = voices.stretches(heard.astype(np.float32))
    assert [(round(start, 1), round(end, 1)) for start, end in found] == [(0.0, 1.0), (4.0, 5.0)]


def test_of_a_shout_it_is_said_how_much_is_cut_off_and_that_it_is_read(voice):
    loud = np.clip(3 * voice["slt"] / np.abs(voice["slt"]).max(), -1, 1)
    said = found(loud)["clipping"]
    assert "Shouted" in said.text
    assert "nearly as well" in said.text
    share = float(said.text.split("%")[0].split()[-1])
    assert share == pytest.approx(100 * np.mean(np.abs(loud) >= 0.999), abs=0.1)
    assert not said.grave
    assert found(np.clip(60 * loud, -1, 1))["clipping"].grave


def test_music_under_speech_is_said_to_be_music_and_not_noise(voice):
    t = np.arange(len(voice["slt"])) / 16_000
    chord = sum(np.sin(2 * np.pi * hz * n * t) / n for hz in (220, 277, 330) for n in range(1, 6))
    chord *= 0.3 * np.sqrt((voice["slt"] ** 2).mean() / (chord**2).mean())
    said = found(voice["slt"] + chord)
    assert "noise" not in said
    assert "dB below the speech" in said["music"].text
    assert not said["music"].grave
