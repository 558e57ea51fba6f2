"""What people do to a character's face. Each action checks who asks and is whole or not at all."""

from collections.abc import Mapping, Sequence
from pathlib import Path

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from tinfork.core.errors import ChartError
from tinfork.core.mouths.picture import Picture, opened
from tinfork.core.mouths.register import registered_heads
from tinfork.web.charts.actions import Upload
from tinfork.web.charts.pictures import pictured
from tinfork.web.cleaning import number_within
from tinfork.web.productions.actions import checked_name, hold, put_elsewhere
from tinfork.web.productions.models import Character
from tinfork.web.productions.permissions import Person, check

from .models import Face, FaceLayer

MOST_LAYERS = 40
_MOST_BYTES = 200_000_000
_SPOT = (-2_000.0, 2_000.0)
_MOUTH = {"x": _SPOT, "y": _SPOT, "size": (0.02, 50.0), "turn": (-360.0, 360.0)}
_LAYER = {"x": _SPOT, "y": _SPOT, "scale": (1e-4, 100.0), "turn": (-360.0, 360.0)}


@transaction.atomic
def place_mouth(person: Person, character: Character, asked: Mapping[str, str]) -> Face:
    """Set where on the face the mouth lies; what is not named stays."""
    face = _held(person, character)
    for name, (least, most) in _MOUTH.items():
        if name in asked:
            setattr(face, name, number_within(asked[name], least, most))
    face.save()
    return face


def bring_layers(person: Person, character: Character, uploads: Sequence[Upload]) -> list[str]:
    """Bring pictures in as layers, each over those before it; a sentence for each that cannot be used. Those of one
    size keep how they lie on each other."""
    check(person, character.production, "edit")
    if sum(upload.size or 0 for upload in uploads) > _MOST_BYTES:
        raise ChartError("These files are larger than 200 MB together; bring them in a few at a time.")
    pictures: list[Picture] = []
    notes: list[str] = []
    for upload in uploads:
        try:
            pictures.append(opened(Path(upload.name or "layer").name, upload.read()))
        except ChartError as amiss:
            notes.append(str(amiss))
    if not pictures:
        raise ChartError(notes[0] if notes else "No file came through; choose the pictures again.")
    _keep(person, character, pictures)
    return notes


@transaction.atomic
def _keep(person: Person, character: Character, pictures: Sequence[Picture]) -> None:
    face = _held(person, character)
    if face.layers.count() + len(pictures) > MOST_LAYERS:
        raise ChartError(f"A face has {MOST_LAYERS} layers at the most; put some of them together.")
    number = (face.layers.aggregate(Max("number"))["number__max"] or 0) + 1
    there = {(layer.width, layer.height): layer for layer in face.layers.all()}
    lies = registered_heads([picture.pixels for picture in pictures])
    for row, (picture, at) in enumerate(zip(pictures, lies, strict=True)):
        height, width = picture.pixels.shape[:2]
        like = there.get((width, height))
        FaceLayer.objects.create(
            face=face,
            name=checked_name(picture.name, "layer"),
            number=number + row,
            **pictured(picture),
            x=like.x if like else (width / 2 - at.x) * at.scale,
            y=like.y if like else (height / 2 - at.y) * at.scale,
            scale=like.scale if like else at.scale,
            turn=like.turn if like else 0.0,
        )


@transaction.atomic
def change_layer(person: Person, layer: FaceLayer, asked: Mapping[str, str]) -> None:
    """Set a layer's name, where it lies, whether it is over the mouth and whether it is seen; what is not named
    stays."""
    _held(person, layer.face.character)
    layer.refresh_from_db()
    if "name" in asked:
        layer.name = checked_name(asked["name"], "layer")
    for name, (least, most) in _LAYER.items():
        if name in asked:
            setattr(layer, name, number_within(asked[name], least, most))
    for name in ("in_front", "hidden"):
        if name in asked:
            setattr(layer, name, asked[name] == "yes")
    layer.save()


@transaction.atomic
def move_layer(person: Person, layer: FaceLayer, by: int) -> None:
    """Put a layer under the one below it, or over the one above."""
    face = _held(person, layer.face.character)
    put_elsewhere(face.layers.all(), layer.pk, by, "number")


@transaction.atomic
def remove_layer(person: Person, layer: FaceLayer, back: bool = False) -> None:
    """Put a layer out of sight, or bring it back."""
    _held(person, layer.face.character)
    layer.removed = None if back else timezone.now()
    layer.save(update_fields=["removed"])


def _held(person: Person, character: Character) -> Face:
    """The character's face, made like the built-in one if need be, that nobody else changes meanwhile."""
    check(person, character.production, "edit")
    hold(character.production)
    return Face.objects.get_or_create(character=character)[0]
