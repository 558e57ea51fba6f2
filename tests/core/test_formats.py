import csv
import io
import json
import zipfile
from fractions import Fraction

import av
import jsonschema
import numpy as np
import pytest
import soundfile
from PIL import Image

from tests.speech import LINE, speak
from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.track import Settings
from tinfork.core.formats import exposure_csv, pictures, reading_json, video
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.draw import mouth_svg
from tinfork.core.mouths.raster import pixels, png
from tinfork.core.mouths.shapes import NAMES
from tinfork.core.sound import recording
from tinfork.core.sound.survey import survey
from tinfork.core.speech import read
from tinfork.core.timebase import parse_rate

NUMBER = {"type": "number", "minimum": 0}
SURE = {"type": "number", "minimum": 0, "maximum": 1}
TIMED = {"start": NUMBER, "end": NUMBER}


def closed(properties):
    return {"type": "object", "properties": properties, "required": list(properties), "additionalProperties": False}


def listed(items):
    return {"type": "array", "items": items}


TEXT = {"type": "string"}
SOUND = closed({"ipa": TEXT, **TIMED, "confidence": SURE})
WORD = closed({"text": TEXT, **TIMED, "confidence": SURE, "guessed": {"type": "boolean"}, "sounds": listed(SOUND)})
EXPOSURE = {
    "frame": {"type": "integer", "minimum": 0},
    "frames": {"type": "integer", "minimum": 1},
    "shape": {"enum": list(NAMES)},
    "drawing": TEXT,
    "sounds": listed(TEXT),
}
SCHEMA = closed(
    {
        "tinfork": {"const": 1},
        "sound": closed({"seconds": NUMBER, "rate": {"type": "integer"}}),
        "fps": TEXT,
        "lines": listed(closed({"text": TEXT, **TIMED, "words": listed(WORD)})),
        "exposures": listed(closed(EXPOSURE)),
    }
)


def check_document(document):
    """The stable schema, and what it promises of the exposures."""
    jsonschema.validate(document, SCHEMA)
    end = 0
    for before, exposure in zip([None, *document["exposures"]], document["exposures"], strict=False):
        assert exposure["frame"] == end
        assert before is None or before["drawing"] != exposure["drawing"]
        end += exposure["frames"]
    rate = parse_rate(document["fps"])
    assert end - 1 < document["sound"]["seconds"] * rate <= end


@pytest.fixture(scope="module")
def spoken(tmp_path_factory):
    """A line with its reading, exposures and listening copy."""
    folder = tmp_path_factory.mktemp("spoken")
    path = speak(folder / "line.wav")
    survey(path, folder / "listen.flac")
    sound = recording.load(path)
    reading = read.read(sound, LINE)
    rate = Fraction(24000, 1001)
    shape = curves.curves(reading.sounds(), reading.seconds, rate)
    return reading, plan.plan(shape, built_in(), Settings()), rate, folder / "listen.flac"


def test_the_document_keeps_its_schema(spoken):
    reading, exposures, rate, _ = spoken
    document = json.loads(json.dumps(reading_json.document(reading, exposures, built_in(), rate)))
    check_document(document)
    assert document["lines"][0]["text"] == LINE
    assert document["fps"] == "23.976"


def test_the_csv_has_a_row_for_each_exposure(spoken):
    reading, exposures, rate, _ = spoken
    rows = list(csv.DictReader(io.StringIO(exposure_csv.text(reading, exposures, built_in(), rate, 101))))
    assert [(int(r["frame"]), int(r["frames"]), r["drawing"]) for r in rows] == [
        (e.frame, e.frames, e.drawing) for e in exposures
    ]
    assert int(rows[1]["scene_frame"]) == exposures[1].frame + 101
    assert float(rows[-1]["start_seconds"]) == pytest.approx(float(exposures[-1].frame / rate), abs=1e-5)


def test_the_zip_has_a_transparent_picture_for_each_frame(spoken, tmp_path):
    reading, exposures, rate, _ = spoken
    chart = built_in()
    drawn = {d.name: png(mouth_svg(d.place), 180) for d in chart.drawings}
    pictures.write_zip(tmp_path / "p.zip", "Marit", drawn, reading, exposures, chart, rate, 1001)
    with zipfile.ZipFile(tmp_path / "p.zip") as made:
        assert made.testzip() is None
        frames = sorted(n for n in made.namelist() if n.startswith("frames/"))
        assert len(frames) == exposures[-1].end
        assert frames[0] == "frames/Marit_01001.png"
        for e in exposures:
            assert made.read(f"frames/Marit_{e.frame + 1001:05d}.png") == drawn[e.drawing]
        image = Image.open(io.BytesIO(made.read(frames[0])))
        assert image.mode == "RGBA"
        assert image.getpixel((0, 0))[3] == 0
        check_document(json.loads(made.read("exposures.json")))


@pytest.mark.parametrize("rate", [Fraction(12), Fraction(24000, 1001), Fraction(60)])
def test_the_video_is_as_long_as_its_sound(spoken, tmp_path, rate):
    reading, _, _, listen = spoken
    count = int(np.ceil(reading.seconds * rate))
    shown = pixels(mouth_svg(built_in().drawings[0].place), 180, 150)
    video.write_webm(tmp_path / "v.webm", [shown] * count, rate, listen)
    with av.open(str(tmp_path / "v.webm")) as made:
        frames = list(made.decode(video=0))
    with av.open(str(tmp_path / "v.webm")) as made:
        heard = list(made.decode(audio=0))
    assert len(frames) == count
    seconds = float(heard[-1].pts * heard[-1].time_base) + heard[-1].samples / heard[-1].sample_rate
    assert seconds == pytest.approx(float(count / rate), abs=float(1 / rate))
    sound = np.concatenate([f.to_ndarray()[0] for f in heard])
    original, _ = soundfile.read(listen)
    assert np.abs(sound).max() == pytest.approx(np.abs(original).max(), rel=0.25)


@pytest.mark.parametrize(
    ("name", "stem"),
    [("Marit", "Marit"), ("Pöck / 2", "Pock_2"), ("../../etc", "etc"), ("山", "character"), ("", "character")],
)
def test_file_names_are_safe(name, stem):
    assert pictures.file_stem(name) == stem
