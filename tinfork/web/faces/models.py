from collections.abc import Callable, Sequence

from django.db import models
from django.urls import reverse

from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.mouths.face import MOUTH_SCALE, built_in_face
from tinfork.core.mouths.face import Face as Shown
from tinfork.core.mouths.register import Registration, markup
from tinfork.web.charts.pictures import Pictured
from tinfork.web.productions.models import Character, Removable


class Face(models.Model):
    """What a character's mouth is shown on, where it differs from the built-in face: where the mouth's anchor lies,
    how large a mouth is drawn and how far it is turned, in the units of tinfork.core.mouths.face."""

    character = models.OneToOneField(Character, models.CASCADE, related_name="face")
    x = models.FloatField(default=0.0)
    y = models.FloatField(default=0.0)
    size = models.FloatField(default=MOUTH_SCALE)
    turn = models.FloatField(default=0.0)

    def __str__(self) -> str:
        return f"the face of {self.character}"


class FaceLayer(Removable, Pictured):
    """A picture of a face, as a PNG. x, y: where its middle lies; scale: units a pixel; turn: degrees. in_front: over
    the mouth."""

    face = models.ForeignKey(Face, models.CASCADE, related_name="layers")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    number = models.PositiveIntegerField(default=0)
    x = models.FloatField()
    y = models.FloatField()
    scale = models.FloatField()
    turn = models.FloatField(default=0.0)
    in_front = models.BooleanField(default=False)
    hidden = models.BooleanField(default=False)

    class Meta:
        ordering = ["number", "pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def href(self) -> str:
        """Where its picture is, under an address that changes with it."""
        return reverse("layer-picture", args=[self.pk, self.picture_key])

    def markup(self, href: str) -> str:
        """It where it lies, as SVG. href: where its picture is."""
        at = Registration(self.width / 2, self.height / 2, self.scale, self.turn)
        drawn = markup(href, self.width, self.height, at, "layer")
        return f'<g transform="translate({self.x:.2f} {self.y:.2f})">{drawn}</g>'


def _own_href(layer: FaceLayer) -> str:
    return layer.href


def face_of(character: Character, href: Callable[[FaceLayer], str] = _own_href) -> Shown:
    """What a character's mouth is shown on now. href: where a layer's picture is."""
    face = Face.objects.filter(character=character).first()
    if face is None:
        return built_in_face(character.look)
    return shown_face(character, face, list(face.layers.all()), href)


def shown_face(
    character: Character, face: Face, layers: Sequence[FaceLayer], href: Callable[[FaceLayer], str] = _own_href
) -> Shown:
    """A face with its layers; the built-in one where there are none."""
    seen = [layer for layer in layers if not layer.hidden]
    behind = "".join(layer.markup(href(layer)) for layer in seen if not layer.in_front)
    before = "".join(layer.markup(href(layer)) for layer in seen if layer.in_front)
    ours = "" if layers else built_in_face(character.look).behind
    return Shown(ours + behind, before, face.x, face.y, face.size, face.turn)
