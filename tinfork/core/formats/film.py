"""Films of a shot: WebM (VP9 or AV1, and Opus), MP4 (H.264 and AAC) and QuickTime (ProRes 4444 and PCM), by libav."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from ..shot.shot import Shot
from ..shot.stage import Frames, Look, MadeOnce, Picture, Progress

_SOUND_RATE = 48_000
_SOUND_BLOCK = 1024


@dataclass(frozen=True)
class Codec:
    """A way to pack a film. pixels: how its pictures are kept, clear: where some of them lets through what lies under
    it, "" where it cannot; options: the encoder's."""

    container: str
    video: str
    pixels: str
    clear: str
    audio: str
    options: dict[str, str] = field(default_factory=dict)


VP9 = Codec(
    "webm", "libvpx-vp9", "yuv420p", "yuva420p", "libopus",
    {"deadline": "realtime", "cpu-used": "7", "crf": "22", "b": "0", "row-mt": "1", "threads": "2"},
)  # fmt: skip
AV1 = Codec("webm", "libsvtav1", "yuv420p", "", "libopus", {"preset": "10", "crf": "28", "svtav1-params": "lp=2"})
H264 = Codec("mp4", "libx264", "yuv420p", "", "aac", {"preset": "veryfast", "crf": "18", "movflags": "+faststart"})
PRORES = Codec("mov", "prores_aw", "yuva444p10le", "yuva444p10le", "pcm_s16le", {"profile": "4"})


def write(path: Path, shot: Shot, frames: Frames, codec: Codec, progress: Progress = lambda share: None) -> None:
    """Write a film of a shot with its sound, which is cut or padded with silence to the pictures. frames: the pictures;
    those that let something through keep doing so where the codec can, else they lie on white."""
    clear = bool(codec.clear) and frames.clear
    with av.open(str(path), "w", format=codec.container) as out:
        video = _video(out, shot, frames.look, codec, codec.clear if clear else codec.pixels)
        heard = _Heard(out, shot, codec) if shot.sound else None
        images = MadeOnce(frames, lambda picture: _image_of(picture, video.pix_fmt, clear))
        for number in range(len(frames)):
            if heard:
                heard.until((number + 1) / shot.rate)
            image = images.of(number)
            image.pts, image.time_base = number, 1 / shot.rate
            out.mux(video.encode(image))
            progress((number + 1) / len(frames))
        out.mux(video.encode(None))
        if heard:
            heard.end()


def _video(out: av.container.OutputContainer, shot: Shot, look: Look, codec: Codec, pixels: str) -> av.VideoStream:
    video = out.add_stream(codec.video, rate=shot.rate, options=codec.options)
    assert isinstance(video, av.VideoStream)
    video.width, video.height, video.pix_fmt = look.width, look.height, pixels
    video.time_base = 1 / shot.rate
    video.codec_context.thread_type, video.codec_context.thread_count = "AUTO", 0
    return video


class _Heard:
    """The sound of a film, packed as its pictures go."""

    def __init__(self, out: av.container.OutputContainer, shot: Shot, codec: Codec) -> None:
        assert shot.sound is not None
        audio = out.add_stream(codec.audio, rate=_SOUND_RATE)
        assert isinstance(audio, av.AudioStream)
        audio.layout = "mono"
        self._out, self._audio, self._at = out, audio, 0
        self._blocks = _sound_blocks(shot.sound, round(shot.frames / shot.rate * _SOUND_RATE))

    def until(self, seconds: Fraction) -> None:
        """Pack what is heard before a time."""
        while self._at < seconds * _SOUND_RATE and (block := next(self._blocks, None)) is not None:
            self._out.mux(self._audio.encode(_sound_frame(block, self._at)))
            self._at += len(block)

    def end(self) -> None:
        """Pack what is left."""
        self._out.mux(self._audio.encode(None))


def _image_of(picture: Picture, pixels: str | None, clear: bool) -> av.VideoFrame:
    """A picture as an encoder takes it."""
    if clear:
        return av.VideoFrame.from_ndarray(picture, format="rgba").reformat(format=pixels)
    return av.VideoFrame.from_ndarray(on_white(picture), format="rgb24").reformat(format=pixels)


def on_white(picture: Picture) -> NDArray[np.uint8]:
    """Return (height, width, 3) a picture on white ground."""
    alpha = picture[..., 3:].astype(np.uint16)
    return ((picture[..., :3] * alpha + 255 * (255 - alpha) + 127) // 255).astype(np.uint8)


def _sound_blocks(sound: Path, total: int) -> Iterator[NDArray[np.float32]]:
    with soundfile.SoundFile(sound) as source:
        for start in range(0, total, _SOUND_BLOCK):
            size = min(_SOUND_BLOCK, total - start)
            block = source.read(size, dtype="float32", always_2d=True)[:, 0]
            yield np.pad(block, (0, size - len(block)))


def _sound_frame(block: NDArray[np.float32], start: int) -> av.AudioFrame:
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block[None, :]), format="fltp", layout="mono")
    frame.sample_rate = _SOUND_RATE
    frame.pts, frame.time_base = start, Fraction(1, _SOUND_RATE)
    return frame
