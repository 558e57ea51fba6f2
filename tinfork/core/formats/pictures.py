"""A ZIP of transparent PNGs, one for each frame, with the exposures as CSV and JSON beside them."""

import json
import re
import unicodedata
import zipfile
from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from pathlib import Path

from ..exposure.track import Exposure
from ..mouths.chart import Chart
from ..speech.reading import Reading
from . import exposure_csv, reading_json


def file_stem(name: str) -> str:
    """A name any file system takes: ASCII letters, digits, - and _; never empty."""
    ascii_name = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    return re.sub(r"[^A-Za-z0-9]+", "_", ascii_name).strip("_")[:60] or "character"


def frame_name(stem: str, scene_frame: int) -> str:
    """What the picture of a frame is called: the character, then the scene's own frame number in 5 digits."""
    return f"{stem}_{scene_frame:05d}.png"


def write_zip(
    path: Path,
    stem: str,
    pictures: Mapping[str, bytes],
    reading: Reading,
    exposures: Sequence[Exposure],
    chart: Chart,
    rate: Fraction,
    start_frame: int,
    progress: Callable[[float], None] = lambda share: None,
) -> None:
    """Write frames/, exposures.csv and exposures.json. pictures: the PNG of each drawing by its name."""
    last = exposures[-1].end
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        document = reading_json.document(reading, exposures, chart, rate)
        out.writestr("exposures.json", json.dumps(document, ensure_ascii=False, indent=1))
        out.writestr("exposures.csv", exposure_csv.text(reading, exposures, chart, rate, start_frame))
        for exposure in exposures:
            for frame in range(exposure.frame, exposure.end):
                name = f"frames/{frame_name(stem, frame + start_frame)}"
                # A PNG is packed already.
                out.writestr(name, pictures[exposure.drawing], compress_type=zipfile.ZIP_STORED)
            progress(exposure.end / last)
