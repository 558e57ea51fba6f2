import json
from dataclasses import dataclass, replace

import numpy as np
import pytest
import soundfile
from django.contrib.auth.models import User
from django.core.files.base import File
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from tests.speech import LINE, make_film, speak
from tests.web.remembered import once
from tinfork.core.plain import plain
from tinfork.core.sound import recording
from tinfork.core.speech import read
from tinfork.core.speech.anchors import to_source
from tinfork.web.edits.models import Edit
from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.productions.models import Membership
from tinfork.web.script.actions import add_text, script_of
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound
from tinfork.web.staves import actions
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import placed_now
from tinfork.web.staves.seeing import track_of

LONG_SCENE_LINES = 30


@pytest.fixture(autouse=True)
def _own_files(settings, tmp_path):
    """Every test keeps its files to itself."""
    settings.MEDIA_ROOT = tmp_path / "files"


@pytest.fixture(scope="session")
def spoken(tmp_path_factory):
    """A spoken line as WAV bytes, with its reading."""
    path = speak(tmp_path_factory.mktemp("spoken") / "line.wav")
    return path.read_bytes(), read.read(recording.load(path), LINE)


@pytest.fixture
def tone(tmp_path):
    """A short tone as an upload."""
    soundfile.write(tmp_path / "tone.wav", 0.3 * np.sin(np.arange(16_000) / 9), 16_000)
    return SimpleUploadedFile("tone.wav", (tmp_path / "tone.wav").read_bytes())


@dataclass
class Ferry:
    """A production with one scene, one character and a read stave; its owner, a viewer and a stranger."""

    owner: User
    viewer: User
    stranger: User
    stave: Stave

    def client(self, person):
        """A browser signed in as a person."""
        client = Client()
        client.force_login(person)
        return client

    def edit(self, person, verb, version=None, **what):
        """Ask for an edit as the desk does."""
        version = self.fresh.version if version is None else version
        body = json.dumps({"verb": verb, "version": version, **what})
        return self.client(person).post(f"/staves/{self.stave.pk}/edit", body, content_type="application/json")

    @property
    def scene(self):
        """The scene."""
        return self.stave.scene

    def sound(self, person, verb, version=None, **what):
        """Ask for an edit of the arrangement as the Sound view does."""
        version = arrangement_of(self.scene).version if version is None else version
        body = json.dumps({"verb": verb, "version": version, **what})
        return self.client(person).post(f"/scenes/{self.scene.pk}/sound/edit", body, content_type="application/json")

    def script(self, person, verb, **what):
        """Ask for an edit of the script as the Script view does."""
        what = {"verb": verb, "version": script_of(self.scene).version} | what
        return self.client(person).post(f"/scenes/{self.scene.pk}/script/edit", what)

    @property
    def fresh(self):
        """The stave as it is now."""
        return Stave.objects.get(pk=self.stave.pk)

    @property
    def reading(self):
        """The stave's reading as it is now, as plain values."""
        return plain(self.fresh.reading_value)

    @property
    def track(self):
        """The stave's mouth track as it is now, planned to the end."""
        return track_of(self.fresh)

    def track_pins(self):
        """The pins where they are seen now."""
        return list(placed_now(self.fresh).pins.shown)


@pytest.fixture
def ferry(db, spoken):
    people = [User.objects.create_user(name) for name in ("owner", "viewer", "stranger")]
    production = create_production(people[0], "The Salt Ferry")
    Membership.objects.create(production=production, person=people[1], role=Membership.Role.REVIEWER)
    create_production(people[2], "Elsewhere")
    scene = create_scene(people[0], production, "Fog", "24", "1001")
    character = create_character(people[0], production, "Marit")
    with once("tinfork.web.sound.actions.aside"):
        sound = bring_in(people[0], production, SimpleUploadedFile("line.wav", spoken[0]))
    place_sound(people[0], arrangement_of(scene), sound, 0, character)
    add_text(people[0], script_of(scene), None, f"Marit: {LINE}")
    lines = tuple(replace(line, id=1) for line in spoken[1].lines)
    kept = to_source(lines, arrangement_of(scene).value.clips, 24.0)
    stave = actions.stave_for(people[0], scene, character)
    actions.take_reading(people[0], stave, replace(spoken[1], lines=kept))
    Edit.objects.all().delete()
    return Ferry(*people, Stave.objects.get())


@pytest.fixture
def editor(ferry):
    """Somebody who may change what is in the production and does not own it."""
    person = User.objects.create_user("editor")
    Membership.objects.create(production=ferry.scene.production, person=person, role=Membership.Role.ANIMATOR)
    return person


@pytest.fixture
def board(ferry):
    """Ask for something of the production's board."""

    def ask(what, person=None, **asked):
        address = f"/productions/{ferry.scene.production_id}/board/{what}"
        return ferry.client(person or ferry.owner).post(address, json.dumps(asked), content_type="application/json")

    return ask


@pytest.fixture(scope="session")
def film(tmp_path_factory):
    """A second of video with a tone."""
    return make_film(tmp_path_factory.mktemp("film") / "film.mp4")


@pytest.fixture
def long_scene(ferry, tmp_path):
    """Marit's line many times over."""
    samples, rate = soundfile.read(speak(tmp_path / "line.wav"))
    soundfile.write(tmp_path / "long.wav", np.tile(samples, LONG_SCENE_LINES), rate)
    with (tmp_path / "long.wav").open("rb") as file:
        sound = bring_in(ferry.owner, ferry.scene.production, File(file, name="long.wav"))
    place_sound(ferry.owner, arrangement_of(ferry.scene), sound, None, ferry.stave.character)
    add_text(ferry.owner, script_of(ferry.scene), None, "\n".join([f"Marit: {LINE}"] * LONG_SCENE_LINES))
    return ferry
