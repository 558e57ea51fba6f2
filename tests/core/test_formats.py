import csv
import io
import json
from fractions import Fraction

import jsonschema
import pytest

from tests.speech import LINE, speak
from tinfork.core.exposure import curves, plan
from tinfork.core.exposure.track import Settings
from tinfork.core.formats import exposure_csv, reading_json
from tinfork.core.mouths.chart import built_in
from tinfork.core.mouths.shapes import NAMES
from tinfork.core.naming import file_stem
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
SOUND = closed({"ipa": TEXT, **TIMED, "confidence": SURE, "stress": {"enum": [0, 1, 2]}, "level": SURE})
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
        "tinfork": {"const": 2},
        "sound": closed({"seconds": NUMBER, "rate": {"type": "integer"}}),
        "fps": TEXT,
        "lines": listed(closed({"text": TEXT, **TIMED, "words": listed(WORD)})),
        "exposures": listed({**closed(EXPOSURE), "properties": EXPOSURE | {"pinned": {"const": True}}}),
    }
)


def check_document(document):
    """The stable schema, and what it promises of the exposures."""
    jsonschema.validate(document, SCHEMA)
    end = 0
    for before, exposure in zip([None, *document["exposures"]], document["exposures"], strict=False):
        assert exposure["frame"] == end
        pinned = before and (before.get("pinned") or exposure.get("pinned"))
        assert before is None or pinned or before["drawing"] != exposure["drawing"]
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


@pytest.mark.parametrize(
    ("name", "stem"),
    [("Marit", "Marit"), ("Pöck / 2", "Pock_2"), ("../../etc", "etc"), ("山", "character"), ("", "character")],
)
def test_file_names_are_safe(name, stem):
    assert file_stem(name) == stem
