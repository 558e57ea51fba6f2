from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

from django.db import models
from django.urls import reverse

from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.mouths.face import MOUTH_SCALE, built_in_face
from tinfork.core.mouths.face import Face as DrawnFace
from tinfork.core.mouths.parts import (
    HEAD,
    MOUTH,
    ROLES,
    Matrix,
    Part,
    PicturePiece,
    Relief,
    Turn,
    matrix_of,
    times,
    with_head_and_mouth,
)
from tinfork.core.mouths.register import Registration, markup
from tinfork.core.mouths.turning import inverse
from tinfork.core.mouths.views import FRONT, in_order
from tinfork.web.charts.pictures import MovingPictured, key_of
from tinfork.web.productions.models import Character, Removable


class Face(models.Model):
    """What a character's mouth is shown on, where it differs from the built-in face: where the mouth's anchor lies,
    how large a mouth is drawn and how far it is turned, in the units of tinfork.core.mouths.face. views: by their names
    the same for views in which the mouth lies elsewhere than from the front."""

    character = models.OneToOneField(Character, models.CASCADE, related_name="face")
    x = models.FloatField(default=0.0)
    y = models.FloatField(default=0.0)
    size = models.FloatField(default=MOUTH_SCALE)
    turn = models.FloatField(default=0.0)
    views = models.JSONField(default=dict, blank=True)

    def __str__(self) -> str:
        return f"the face of {self.character}"

    def mouth_in(self, view: str) -> dict[str, float]:
        """Return where the mouth lies in a view: as from the front where nobody said otherwise."""
        there: dict[str, float] = self.views.get(view, {})
        return {"x": self.x, "y": self.y, "size": self.size, "turn": self.turn} | there


class FacePart(models.Model):
    """Something of a face that moves, made of layers. x, y: what it turns about; on: the name of the part it hangs on,
    "" for none; role: what is proposed for it; rest: the name of the drawing it shows when nothing is decided."""

    face = models.ForeignKey(Face, models.CASCADE, related_name="parts")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    number = models.PositiveIntegerField(default=0)
    x = models.FloatField(default=0.0)
    y = models.FloatField(default=0.0)
    on = models.CharField(max_length=MAX_NAME_CHARACTERS, blank=True, default=HEAD)
    role = models.CharField(max_length=20, blank=True, choices=list(ROLES.items()))
    rest = models.CharField(max_length=MAX_NAME_CHARACTERS, blank=True)

    class Meta:
        ordering = ["number", "pk"]
        constraints = [models.UniqueConstraint(fields=["face", "name"], name="one_part_of_a_name")]

    def __str__(self) -> str:
        return self.name


class FaceLayer(Removable, MovingPictured):
    """A picture of a face, as a PNG. x, y: where its middle lies; scale: units a pixel; turn: degrees. in_front: over
    the mouth. part: what it is of, None for the head; switched: whether it is a drawing of its part, shown in turn with
    the others, under its name. view: the only view it is seen in, "" for all; depth: how far before the head's axis it
    lies, by which it slides when the head turns: 0 for not at all, 1 for a nose. It may move by further pictures."""

    face = models.ForeignKey(Face, models.CASCADE, related_name="layers")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    number = models.PositiveIntegerField(default=0)
    x = models.FloatField()
    y = models.FloatField()
    scale = models.FloatField()
    turn = models.FloatField(default=0.0)
    in_front = models.BooleanField(default=False)
    hidden = models.BooleanField(default=False)
    part = models.ForeignKey(FacePart, models.SET_NULL, null=True, blank=True, related_name="layers")
    switched = models.BooleanField(default=False)
    view = models.CharField(max_length=40, blank=True)
    depth = models.FloatField(default=0.0)

    class Meta:
        ordering = ["number", "pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def relief(self) -> Relief | None:
        """Where it lies on a head that turns; None for what does not slide."""
        return Relief(self.x, _NOSE * self.depth) if self.depth else None

    @property
    def href(self) -> str:
        """Where its picture is, under an address that changes with it."""
        return own_href(self)

    def markup(self, href: str) -> str:
        """Return it where it lies, as SVG. href: where its picture is."""
        at = Registration(self.width / 2, self.height / 2, self.scale, self.turn)
        drawn = markup(href, self.width, self.height, at, "layer")
        return f'<g transform="translate({self.x:.2f} {self.y:.2f})">{drawn}</g>'


_NOSE = 90.0
"""How far before the axis of a head its nose lies, in units of a face's picture."""

_LIPS = 0.7
"""How deep a mouth lies on layers that slide."""


Href = Callable[[FaceLayer, int], str]
"""Where one of a layer's pictures is."""


def own_href(layer: FaceLayer, picture: int = 0) -> str:
    """Return where one of a layer's pictures is, under an address that changes with it."""
    return reverse("layer-picture", args=[layer.pk, key_of(layer.files[picture])])


def face_of(character: Character, href: Href = own_href) -> DrawnFace:
    """Return what a character's mouth is shown on now. href: where a layer's pictures are."""
    face = Face.objects.filter(character=character).first()
    if face is None:
        return built_in_face(character.look)
    return shown_face(character, face, list(face.layers.all()), href)


def shown_face(character: Character, face: Face, layers: Sequence[FaceLayer], href: Href = own_href) -> DrawnFace:
    """Return a face with its layers; the built-in one where there are none."""
    x, y, size, turn = face.x, face.y, face.size, face.turn
    lies = {view: _taken(face.mouth_in(""), face.mouth_in(view)) for view in face.views}
    if not layers:
        ours = built_in_face(character.look)
        return DrawnFace.of(_mouth_at(ours.parts, face), ours.pieces, lies, x=x, y=y, size=size, turn=turn)
    names = {part.pk: part.name for part in face.parts.all()}
    seen = [layer for layer in layers if not layer.hidden]

    def pieces_of(layer: FaceLayer) -> Iterator[PicturePiece]:
        part = names.get(layer.part_id or 0, HEAD)
        drawing = layer.name if layer.switched and layer.part_id else None
        moving = layer.moving
        for at in range(len(layer.files)):
            turn = Turn(f"layer {layer.pk}", moving, at) if moving else None
            drawn = layer.markup(href(layer, at))
            yield PicturePiece(part, drawn, drawing, layer.relief, layer.view or None, turn)

    behind = [piece for layer in seen if not layer.in_front for piece in pieces_of(layer)]
    before = [piece for layer in seen if layer.in_front for piece in pieces_of(layer)]
    relief = Relief(face.x, _NOSE * _LIPS) if any(layer.depth for layer in seen) else None
    pieces = (*behind, PicturePiece(MOUTH, "", None, relief), *before)
    found = DrawnFace.of(parts_of(face, seen), pieces, lies, x=x, y=y, size=size, turn=turn)
    return found.with_views(())


def views_shown(face: Face | None, layers: Sequence[FaceLayer]) -> list[str]:
    """Return the views a face has, in order, the front first."""
    return in_order({FRONT, *(face.views if face else ()), *(layer.view for layer in layers if layer.view)})


def _taken(front: dict[str, float], there: dict[str, float]) -> Matrix:
    """What takes a mouth from where it lies from the front to where it lies in a view."""
    first, then = (
        matrix_of(Part("", 0, 0), {"x": own["x"], "y": own["y"], "turn": own["turn"], "size": own["size"] - 1})
        for own in (front, there)
    )
    return times(then, inverse(first))


def parts_of(face: Face, layers: Sequence[FaceLayer]) -> tuple[Part, ...]:
    """Return the parts of a face with their drawings; head and mouth are always there, the mouth on the head if nobody
    said otherwise."""
    drawings: dict[int, list[str]] = {}
    for layer in layers:
        if layer.switched and layer.part_id:
            drawings.setdefault(layer.part_id, []).append(layer.name)
    own = (
        Part(part.name, part.x, part.y, part.on, part.role, tuple(drawings.get(part.pk, ())), part.rest)
        for part in face.parts.all()
    )
    return _mouth_at(with_head_and_mouth(own), face)


def _mouth_at(parts: Sequence[Part], face: Face) -> tuple[Part, ...]:
    """Parts of which the mouth turns about where it lies, if nobody set that otherwise."""
    return tuple(
        replace(part, x=face.x, y=face.y) if part.name == MOUTH and not (part.x or part.y) else part for part in parts
    )
