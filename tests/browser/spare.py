"""Scenes that lie ready in the demo's production: what a test needs before its story begins is not made by mouse."""

import json
import os
import tempfile
from pathlib import Path

from django.core.files import File

from tests.speech import LINE, speak
from tinfork.web.accounts.demo import make_demo_person
from tinfork.web.productions.actions import create_scene
from tinfork.web.productions.models import Production
from tinfork.web.reading.scene import Asked, read_part, to_read
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.staves.actions import stave_for, take_reading
from tinfork.web.staves.models import Stave

MARIT_READ, BREDE_READ, MARIT_HEARD = "line", "track", "sound"
# A few more than there are stories, for those that are tried twice.
_READY = {MARIT_READ: ("Marit", True, 16), BREDE_READ: ("Brede", True, 10), MARIT_HEARD: ("Marit", False, 16)}


def listed(data):
    """The numbers of the scenes that lie ready in a data folder, by what they are."""
    return json.loads((Path(data) / "spare.json").read_text())


def make():
    """Make the scenes, in the database and the data folder of the environment. Of scenes that are alike only the first
    is read; the others take its reading."""
    numbers = {}
    with tempfile.TemporaryDirectory() as folder:
        sound = speak(Path(folder) / "left boot.wav")
        for what, (who, read, many) in _READY.items():
            script = f"{who}: {LINE}" if read else ""
            scenes = [scene_of(sound, f"Spare {what} {number}", who, script) for number in range(1, many + 1)]
            if read:
                reads_alike(scenes)
            numbers[what] = [scene.pk for scene in scenes]
    (Path(os.environ["TINFORK_DATA"]) / "spare.json").write_text(json.dumps(numbers))


def scene_of(path, name, who, script):
    """A scene of the demo's production with somebody's sound, and their lines where there are any."""
    person, production = make_demo_person(), Production.objects.get()
    scene = create_scene(person, production, name, "24", "1")
    with path.open("rb") as file:
        sound = bring_in(person, production, File(file, name=path.name))
    place_sound(person, arrangement_of(scene), sound, 0, production.characters.get(name=who))
    if script:
        add_text(person, script_of(scene), None, script)
    return scene


def reads_alike(scenes):
    """Read the first of some scenes that are alike, and take its reading for the others."""
    person, first = make_demo_person(), scenes[0]
    for part in to_read(first)[0]:
        read_part(person, first, part, Asked(), lambda share: None)
    stave = Stave.objects.get(scene=first)
    for scene in scenes[1:]:
        take_reading(person, stave_for(person, scene, stave.character), stave.reading_value)
