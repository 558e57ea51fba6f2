from typing import Any

from django.core.files import File
from django.core.management.base import BaseCommand

from tinfork.core.sound import recording
from tinfork.core.speech import read
from tinfork.web.accounts.demo import make_demo_person
from tinfork.web.demo.make_voices import voice_file
from tinfork.web.demo.scenario import CAST, PRODUCTION, SCENES, Person, SceneText
from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.productions.permissions import Person as Asker
from tinfork.web.reading import actions
from tinfork.web.sound.actions import bring_in, local_file


class Command(BaseCommand):
    """Loads The Salt Ferry, read and planned by the engine as any user's scene is. Once; a second run keeps it."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        person = make_demo_person()
        if Production.objects.filter(name=PRODUCTION, people=person).exists():
            return
        production = create_production(person, PRODUCTION)
        cast = {member.name: _character(person, production, member) for member in CAST}
        for text in SCENES:
            scene = create_scene(person, production, text.name, text.rate, str(text.start_frame))
            for member in CAST:
                if any(line.who == member.name for line in text.lines):
                    _read(person, scene, cast[member.name], text, member)
            self.stdout.write(f"  {PRODUCTION}: {text.name}")


def _character(person: Asker, production: Production, member: Person) -> Character:
    character = create_character(person, production, member.name)
    character.form, character.skin, character.trim, character.lip = member.form, member.skin, member.trim, member.lip
    character.save()
    return character


def _read(person: Asker, scene: Scene, character: Character, text: SceneText, member: Person) -> None:
    stave = actions.stave_for(person, scene, character)
    with voice_file(text, member).open("rb") as file:
        sound = bring_in(person, scene.production, File(file, name=voice_file(text, member).name))
    actions.place_sound(person, stave, sound)
    script = "\n".join(line.text for line in text.lines if line.who == member.name)
    actions.write_script(person, stave, script, "en")
    with local_file(sound.original) as path:
        actions.take_reading(person, stave, read.read(recording.load(path), script))
