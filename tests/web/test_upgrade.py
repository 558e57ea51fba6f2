"""A database as an earlier version left it is taken over with all that people did."""

import json
import os
import subprocess
import sys
from pathlib import Path

import psycopg
import pytest
from psycopg.types.json import Jsonb

from tests.browser.application import fresh_database

ROOT = Path(__file__).parents[2]
BEFORE = """
from django.core.management import call_command
for app, number in (("edits", "0002"), ("sound", "0001"), ("script", "0001"), ("reading", "0001")):
    call_command("migrate", app, number)
"""
CLIP = {"id": 2, "sound": 1, "material": 2, "start": 10, "offset": 0, "frames": 48, "whole": 48, "gain": 0.0}
TRACK = {"id": 1, "kind": "dialogue", "name": "", "character": 1, "muted": False, "solo": False, "gain": 0.0}
ARRANGEMENT = {"tracks": [TRACK | {"clips": [CLIP | {"channel": -1}]}], "length": None, "next": 3}
MARKS = {"marks": [{"id": 1, "character": 1, "start": 1.0, "end": 2.0}], "next": 2}
FOG = {"id": 1, "text": "Fog.", "character": 1, "language": "", "start": 1.0, "end": 2.0, "said": {"0": "fɒɡ"}}
SCRIPT = {"lines": [FOG | {"heard": False}], "next": 2}
SOUND = {"ipa": "ɒ", "start": 0.2, "end": 0.6, "confidence": 0.9, "stress": 1, "level": 1.0}
WORD = {"text": "Fog", "start": 0.2, "end": 0.6, "confidence": 0.9, "guessed": False, "sounds": [SOUND], "material": 2}
SET = {"said": True, "extra": [], "pinned": [0], "decided": False, "at": [0, 0]}
LINE = {"text": "Fog.", "start": 0.2, "end": 0.6, "words": [WORD | SET], "id": 1, "basis": "x"}
READING = {"seconds": 2.0, "rate": 16000, "language": "en", "lines": [LINE], "notes": [], "lost": []}
PIN = {"frame": 5, "frames": 3, "drawing": "open", "material": 2}
EXPOSURE = {"frame": 0, "frames": 58, "drawing": "rest", "pinned": False, "sounds": []}


def manage(environment, *what):
    done = subprocess.run(
        [sys.executable, "manage.py", *what], env=environment, cwd=ROOT, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


def insert(database, table, **values):
    made = {name: Jsonb(value) if isinstance(value, (dict, list)) else value for name, value in values.items()}
    names, places = ", ".join(made), ", ".join(["%s"] * len(made))
    database.execute(f"INSERT INTO {table} ({names}) VALUES ({places})", list(made.values()))


LEFT = """
from tinfork.web.edits.models import Edit
from tinfork.web.staves.models import Stave
from tinfork.web.staves.seeing import track_of
from tinfork.web.script.actions import in_scene
from tinfork.web.sound.models import Arrangement
import json
stave, arrangement = Stave.objects.get(), Arrangement.objects.get()
(line,) = in_scene(stave.scene).lines
(mark,) = arrangement.the_marks.marks
print(json.dumps({
    "word": [stave.reading_value.lines[0].words[0].text, stave.reading_value.lines[0].words[0].pinned],
    "pinned": [[e.frame, e.frames, e.drawing] for e in track_of(stave) if e.pinned],
    "line": [line.text, line.start, line.end, line.said[0]],
    "mark": [mark.start, mark.end],
    "edits": list(Edit.objects.values_list("verb", flat=True)),
}))
"""


@pytest.mark.slow
def test_what_an_earlier_version_left_is_there_after_the_migrations():
    url = fresh_database("tinfork_upgrade", os.environ["TINFORK_DATABASE_URL"])
    environment = os.environ | {"TINFORK_DATABASE_URL": url}
    manage(environment, "shell", "-v", "0", "-c", BEFORE)
    with psycopg.connect(url) as database:
        insert(database, "productions_production", id=1, name="The Salt Ferry", language="en", made="2026-01-01")
        insert(
            database, "productions_character", id=1, production_id=1, name="Marit", form="round", skin="#e3c3a5",
            trim="#2f4a57", lip="#b8705a", language="",
        )  # fmt: skip
        insert(
            database,
            "productions_scene",
            id=1,
            production_id=1,
            name="Fog",
            rate="24",
            start_frame=1,
            made="2026-01-01",
        )
        insert(database, "sound_arrangement", id=1, scene_id=1, version=3, body=ARRANGEMENT, marks=MARKS)
        insert(database, "script_script", id=1, scene_id=1, version=2, body=SCRIPT)
        insert(
            database, "reading_stave", id=1, scene_id=1, character_id=1, version=4, reading=READING, pins=[PIN], hold=2,
            lead=1, detail=0.5, exposures=[EXPOSURE],
        )  # fmt: skip
        insert(
            database, "edits_edit", id=1, scene_id=1, area="sound", verb="length", before={"body": ARRANGEMENT},
            after={"body": ARRANGEMENT}, version=2, undone=False, superseded=False, made="2026-01-01",
        )  # fmt: skip
    manage(environment, "migrate")
    left = json.loads(manage(environment, "shell", "-v", "0", "-c", LEFT))
    assert left == {
        "word": ["Fog", [0]],
        "pinned": [[15, 3, "open"]],
        "line": ["Fog.", 1.0, 2.0, "fɒɡ"],
        "mark": [1.0, 2.0],
        "edits": ["length"],
    }
