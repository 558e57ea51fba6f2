from dataclasses import replace
from typing import Any

from django.core.files import File
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management.base import BaseCommand
from django.db import transaction

from tinfork.core.mouths.draw import STYLES
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.picture import open_picture
from tinfork.web.accounts.demo import make_demo_person
from tinfork.web.acting.gesturing import propose
from tinfork.web.acting.models import acting_of
from tinfork.web.charts.actions import Upload, create_chart, draw, wear
from tinfork.web.charts.actions import bring_in as bring_drawings
from tinfork.web.demo.drawings import (
    CABINET,
    CABINET_FROM_THE_SIDE,
    CARVED,
    MOUTH_FROM_THE_SIDE,
    PARTS,
    SIDE_VIEW,
    carved,
    panels,
)
from tinfork.web.demo.make_voices import voice_file
from tinfork.web.demo.scenario import CAST, LEXICON, OTHERWISE, PRODUCTION, SCENES, SEQUENCES, CastMember, SceneText
from tinfork.web.edits.models import Edit
from tinfork.web.faces.actions import add_part, bring_layers, change_layer, change_part, mirror_view, place_mouth
from tinfork.web.lexicon.actions import save_entry
from tinfork.web.productions.actions import create_character, create_production, create_scene
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.reading.scene import Asked, read_part, to_read
from tinfork.web.script.actions import add_text, script_of, set_language
from tinfork.web.shots.changing import sequence_named
from tinfork.web.shots.models import Shot
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
        _draw(person, production, cast)
        for number, text in enumerate(SCENES, 1):
            scene = create_scene(person, production, text.name, text.rate, str(text.start_frame))
            _bring_in(person, scene, cast, text)
            _write(person, scene, cast, text)
            for part in to_read(scene)[0]:
                read_part(person, scene, part, Asked(), lambda share: None)
            _act(person, scene)
            part_of_film = sequence_named(production, SEQUENCES.get(text.slug, OTHERWISE))
            Shot.objects.create(scene=scene, number=f"{number * 10:04d}", sequence_id=part_of_film)
            Edit.objects.filter(scene=scene).delete()
            self.stdout.write(f"  {PRODUCTION}: {text.name}")


def _character(person: Person, production: Production, member: CastMember) -> Character:
    character = create_character(person, production, member.name)
    character.form, character.skin, character.trim, character.lip = member.form, member.skin, member.trim, member.lip
    character.save()
    return character


def _draw(person: Person, production: Production, cast: dict[str, Character]) -> None:
    """Give each of the cast mouths of their own: drawn by us in two moods, pictures with odd names, five drawings."""
    paper = create_chart(person, production, "Paper cut-outs")
    draw(person, paper, STYLES["paper"], NEUTRAL)
    draw(person, paper, replace(STYLES["paper"], corners=0.9), "cheerful")
    draw(person, paper, replace(STYLES["paper"], turned=1.0), "three-quarter right")
    carved_chart = create_chart(person, production, "Carved on the north pier")
    bring_drawings(person, carved_chart, [_png(name, carved(shape)) for name, shape in CARVED.items()])
    five = create_chart(person, production, "Panels of a ticket machine")
    bring_drawings(person, five, [_upload(f"{name}.svg", svg.encode()) for name, svg in panels().items()])
    bring_layers(person, cast["Pock"], [_upload(f"{name}.svg", svg.encode()) for name, svg in CABINET.items()])
    bring_layers(
        person, cast["Pock"], [_upload(f"{name}.svg", svg.encode()) for name, svg in CABINET_FROM_THE_SIDE.items()]
    )
    for part, layers in PARTS.items():
        made = add_part(person, cast["Pock"], part)
        change_part(person, made, {"x": "0", "y": "-108"})
        for name, in_turn in layers.items():
            for layer in made.face.layers.filter(name=name):
                change_layer(person, layer, {"part": part, "switched": "yes" if in_turn else "no"})
    place_mouth(person, cast["Pock"], MOUTH_FROM_THE_SIDE | {"view": SIDE_VIEW})
    mirror_view(person, cast["Pock"], SIDE_VIEW)
    for name, chart in (("Marit", paper), ("Brede", carved_chart), ("Pock", five)):
        wear(person, cast[name], chart)


def _act(person: Person, scene: Scene) -> None:
    """Let all who speak act, as it is proposed."""
    for stave in scene.staves.select_related("character"):
        acting = acting_of(scene, stave.character)
        propose(person, acting, acting.version, [], [])


def _png(name: str, svg: str) -> Upload:
    return _upload(f"{name}.png", open_picture(f"{name}.svg", svg.encode()).png)


def _upload(name: str, data: bytes) -> Upload:
    return SimpleUploadedFile(name, data)


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
