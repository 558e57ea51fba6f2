"""What people do to a character's face. Each action checks who asks and is whole or not at all."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from tinfork.core.errors import ActingError, ChartError
from tinfork.core.limits import MAX_NAME_CHARACTERS, MAX_VIEWS
from tinfork.core.mouths import prepared
from tinfork.core.mouths.parts import HEAD, ROLES, Part, check_parts, with_head_and_mouth
from tinfork.core.mouths.prepared import Prepared
from tinfork.core.mouths.register import Registration
from tinfork.core.mouths.views import FRONT, opposite, view_in
from tinfork.web.charts.actions import Upload
from tinfork.web.charts.pictures import keep_further, keep_picture, opened_aside, pictured
from tinfork.web.cleaning import number_within
from tinfork.web.files.aside import aside
from tinfork.web.productions.actions import checked_name, hold, put_elsewhere
from tinfork.web.productions.models import Character
from tinfork.web.productions.permissions import Person, check

from .models import Face, FaceLayer, FacePart

MOST_LAYERS = 40
_MOST_BYTES = 200_000_000
_MOST_IN_A_NAME = 40
_MIRRORED_ALIKE = ("name", "y", "scale", "in_front", "hidden", "switched", "depth", "each", "once")
_SPOT = (-2_000.0, 2_000.0)
_MOUTH = {"x": _SPOT, "y": _SPOT, "size": (0.02, 50.0), "turn": (-360.0, 360.0)}
_LAYER = {"x": _SPOT, "y": _SPOT, "scale": (1e-4, 100.0), "turn": (-360.0, 360.0), "depth": (0.0, 1.0)}


@transaction.atomic
def place_mouth(person: Person, character: Character, asked: Mapping[str, str]) -> Face:
    """Set where on the face the mouth lies, from the front or in the view that is named; what is not named stays."""
    face = _held(person, character)
    view = _view(asked.get("view", ""))
    lies = {name: number_within(asked[name], *within) for name, within in _MOUTH.items() if name in asked}
    if view and view != FRONT:
        face.views = _with_view(face, view) | {view: face.mouth_in(view) | lies}
    else:
        for name, value in lies.items():
            setattr(face, name, value)
    face.save()
    return face


def _view(asked: str) -> str:
    """A view's name as it is kept; "" for none."""
    view = asked.strip().lower()[:_MOST_IN_A_NAME]
    return view_in(view)[0] or view


def _with_view(face: Face, view: str) -> dict[str, Any]:
    """Where the mouth lies in views, if one more may be among them."""
    if view not in face.views and len(face.views) >= MAX_VIEWS:
        raise ChartError(f"A face has {MAX_VIEWS} views at the most.")
    return dict(face.views)


@transaction.atomic
def add_view(person: Person, character: Character, name: str) -> str:
    """A new view of a face, in which its mouth lies as from the front until it is moved; its name as it is kept."""
    face = _held(person, character)
    view = _view(checked_name(name, "view"))
    if view == FRONT:
        raise ChartError("The front is there already; name another view, such as side left.")
    _give_to_the_front(face)
    face.views = _with_view(face, view) | {view: face.mouth_in(view)}
    face.save(update_fields=["views"])
    return view


def _give_to_the_front(face: Face) -> None:
    """As a face gets its first view, what is there is the front's."""
    if not face.views and not face.layers.exclude(view="").exists():
        face.layers.update(view=FRONT)


@transaction.atomic
def remove_view(person: Person, character: Character, view: str) -> None:
    """Take a view away; its layers are put out of sight, and can be brought back."""
    face = _held(person, character)
    face.views = {own: lies for own, lies in face.views.items() if own != view}
    face.save(update_fields=["views"])
    face.layers.filter(view=view).update(removed=timezone.now())


def mirror_view(person: Person, character: Character, view: str) -> str:
    """Make the other side's view of a view as a mirror shows it: its layers flipped, its mouth where a mirror has it.
    The name of the view that was made."""
    check(person, character.production, "edit")
    other = opposite(view)
    face = Face.objects.filter(character=character).first()
    own = list(face.layers.filter(view=view).select_related("part")) if face else []
    if face is None or other == view or not own:
        raise ChartError("Only a view to the left or right that has layers can be mirrored.")
    _check_free(face, other)
    with TemporaryDirectory() as name:
        folder = Path(name)
        flipped = [[prepared.flipped(source, folder) for source in layer.sources] for layer in own]
        _keep_mirrored(person, character, other, own, flipped, folder)
    return other


def _check_free(face: Face, view: str) -> None:
    if face.layers.filter(view=view).exists():
        raise ChartError(f"There are layers of the view {view} already; delete them first.")


@transaction.atomic
def _keep_mirrored(
    person: Person,
    character: Character,
    view: str,
    layers: Sequence[FaceLayer],
    flipped: Sequence[Sequence[Prepared]],
    folder: Path,
) -> None:
    face = _held(person, character)
    _check_free(face, view)
    if face.layers.count() + len(layers) > MOST_LAYERS:
        raise ChartError(f"A face has {MOST_LAYERS} layers at the most; put some of them together.")
    number = (face.layers.aggregate(Max("number"))["number__max"] or 0) + 1
    sides = {part.name: part for part in face.parts.all()}
    for row, (layer, (picture, *more)) in enumerate(zip(layers, flipped, strict=True)):
        part = sides.get(opposite(layer.part.name), layer.part) if layer.part else None
        kept = {field: getattr(layer, field) for field in _MIRRORED_ALIKE}
        turned = {"x": -layer.x, "turn": -layer.turn, "view": view, "part": part, "number": number + row}
        also = [keep_picture(one, folder) for one in more]
        FaceLayer.objects.create(face=face, **pictured(picture, folder), also=also, **kept, **turned)
    lies = face.mouth_in(opposite(view))
    face.views = _with_view(face, view) | {view: lies | {"x": -lies["x"], "turn": -lies["turn"]}}
    face.save(update_fields=["views"])


def bring_layers(person: Person, character: Character, uploads: Sequence[Upload], view: str = "") -> list[str]:
    """Bring pictures in as layers, each over those before it; a sentence for each that cannot be used. Those of one
    size keep how they lie on each other. view: of which view they are; where none is named, of the one their names
    speak of, or of all."""
    check(person, character.production, "edit")
    if sum(upload.size or 0 for upload in uploads) > _MOST_BYTES:
        raise ChartError("These files are larger than 200 MB together; bring them in a few at a time.")
    with opened_aside([(Path(upload.name or "layer").name, upload) for upload in uploads]) as (sources, folder):
        fresh, notes = aside(prepared.layers, sources, folder)
        _keep(person, character, fresh, folder, view)
    return notes


@transaction.atomic
def _keep(
    person: Person, character: Character, fresh: Sequence[tuple[Prepared, Registration]], folder: Path, view: str
) -> None:
    face = _held(person, character)
    if face.layers.count() + len(fresh) > MOST_LAYERS:
        raise ChartError(f"A face has {MOST_LAYERS} layers at the most; put some of them together.")
    number = (face.layers.aggregate(Max("number"))["number__max"] or 0) + 1
    if view or any(view_in(picture.name)[0] for picture, _ in fresh):
        _give_to_the_front(face)
    there = {(layer.width, layer.height): layer for layer in face.layers.all()}
    for row, (picture, at) in enumerate(fresh):
        width, height = picture.width, picture.height
        like = there.get((width, height))
        FaceLayer.objects.create(
            face=face,
            name=checked_name(view_in(picture.name)[1] or picture.name, "layer"),
            view=_view(view or view_in(picture.name)[0]),
            number=number + row,
            **pictured(picture, folder),
            x=like.x if like else (width / 2 - at.x) * at.scale,
            y=like.y if like else (height / 2 - at.y) * at.scale,
            scale=like.scale if like else at.scale,
            turn=like.turn if like else 0.0,
        )


@transaction.atomic
def change_layer(person: Person, layer: FaceLayer, asked: Mapping[str, str]) -> None:
    """Set a layer's name, where it lies, how deep, in which view, whether it is over the mouth and whether it is seen;
    what is not named stays."""
    _held(person, layer.face.character)
    layer.refresh_from_db()
    if "name" in asked:
        layer.name = checked_name(asked["name"], "layer")
    for name, (least, most) in _LAYER.items():
        if name in asked:
            setattr(layer, name, number_within(asked[name], least, most))
    layer.set_moving(asked)
    for name in ("in_front", "hidden", "switched"):
        if name in asked:
            setattr(layer, name, asked[name] == "yes")
    if "view" in asked:
        layer.view = _view(asked["view"])
    if "part" in asked:
        layer.part = layer.face.parts.filter(name=asked["part"]).first()
    layer.save()


def add_pictures(person: Person, layer: FaceLayer, uploads: Sequence[Upload]) -> None:
    """Give a layer further pictures, of its canvas, after those it has: it moves from now on. ChartError where one is
    of another size, or they are too many."""
    check(person, layer.face.character.production, "edit")
    keep_further(layer, str(layer), uploads, lambda: _hold(person, layer))


def _hold(person: Person, layer: FaceLayer) -> None:
    _held(person, layer.face.character)


@transaction.atomic
def make_still(person: Person, layer: FaceLayer) -> None:
    """Take a layer's further pictures away: it does not move any more."""
    _hold(person, layer)
    layer.make_still()


@transaction.atomic
def add_part(person: Person, character: Character, name: str) -> FacePart:
    """A new part of a face, on its head."""
    face = _held(person, character)
    name = checked_name(name, "part")
    if face.parts.filter(name=name).exists():
        raise ActingError(f"There is a part “{name}” already; give the new one another name.")
    role = next((role for role in ROLES if role == name.lower()), "")
    on = "" if name == HEAD else HEAD
    made = FacePart(face=face, name=name, number=face.parts.count() + 1, on=on, role=role)
    check_parts(parts_of_rows([*face.parts.all(), made]))
    made.save()
    return made


@transaction.atomic
def change_part(person: Person, part: FacePart, asked: Mapping[str, str]) -> None:
    """Set what a part turns about, hangs on, what is proposed for it and how it rests; what is not named stays. Its
    name stays too: lanes go by it."""
    _held(person, part.face.character)
    part.refresh_from_db()
    for name in ("x", "y"):
        if name in asked:
            setattr(part, name, number_within(asked[name], *_SPOT))
    if "role" in asked:
        if asked["role"] not in ("", *ROLES):
            raise ActingError("This is no role a part can have; reload the page and choose one.")
        part.role = asked["role"]
    part.on = asked.get("on", part.on)
    part.rest = asked.get("rest", part.rest)[:MAX_NAME_CHARACTERS]
    others = [one for one in part.face.parts.all() if one.pk != part.pk]
    check_parts(parts_of_rows([*others, part]))
    part.save()


@transaction.atomic
def remove_part(person: Person, part: FacePart) -> None:
    """Take a part away: its layers are the head's again, and what hung on it hangs on the head. Its lanes stay, and
    count again when there is a part of the name."""
    face = _held(person, part.face.character)
    face.parts.filter(on=part.name).update(on=HEAD)
    part.delete()


def parts_of_rows(rows: Sequence[FacePart]) -> tuple[Part, ...]:
    """Parts as the core has them, with the head and the mouth that are always there."""
    return with_head_and_mouth(Part(row.name, row.x, row.y, row.on, row.role) for row in rows)


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
