"""WebM (VP9 and Opus, in Matroska as the WebM guidelines have it): pictures at the scene's rate, with their sound."""

from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

_SOUND_RATE = 48_000
_SOUND_BLOCK = 960
_QUALITY = {"deadline": "realtime", "cpu-used": "8", "crf": "24", "b": "0"}

Picture = NDArray[np.uint8]


def write_webm(
    path: Path,
    frames: Sequence[Picture],
    rate: Fraction,
    sound: Path,
    progress: Callable[[float], None] = lambda share: None,
) -> None:
    """Write the video. frames: one RGB picture (height, width, 3) of even size for each frame.

    sound: a mono file at 48 kHz, such as the listening copy; it is cut or padded with silence to the pictures.
    """
    with av.open(str(path), "w", format="webm") as out:
        video = out.add_stream("libvpx-vp9", rate=rate, options=_QUALITY)
        video.height, video.width = frames[0].shape[:2]
        video.pix_fmt = "yuv420p"
        video.time_base = 1 / rate
        audio = out.add_stream("libopus", rate=_SOUND_RATE)
        audio.layout = "mono"
        total = round(len(frames) / rate * _SOUND_RATE)
        blocks = _sound_blocks(sound, total)
        heard = 0
        for number, picture in enumerate(frames):
            while heard < (number + 1) / rate * _SOUND_RATE and (block := next(blocks, None)) is not None:
                out.mux(audio.encode(_sound_frame(block, heard)))
                heard += len(block)
            image = av.VideoFrame.from_ndarray(picture, format="rgb24")
            image.pts, image.time_base = number, 1 / rate
            out.mux(video.encode(image))
            progress((number + 1) / len(frames))
        out.mux(video.encode(None))
        out.mux(audio.encode(None))


def _sound_blocks(sound: Path, total: int) -> Iterator[NDArray[np.float32]]:
    with soundfile.SoundFile(sound) as source:
        for start in range(0, total, _SOUND_BLOCK):
            size = min(_SOUND_BLOCK, total - start)
            block = source.read(size, dtype="float32", always_2d=True)[:, 0]
            yield np.pad(block, (0, size - len(block)))


def _sound_frame(block: NDArray[np.float32], start: int) -> av.AudioFrame:
    frame = av.AudioFrame.from_ndarray(block[None, :], format="flt", layout="mono")
    frame.sample_rate = _SOUND_RATE
    frame.pts, frame.time_base = start, Fraction(1, _SOUND_RATE)
    return frame
