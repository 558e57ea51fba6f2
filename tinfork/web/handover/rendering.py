"""Pictures of a stave's mouth track, and the files made of them."""

import base64
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import overload

import numpy as np
from numpy.typing import NDArray

from tinfork.core.exposure.easing import blends
from tinfork.core.exposure.ranges import Bend
from tinfork.core.exposure.track import NOTHING, Exposure
from tinfork.core.formats import pictures, video
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.mouths.draw import alone
from tinfork.core.mouths.face import on_face
from tinfork.core.mouths.raster import pixels, png
from tinfork.core.sound import mix
from tinfork.core.speech.reading import Reading
from tinfork.web.charts.models import ChartDrawing
from tinfork.web.faces.models import FaceLayer
from tinfork.web.files import store
from tinfork.web.jobs.models import Job
from tinfork.web.reading.models import Stave
from tinfork.web.reading.mouths import Mouths, Shown, mouths_of
from tinfork.web.reading.placing import Placed
from tinfork.web.reading.planning import planned, scene_reading
from tinfork.web.reading.seeing import seen_throughout
from tinfork.web.sound.arranging import pieces_of
from tinfork.web.sound.listening import opened

PICTURE_WIDTH = 720
VIDEO_WIDTH, VIDEO_HEIGHT = 600, 720
_PAPER = "#f4f1ea"

Report = Callable[[float], None]


@dataclass(frozen=True)
class _Ready:
    """A stave as it was at one moment, with all that a hand-over needs. drawn: each drawing that is used on its
    anchor, as SVG; eases: for each frame on which a seam lies over how many it is eased."""

    placed: Placed
    reading: Reading
    exposures: tuple[Exposure, ...]
    chart: Chart
    drawn: dict[str, str]
    eases: dict[int, int]
    stem: str


def _ready(stave_id: int) -> _Ready:
    placed = planned(Stave.objects.select_related("scene__production", "character").get(pk=stave_id))
    stave = placed.stave
    reading = scene_reading(stave) or stave.reading_with(())
    own, found = mouths_of(stave), seen_throughout(placed)
    used = {(one.exposure.drawing, one.bend) for one in found}
    drawn = {bend.named(name): _bent(own, name, bend) for name, bend in used}
    exposures = tuple(replace(one.exposure, drawing=one.bend.named(one.exposure.drawing)) for one in found)
    bent = (Drawing(bend.named(name), own.place_of(name)) for name, bend in used if bend.transform and name)
    chart = Chart((*own.chart.drawings, *bent))
    eases = {frame: one.ease for span, one in placed.eases for frame in span}
    return _Ready(placed, reading, exposures, chart, drawn, eases, pictures.file_stem(stave.character.name))


def _bent(own: Mouths, name: str, bend: Bend) -> str:
    """A drawing on its anchor, stretched and bent, as SVG; "" for nothing."""
    if name == NOTHING:
        return ""
    one = own.names[name]
    svg = own.markup(one, "m", _picture_of(one))
    return f'<g transform="{bend.transform}">{svg}</g>' if bend.transform else svg


def _picture_of(one: Shown) -> str:
    """The address of a drawing's picture; "" for one of ours."""
    return "" if one.drawing is None else _embedded(one.drawing)


def _embedded(drawing: ChartDrawing | FaceLayer) -> str:
    """A picture inside the address that stands for it."""
    return f"data:image/png;base64,{base64.b64encode(drawing.data).decode()}"


class Shot(Sequence[NDArray[np.uint8]]):
    """The picture of each frame of a track, made when it is asked for. drawn: the picture of each drawing."""

    def __init__(
        self, exposures: Sequence[Exposure], drawn: dict[str, NDArray[np.uint8]], eases: dict[int, int]
    ) -> None:
        self._exposures = [e for e in exposures for _ in range(e.frames)]
        self._drawn = drawn
        self._blends = {blend.frame: blend for blend in blends(exposures, lambda frame: eases.get(frame, 0))}

    def __len__(self) -> int:
        return len(self._exposures)

    @overload
    def __getitem__(self, frame: int) -> NDArray[np.uint8]: ...
    @overload
    def __getitem__(self, frame: slice) -> Sequence[NDArray[np.uint8]]: ...
    def __getitem__(self, frame: int | slice) -> NDArray[np.uint8] | Sequence[NDArray[np.uint8]]:
        if isinstance(frame, slice):
            return [self[one] for one in range(*frame.indices(len(self)))]
        blend = self._blends.get(frame)
        if blend is None:
            return self._drawn[self._exposures[frame].drawing]
        before, after = self._drawn[blend.before.drawing], self._drawn[blend.after.drawing]
        return np.rint(before + blend.weight * (after.astype(np.float32) - before)).astype(np.uint8)


def make_pictures(job: Job, report: Report) -> None:
    """The ZIP of pictures, as the job's result."""
    ready = _ready(job.subject)
    scene = ready.placed.stave.scene
    drawn = {name: png(alone(svg), PICTURE_WIDTH) for name, svg in ready.drawn.items()}
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "pictures.zip"
        pictures.write_zip(
            path,
            ready.stem,
            drawn,
            ready.reading,
            ready.exposures,
            ready.chart,
            scene.fps,
            scene.start_frame,
            report,
        )
        _keep(job, path, f"{pictures.file_stem(scene.name)}_{ready.stem}_pictures.zip")


def make_video(job: Job, report: Report) -> None:
    """The WebM of the face speaking with its sound, as the job's result."""
    ready = _ready(job.subject)
    face = mouths_of(ready.placed.stave).face(_embedded)
    drawn = {name: pixels(on_face(face, svg, _PAPER), VIDEO_WIDTH, VIDEO_HEIGHT) for name, svg in ready.drawn.items()}
    frames = Shot(ready.exposures, drawn, ready.eases)
    scene = ready.placed.stave.scene
    with tempfile.TemporaryDirectory() as folder, opened() as path_of:
        path, sound = Path(folder) / "video.webm", Path(folder) / "sound.flac"
        mix.write(sound, pieces_of(ready.placed.clips, scene, path_of), len(frames) / float(scene.fps))
        video.write_webm(path, frames, scene.fps, sound, report)
        _keep(job, path, f"{pictures.file_stem(scene.name)}_{ready.stem}.webm")


def _keep(job: Job, path: Path, name: str) -> None:
    job.result.name = store.keep(f"handover/{job.pk}/{name}", path)
    job.result_name = name
