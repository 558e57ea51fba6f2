"""What handing over a minute costs: seconds, how many times faster than it plays, and the most memory."""

import resource
import tempfile
import time
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import soundfile

from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.track import Exposure, Settings
from tinfork.core.formats import registry, sheet_ods, sheet_pdf
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.draw import mouth
from tinfork.core.mouths.face import FaceStyle, built_in_face
from tinfork.core.shot import sheet
from tinfork.core.shot.shot import Role, Shot
from tinfork.core.shot.stage import Look
from tinfork.core.speech import read

from . import sentences, truth

RATE = Fraction(24)
SECONDS = 60
TEN_MINUTES = 600
KINDS = (
    "webm",
    "av1",
    "mp4",
    "mov",
    "png",
    "drawings",
    "sheet",
    "apng",
    "gif",
    "lottie",
    "svg",
    "otio",
    "gltf",
    "frames",
)


def table() -> None:
    """A minute of one character, 1280x720, in every format that takes time."""
    with tempfile.TemporaryDirectory() as folder:
        shot = minute(Path(folder))
        print(f"{SECONDS} s, {shot.frames} frames, {len(shot.roles[0].exposures)} exposures, 1280x720")
        print(f"{'':<12}{'seconds':>9}{'x real time':>13}{'MB':>8}{'most MB':>9}")
        for kind in KINDS:
            look = Look(background="" if kind in ("png", "mov", "drawings", "sheet") else "#f4f1ea")
            path, begin = Path(folder) / kind, time.perf_counter()
            registry.write(kind, path, shot, registry.How(look))
            took = time.perf_counter() - begin
            most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
            print(f"{kind:<12}{took:>9.2f}{SECONDS / took:>13.1f}{path.stat().st_size / 1e6:>8.1f}{most:>9.0f}")
            path.unlink()
        sheets(Path(folder))


def sheets(folder: Path) -> None:
    """The exposure sheet of ten minutes, printed and as ODS."""
    shot = minute(folder, TEN_MINUTES)
    found = list(sheet.rows(shot))
    for name, write in (
        ("sheet pdf", lambda path: sheet_pdf.write(path, shot, found, sheet_pdf.Print())),
        ("sheet ods", lambda path: sheet_ods.write(path, shot, found)),
    ):
        begin = time.perf_counter()
        write(folder / "sheet")
        print(f"{name:<12}{time.perf_counter() - begin:>9.2f} for {len(found)} rows")


def minute(folder: Path, seconds: int = SECONDS) -> Shot:
    """Return our sentences one after the other, read and planned, for a minute or another time."""
    exposures: list[Exposure] = []
    samples: list[np.ndarray] = []
    number, chart = 0, built_in()
    readings = []
    while not exposures or exposures[-1].end < seconds * RATE:
        spoken = truth.flite(sentences.ENGLISH[number % len(sentences.ENGLISH)], "slt")
        reading = read.read(spoken.recording, spoken.text)
        own = plan.plan(curves.curves(reading.sounds(), reading.seconds, RATE), chart, Settings())
        first = exposures[-1].end if exposures else 0
        exposures += [replace(e, frame=e.frame + first, sounds=()) for e in own]
        samples.append(np.pad(spoken.recording.samples, (0, 4000)))
        readings.append(reading)
        number += 1
    sound = folder / "sound.flac"
    soundfile.write(sound, np.repeat(np.concatenate(samples), 3), 48_000)
    drawn = {d.name: mouth(d.place, "m") for d in chart.drawings}
    role = Role("Marit", tuple(exposures), chart, drawn, readings[0], built_in_face(FaceStyle()))
    return Shot("Fog", RATE, 1001, (role,), sound).between(range(int(seconds * RATE)))
