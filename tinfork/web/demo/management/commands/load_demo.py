from typing import Any

from django.core.files import File
from django.core.management.base import BaseCommand
from django.db import transaction

from tinfork.web.accounts.demo import make_demo_person
from tinfork.web.demo.make_voices import voice_file
from tinfork.web.demo.scenario import CAST, LEXICON, PRODUCTION, SCENES, CastMember, SceneText
from tinfork.web.edits.models import Edit
from tinfork.web.lexicon.actions import save_entry
from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.reading.scene import Asked, read_part, to_read
from tinfork.web.script.actions import add_text, script_of, set_language
from tinfork.web.sound.actions import bring_in
from tinfork.web.sound.arranging import arrangement_of, place_sound


class Command(BaseCommand):
    """Loads The Salt Ferry, read and planned by the engine as any user's scene is. Once; a second run keeps it."""

    help = __doc__

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        person = make_demo_person()
        if Production.objects.filter(name=PRODUCTION, people=person).exists():
            return
        production = create_production(person, PRODUCTION)
        cast = {member.name: _character(person, production, member) for member in CAST}
        for word, language, ipa in LEXICON:
            save_entry(person, production, word, language, ipa)
        for text in SCENES:
            scene = create_scene(person, production, text.name, text.rate, str(text.start_frame))
            _bring_in(person, scene, cast, text)
            _write(person, scene, cast, text)
            for part in to_read(scene)[0]:
                read_part(person, scene, part, Asked(), lambda share: None)
            Edit.objects.filter(scene=scene).delete()
            self.stdout.write(f"  {PRODUCTION}: {text.name}")


def _character(person: Person, production: Production, member: CastMember) -> Character:
    character = create_character(person, production, member.name)
    character.form, character.skin, character.trim, character.lip = member.form, member.skin, member.trim, member.lip
    character.save()
    return character


def _bring_in(person: Person, scene: Scene, cast: dict[str, Character], text: SceneText) -> None:
    speaking = [member for member in CAST if any(line.who == member.name for line in text.lines)]
    for member in [None] if text.together else speaking:
        path = voice_file(text, member)
        with path.open("rb") as file:
            sound = bring_in(person, scene.production, File(file, name=path.name))
        place_sound(person, arrangement_of(scene), sound, 0, cast[member.name] if member else None)


def _write(person: Person, scene: Scene, cast: dict[str, Character], text: SceneText) -> None:
    script = "\n".join(f"{line.who}: {line.text}" for line in text.lines)
    document, _ = add_text(person, script_of(scene), None, script)
    for line, said in zip(document.value.lines, text.lines, strict=True):
        if said.language:
            set_language(person, document, document.version, line.id, said.language)
