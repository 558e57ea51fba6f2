"""Every way a shot can be handed over, by the name it has on the command line and in addresses."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from ..errors import HandoverError
from ..script.lines import Cue
from ..shot.shot import Shot
from ..shot.stage import Frames, Look, Progress
from . import (
    acting_csv,
    ctm,
    cued_wav,
    curves_csv,
    exposure_csv,
    film,
    flip,
    gltf,
    lottie,
    moving_svg,
    pictures,
    reading_json,
    subtitles,
    timeline,
    visemes,
)
from .options import Options


@dataclass(frozen=True)
class How:
    """How what is handed over is to be made. look: what pictures look like; options: what formats were asked, by
    their names, as usual where they are none."""

    look: Look = field(default_factory=Look)
    options: Mapping[str, Options] = field(default_factory=dict)


Writer = Callable[[Path, Shot, Look, Any, Progress], None]
"""Writes a file of a shot, as it looks and as the format's own options say."""

Inside = Callable[[range, str, str, Any], str]
"""What lies in a file: its frames as they are numbered, who is seen, the scene's name, the options."""


@dataclass(frozen=True)
class Format:
    """A way to hand over. group: PICTURES, MOVING or TIMING; about: what comes of it, in a line; write: makes one file
    of a shot with everybody in it; looks: whether it shows pictures, of a size; clear: whether what lies under it can
    shine through; mark: what tells its files from others of the same ending; options: what it can be asked; codec: of a
    film, into which several shots go one after another too."""

    name: str
    ending: str
    group: str
    about: str
    write: Writer
    looks: bool = True
    clear: bool = True
    mark: str = ""
    options: type[Options] = Options
    inside: Inside | None = None
    codec: film.Codec | None = None

    @property
    def suffix(self) -> str:
        """How the name of a file ends, so that no two formats of one shot have the same."""
        return f"{self.mark}.{self.ending}"


def _film(codec: film.Codec) -> Writer:
    def write(path: Path, shot: Shot, look: Look, _: Options, progress: Progress) -> None:
        seen = look if codec.clear or look.background else replace(look, background="#ffffff")
        film.write(path, shot, Frames(shot, seen), codec, progress)

    return write


def _sequence(path: Path, shot: Shot, look: Look, options: pictures.SequenceOptions, progress: Progress) -> None:
    pictures.write_sequence(path, shot, Frames(shot, look), options, progress)


def _text(write: Callable[[Shot], str]) -> Writer:
    def whole(path: Path, shot: Shot, look: Look, _: Options, progress: Progress) -> None:
        path.write_text(write(shot), encoding="utf-8", newline="")

    return whole


def _cues(shot: Shot) -> list[Cue]:
    several = len(shot.roles) > 1
    return [Cue(line.text, role.name if several else "", line.start, line.end) for role, line in shot.lines()]


def _still(write: Callable[[Path, Shot, Look], None]) -> Writer:
    return lambda path, shot, look, _, __: write(path, shot, look)


def _flip(write: Callable[[Path, Frames, flip.FlipOptions, Progress], None]) -> Writer:
    return lambda path, shot, look, options, progress: write(path, Frames(shot, look), options, progress)


def _timing(write: Callable[[Path, Shot], None]) -> Writer:
    return lambda path, shot, _, __, ___: write(path, shot)


def _vtt(shot: Shot) -> str:
    return subtitles.write_vtt(_cues(shot))


def _srt(shot: Shot) -> str:
    return subtitles.write_srt(_cues(shot))


def _ctm(shot: Shot) -> str:
    return ctm.write([line for _, line in shot.lines()], shot.stem)


PICTURES, MOVING, TIMING = "pictures", "moving", "timing"
FORMATS = {
    "png": Format(
        *("PNG sequence", "zip", PICTURES, "a picture for each frame, with their timing, in a ZIP"),
        _sequence,
        options=pictures.SequenceOptions,
        inside=pictures.told_inside,
    ),
    "drawings": Format(
        *("Drawings and timing", "zip", PICTURES, "each drawing once and when it is shown, for what swaps them"),
        _still(pictures.write_drawings),
        mark="_drawings",
    ),
    "sheet": Format(
        *("Sprite sheet", "zip", PICTURES, "all drawings in one picture, and where each lies and when"),
        _still(pictures.write_sheet),
        mark="_sheet",
    ),
    "webm": Format(
        "WebM", "webm", MOVING, "VP9 and Opus; can let through what lies under it", _film(film.VP9), codec=film.VP9
    ),
    "av1": Format(
        *("WebM, AV1", "webm", MOVING, "AV1 and Opus: small files, slower to make"),
        _film(film.AV1),
        clear=False,
        mark="_av1",
        codec=film.AV1,
    ),
    "mp4": Format(
        "MP4", "mp4", MOVING, "H.264 and AAC: played everywhere", _film(film.H264), clear=False, codec=film.H264
    ),
    "mov": Format(
        "QuickTime",
        "mov",
        MOVING,
        "ProRes 4444 with alpha, and PCM: for compositing",
        _film(film.PRORES),
        codec=film.PRORES,
    ),
    "apng": Format(
        *("Animated PNG", "png", MOVING, "all colours and alpha, without sound"),
        _flip(flip.write_apng),
        options=flip.FlipOptions,
    ),
    "gif": Format(
        *("GIF", "gif", MOVING, "256 colours, without sound"), _flip(flip.write_gif), options=flip.FlipOptions
    ),
    "lottie": Format(
        *("Lottie", "json", MOVING, "drawings embedded, for web pages and apps"), _still(lottie.write), mark="_lottie"
    ),
    "svg": Format("Moving SVG", "svg", MOVING, "moves by itself in a browser", _still(moving_svg.write)),
    "json": Format("JSON", "json", TIMING, "reading and exposures", _text(reading_json.text), looks=False),
    "csv": Format("CSV of exposures", "csv", TIMING, "a row for each", _text(exposure_csv.whole), looks=False),
    "frames": Format(
        *("CSV of frames", "csv", TIMING, "a row for each"), _text(exposure_csv.by_frame), looks=False, mark="_frames"
    ),
    "acting": Format(
        *("CSV of acting", "csv", TIMING, "what parts of faces do, a row for each change"),
        _text(acting_csv.text),
        looks=False,
        mark="_acting",
    ),
    "curves": Format(
        *("CSV of curves", "csv", TIMING, "jaw, lips, teeth and tongue on each frame, for rigs moved by numbers"),
        _text(curves_csv.text),
        looks=False,
        mark="_curves",
    ),
    "otio": Format(
        *("OpenTimelineIO", "otio", TIMING, "a track of drawings for each character, words and lines as markers"),
        _timing(timeline.write),
        looks=False,
    ),
    "wav": Format(
        *("WAV with cue points", "wav", TIMING, "the sound, with a labelled cue point for each exposure"),
        _timing(cued_wav.write),
        looks=False,
    ),
    "vtt": Format("WebVTT", "vtt", TIMING, "the lines with their times", _text(_vtt), looks=False),
    "srt": Format("SRT", "srt", TIMING, "the lines with their times", _text(_srt), looks=False),
    "ctm": Format("NIST CTM", "ctm", TIMING, "the words with their times", _text(_ctm), looks=False),
    "fap": Format(
        *("MPEG-4 visemes", "txt", TIMING, "ISO/IEC 14496-2 viseme numbers for each frame"),
        _text(visemes.text),
        looks=False,
        mark="_visemes",
    ),
    "gltf": Format(
        *("glTF 2.0", "gltf", TIMING, "drawings as morph targets, their weights animated"),
        _timing(gltf.write),
        looks=False,
    ),
}


def write(kind: str, path: Path, shot: Shot, how: How, progress: Progress = lambda share: None) -> None:
    """Hand a shot over in one of FORMATS as one file. HandoverError for a kind there is not, or what it cannot hold."""
    if kind not in FORMATS:
        raise HandoverError(f"There is no format “{kind[:20]}”; choose one of {', '.join(FORMATS)}.")
    asked = FORMATS[kind]
    asked.write(path, shot, how.look, how.options.get(kind, asked.options()), progress)
    progress(1.0)
