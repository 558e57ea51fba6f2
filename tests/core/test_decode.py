"""Containers libsndfile does not know, and files that are not what they say."""

import itertools

import av
import numpy as np
import pytest
import soundfile

from tests.speech import encode, make_film
from tinfork.core.errors import SoundError
from tinfork.core.formats.reel import write_reel
from tinfork.core.sound import decode, recording
from tinfork.core.sound.survey import survey

WAVE = 0.4 * np.sin(np.arange(48_000 * 2) / 21)
KINDS = {
    "m4a": lambda p: encode(p, WAVE, "aac", "mp4"),
    "aac": lambda p: encode(p, WAVE, "aac", "adts"),
    "webm": lambda p: encode(p, WAVE, "libopus", "webm"),
    "mp4": lambda p: make_film(p, 2.0),
    "film.webm": lambda p: make_film(p, 2.0, "webm"),
}


@pytest.mark.parametrize("kind", KINDS)
def test_every_container_keeps_its_length_and_loudness(tmp_path, kind):
    path = KINDS[kind](tmp_path / f"tone.{kind}")
    found = survey(path, tmp_path / "listen.flac")
    assert found.seconds == pytest.approx(2.0, abs=0.08)
    assert found.has_picture == (kind in ("mp4", "film.webm"))
    steady = recording.load(path).samples[2_000:-2_000]
    loud = (0.3 if found.has_picture else 0.4) / np.sqrt(2)
    assert np.sqrt((steady**2).mean()) == pytest.approx(loud, rel=0.1)


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("share", [0.02, 0.5, 0.95])
def test_a_truncated_file_keeps_what_there_is_or_says_so(tmp_path, kind, share):
    path = KINDS[kind](tmp_path / f"tone.{kind}")
    path.write_bytes(path.read_bytes()[: int(path.stat().st_size * share)])
    try:
        read = recording.load(path)
    except SoundError as refused:
        assert str(refused).endswith(".")
    else:
        assert 0 < read.seconds < 2.1
        assert np.isfinite(read.samples).all()


@pytest.mark.parametrize(
    "head", [b"\0\0\0\x20ftypM4A ", b"\x1aE\xdf\xa3", b"RIFF\xff\xff\xff\xffAVI ", b"\xff\xf1\x50\x80"]
)
@pytest.mark.parametrize("rest", [b"", b"\0" * 4000, bytes(range(256)) * 20])
def test_a_header_that_lies_is_a_sentence(tmp_path, head, rest):
    (tmp_path / "liar").write_bytes(head + rest)
    with pytest.raises(SoundError) as refused:
        recording.load(tmp_path / "liar")
    assert str(refused.value).endswith(".")


def test_a_list_of_other_files_is_never_followed(tmp_path):
    KINDS["webm"](tmp_path / "secret.webm")
    for text in ("#EXTM3U\n#EXTINF:2,\nsecret.webm\n", "ffconcat version 1.0\nfile secret.webm\n"):
        (tmp_path / "list.webm").write_text(text)
        with pytest.raises(SoundError, match="not a sound"):
            recording.load(tmp_path / "list.webm")


def test_a_picture_without_sound_says_so(tmp_path):
    with av.open(str(tmp_path / "mute.mp4"), "w") as out:
        stream = out.add_stream("mpeg4", rate=24)
        stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
        out.mux(stream.encode(av.VideoFrame.from_ndarray(np.zeros((48, 64, 3), np.uint8), format="rgb24")))
        out.mux(stream.encode(None))
    with pytest.raises(SoundError, match="no sound in this file"):
        recording.load(tmp_path / "mute.mp4")


def test_too_many_channels_are_refused(tmp_path, monkeypatch):
    monkeypatch.setattr(decode, "MAX_CHANNELS", 2)
    soundfile.write(tmp_path / "many.wav", np.zeros((9000, 3)), 48_000)
    with pytest.raises(SoundError, match="3 channels"):
        recording.load(tmp_path / "many.wav")


def test_a_reel_shows_every_picture_at_its_time(tmp_path):
    write_reel(make_film(tmp_path / "film.mp4", 1.0), tmp_path / "reel.webm")
    with av.open(str(tmp_path / "reel.webm")) as made:
        assert not made.streams.audio
        pictures = [(float(p.time), float(p.to_ndarray(format="gray").mean())) for p in made.decode(video=0)]
    assert len(pictures) == 24
    assert [time for time, _ in pictures] == pytest.approx([n / 24 for n in range(24)], abs=0.002)
    assert all(a < b for (_, a), (_, b) in itertools.pairwise(pictures))


def test_a_broken_picture_is_a_sentence(tmp_path):
    path = make_film(tmp_path / "film.mp4", 1.0)
    path.write_bytes(path.read_bytes()[:300])
    with pytest.raises(SoundError, match="picture cannot be read"):
        write_reel(path, tmp_path / "reel.webm")
