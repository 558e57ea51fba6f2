import io

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from tests.speech import recording_of
from tinfork.core import limits
from tinfork.core.errors import SoundError
from tinfork.core.sound import decode, peaks, pieces, recording
from tinfork.core.sound.survey import survey


def tone(seconds=1.0, rate=44_100, channels=1):
    wave = 0.5 * np.sin(2 * np.pi * 220 * np.arange(int(seconds * rate)) / rate)
    return np.repeat(wave[:, None], channels, axis=1)


@pytest.mark.parametrize("kind", ["wav", "flac", "mp3", "ogg"])
@pytest.mark.parametrize(("rate", "channels"), [(8000, 1), (44_100, 2), (48_000, 2)])
def test_every_format_keeps_its_length_and_loudness(tmp_path, kind, rate, channels):
    path = tmp_path / f"tone.{kind}"
    soundfile.write(path, tone(1.0, rate, channels), rate)
    read = recording.load(path)
    assert read.rate == rate
    assert read.seconds == pytest.approx(1.0, abs=0.06)
    assert len(read.samples) == pytest.approx(16_000 * read.seconds, abs=2)
    assert read.peak == pytest.approx(0.5, abs=0.05)


def test_the_listening_copy_is_as_long_as_the_reading(tmp_path):
    soundfile.write(tmp_path / "tone.wav", tone(2.5, 22_050), 22_050)
    read = survey(tmp_path / "tone.wav", tmp_path / "copy.flac")
    copy = soundfile.info(tmp_path / "copy.flac")
    assert (copy.samplerate, copy.channels) == (48_000, 1)
    assert copy.duration == pytest.approx(read.seconds, abs=0.001)


def test_an_extension_that_lies_does_not_matter(tmp_path):
    soundfile.write(tmp_path / "tone.wav", tone(), 44_100)
    (tmp_path / "tone.wav").rename(tmp_path / "tone.mp3")
    assert recording.load(tmp_path / "tone.mp3").seconds == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("content", "said"),
    [(b"", "empty"), (b"not a sound at all" * 99, "not a sound"), (b"RIFF\0\0\0\0WAVE", "not a sound")],
)
def test_what_is_no_sound_is_a_sentence(tmp_path, content, said):
    (tmp_path / "bad.wav").write_bytes(content)
    with pytest.raises(SoundError, match=said):
        recording.load(tmp_path / "bad.wav")


@pytest.mark.parametrize("kind", ["wav", "flac", "mp3", "ogg"])
def test_a_truncated_file_keeps_what_there_is_or_says_so(tmp_path, kind):
    path = tmp_path / f"tone.{kind}"
    soundfile.write(path, tone(20.0), 44_100)
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
    try:
        read = recording.load(path)
    except SoundError as refused:
        assert str(refused).endswith(".")
    else:
        assert 5 < read.seconds < 20.1
        assert np.isfinite(read.samples).all()


def test_a_truncated_wav_says_where_it_breaks_off(tmp_path):
    soundfile.write(tmp_path / "tone.wav", tone(20.0), 44_100)
    data = (tmp_path / "tone.wav").read_bytes()
    (tmp_path / "tone.wav").write_bytes(data[: len(data) // 2])
    assert recording.load(tmp_path / "tone.wav").seconds == pytest.approx(10, abs=0.1)


def test_ten_hours_are_refused_by_their_header(tmp_path, monkeypatch):
    monkeypatch.setattr(decode, "MAX_SOUND_SECONDS", 60)
    soundfile.write(tmp_path / "long.flac", np.zeros(8000 * 61), 8000)
    with pytest.raises(SoundError, match="up to 1 minutes"):
        recording.load(tmp_path / "long.flac")
    assert limits.MAX_SOUND_SECONDS < 10 * 3600


def test_samples_that_are_no_numbers_become_silence(tmp_path):
    wave = tone()[:, 0].astype(np.float32)
    wave[100:200] = np.nan
    wave[300], wave[301] = np.inf, 3e38
    soundfile.write(tmp_path / "nan.wav", wave, 44_100, subtype="FLOAT")
    read = recording.load(tmp_path / "nan.wav")
    assert np.isfinite(read.samples).all()
    assert "102 samples of the file are no sound" in read.notes[0]


@given(st.integers(1, 5000), st.integers(0, 2**32 - 1))
def test_no_peak_is_lost_at_any_level(count, seed):
    samples = np.random.default_rng(seed).uniform(-1, 1, count).astype(np.float32)
    for level in peaks.pyramid(samples):
        assert level.values[:, 0].min() == round(min(0, float(samples.min())) * 127)
        assert level.values[:, 1].max() == round(max(0, float(samples.max())) * 127)
        assert len(level.values) * level.samples >= count


def test_a_level_is_nothing_at_35_decibels_below_the_loud_end():
    loud = np.sin(np.arange(16_000) / 3).astype(np.float32)
    heard = recording_of(np.concatenate([loud, loud * 10 ** (-17.5 / 20), loud * 10 ** (-36 / 20)]))
    assert heard.level(0.1, 0.9) == pytest.approx(1.0, abs=0.01)
    assert heard.level(1.1, 1.9) == pytest.approx(0.5, abs=0.01)
    assert heard.level(2.1, 2.9) == 0.0


def test_a_long_sound_comes_in_pieces_that_are_all_of_it(tmp_path):
    rate = 8_000
    samples = np.random.default_rng(1).integers(-9_000, 9_000, round(2.25 * pieces.SECONDS * rate)).astype(np.int16)
    soundfile.write(tmp_path / "long.flac", samples, rate)
    found = [soundfile.read(io.BytesIO(pieces.piece(tmp_path / "long.flac", n)), dtype="int16")[0] for n in range(3)]
    assert [len(one) / rate for one in found] == [60, 60, 15]
    assert np.array_equal(np.concatenate(found), samples)
    for number in (3, 10**9):
        with pytest.raises(SoundError):
            pieces.piece(tmp_path / "long.flac", number)
