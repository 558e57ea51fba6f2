"""A video's picture as a reference: small WebM (VP8) without sound, its key pictures dense enough to step by frame."""

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av

from ..errors import SoundError
from ..limits import MAX_SOUND_SECONDS
from ..sound.decode import demuxer_of

WIDTH = 480
_KEY_EVERY = 6
_MOST_RATE = 60
_TICKS = 1000
_OPTIONS = {"deadline": "realtime", "cpu-used": "8", "crf": "20", "b:v": "900k", "g": str(_KEY_EVERY)}


def write_reel(source: Path, path: Path, progress: Callable[[float], None] = lambda share: None) -> None:
    """Write the reference picture of a video. SoundError when it has no picture that can be read."""
    try:
        with av.open(str(source), format=demuxer_of(source), options={"protocol_whitelist": "file"}) as film:
            stream = film.streams.video[0]
            seconds = float(film.duration or 0) / av.time_base or MAX_SOUND_SECONDS
            with av.open(str(path), "w", format="webm") as out:
                _write(film, stream, out, lambda time: progress(min(1.0, time / seconds)))
    except (av.error.FFmpegError, OSError, ValueError, IndexError):
        raise SoundError("The video's picture cannot be read; its sound is kept. Export the video again.") from None


def _write(
    film: av.container.InputContainer,
    stream: av.VideoStream,
    out: av.container.OutputContainer,
    progress: Callable[[float], None],
) -> None:
    rate = min(stream.average_rate or Fraction(24), Fraction(_MOST_RATE))
    height = max(2, round(stream.height * WIDTH / max(1, stream.width) / 2) * 2)
    video = out.add_stream("libvpx", rate=rate, options=_OPTIONS)
    video.width, video.height, video.pix_fmt = WIDTH, min(height, 2 * WIDTH), "yuv420p"
    last = -1
    for picture in film.decode(stream):
        if picture.time is None or not 0 <= picture.time <= MAX_SOUND_SECONDS:
            continue
        small = picture.reformat(video.width, video.height, "yuv420p")
        small.time_base = Fraction(1, _TICKS)
        small.pts = round(picture.time * _TICKS)
        if small.pts > last:
            last = small.pts
            out.mux(video.encode(small))
            progress(picture.time)
    out.mux(video.encode(None))
