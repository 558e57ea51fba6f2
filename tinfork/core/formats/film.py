"""Films of a shot: WebM (VP9 or AV1, and Opus), MP4 (H.264 and AAC) and QuickTime (ProRes 4444 and PCM), by libav."""

from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from ..shot.shot import Shot
from ..shot.stage import Frames, Look, MadeOnce, Picture, Progress
from ..timebase import frame_at

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
    with Film(path, shot.rate, frames.look, codec, frames.clear, bool(shot.sound)) as film:
        film.add(shot, frames, progress)


class Film:
    """A film that is being written, one shot after another; closed as a context manager. clear: whether what lies under
    its pictures is to shine through; heard: whether it has sound."""

    def __init__(self, path: Path, rate: Fraction, look: Look, codec: Codec, clear: bool, heard: bool) -> None:
        self._clear = bool(codec.clear) and clear
        self._rate = rate
        self._out = av.open(str(path), "w", format=codec.container)
        self._video = self._video_stream(look, codec, codec.clear if self._clear else codec.pixels)
        self._audio = self._audio_stream(codec) if heard else None
        self._frames = self._samples = 0

    def __enter__(self) -> "Film":
        return self

    def __exit__(self, kind: type[BaseException] | None, *_: object) -> None:
        try:
            if kind is None:
                self._out.mux(self._video.encode(None))
                if self._audio:
                    self._out.mux(self._audio.encode(None))
        finally:
            self._out.close()

    def _video_stream(self, look: Look, codec: Codec, pixels: str) -> av.VideoStream:
        video = self._out.add_stream(codec.video, rate=self._rate, options=codec.options)
        assert isinstance(video, av.VideoStream)
        video.width, video.height, video.pix_fmt = look.width, look.height, pixels
        video.time_base = 1 / self._rate
        video.codec_context.thread_type, video.codec_context.thread_count = "AUTO", 0
        return video

    def _audio_stream(self, codec: Codec) -> av.AudioStream:
        audio = self._out.add_stream(codec.audio, rate=_SOUND_RATE)
        assert isinstance(audio, av.AudioStream)
        audio.layout = "mono"
        return audio

    def add(self, shot: Shot, frames: Frames, progress: Progress = lambda share: None) -> None:
        """Add a shot, frame by frame; one of another rate is seen in its own time."""
        count = max(1, round(shot.frames / shot.rate * self._rate))
        images = MadeOnce(frames, lambda picture: _image_of(picture, self._video.pix_fmt, self._clear))
        sound = self._blocks(count, shot.sound)
        for number in range(count):
            self._hear(sound)
            own = number if shot.rate == self._rate else frame_at(float(number / self._rate), shot.rate)
            self._see(images.of(min(own, shot.frames - 1)))
            progress((number + 1) / count)
        self._hear(sound, whole=True)

    def hold(self, picture: Picture, seconds: float) -> None:
        """Add a picture that stands for a while in silence."""
        count = max(1, round(seconds * self._rate))
        image = _image_of(picture, self._video.pix_fmt, self._clear)
        sound = self._blocks(count, None)
        for _ in range(count):
            self._hear(sound)
            self._see(image)
        self._hear(sound, whole=True)

    def _see(self, image: av.VideoFrame) -> None:
        image.pts, image.time_base = self._frames, 1 / self._rate
        self._frames += 1
        self._out.mux(self._video.encode(image))

    def _blocks(self, count: int, sound: Path | None) -> "Iterator[NDArray[np.float32]]":
        """What is heard with so many frames that come next."""
        end = round((self._frames + count) / self._rate * _SOUND_RATE)
        return _sound_blocks(sound, end - self._samples) if self._audio else iter(())

    def _hear(self, blocks: "Iterator[NDArray[np.float32]]", whole: bool = False) -> None:
        """Pack what is heard before the end of the next frame; or whole, all that is left."""
        end = float("inf") if whole else (self._frames + 1) / self._rate * _SOUND_RATE
        while self._audio and self._samples < end and (block := next(blocks, None)) is not None:
            self._out.mux(self._audio.encode(_sound_frame(block, self._samples)))
            self._samples += len(block)


def _image_of(picture: Picture, pixels: str | None, clear: bool) -> av.VideoFrame:
    """A picture as an encoder takes it."""
    if clear:
        return av.VideoFrame.from_ndarray(picture, format="rgba").reformat(format=pixels)
    return av.VideoFrame.from_ndarray(on_white(picture), format="rgb24").reformat(format=pixels)


def on_white(picture: Picture) -> NDArray[np.uint8]:
    """Return (height, width, 3) a picture on white ground."""
    alpha = picture[..., 3:].astype(np.uint16)
    return ((picture[..., :3] * alpha + 255 * (255 - alpha) + 127) // 255).astype(np.uint8)


def _sound_blocks(sound: Path | None, total: int) -> Iterator[NDArray[np.float32]]:
    """So many samples of a sound, padded with silence; of none where there is no sound."""
    with ExitStack() as stack:
        source = stack.enter_context(soundfile.SoundFile(sound)) if sound else None
        for start in range(0, total, _SOUND_BLOCK):
            size = min(_SOUND_BLOCK, total - start)
            block = source.read(size, dtype="float32", always_2d=True)[:, 0] if source else np.zeros(0, np.float32)
            yield np.pad(block, (0, size - len(block)))


def _sound_frame(block: NDArray[np.float32], start: int) -> av.AudioFrame:
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block[None, :]), format="fltp", layout="mono")
    frame.sample_rate = _SOUND_RATE
    frame.pts, frame.time_base = start, Fraction(1, _SOUND_RATE)
    return frame
