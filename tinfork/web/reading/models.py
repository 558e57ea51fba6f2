from typing import Any

from django.db import models

from tinfork.core.exposure.track import Exposure, Settings, exposure_from_json
from tinfork.core.sound.anchors import AnchoredPin
from tinfork.core.speech.reading import Reading, from_json
from tinfork.web.edits.models import Document
from tinfork.web.productions.models import Character, Scene


class Stave(Document):
    """One character's lanes in a scene: the reading of their lines, pins, and the mouth track planned from both.

    Reading and pins are kept in the time of the sounds they belong to (tinfork.core.sound.anchors), so that they move
    with them; exposures are frames of the scene.
    """

    CHOICES = ("reading", "pins", "hold", "lead", "detail")

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="staves")
    character = models.ForeignKey(Character, models.CASCADE, related_name="staves")
    reading = models.JSONField(null=True, blank=True)
    pins = models.JSONField(default=list)
    hold = models.PositiveSmallIntegerField(default=2)
    lead = models.PositiveSmallIntegerField(default=1)
    detail = models.FloatField(default=0.5)
    exposures = models.JSONField(default=list)

    class Meta:
        ordering = ["character_id"]
        constraints = [models.UniqueConstraint(fields=["scene", "character"], name="one_stave_of_a_character")]

    @property
    def area(self) -> str:
        """Every stave has its own undo."""
        return f"stave {self.pk}"

    def the_reading(self) -> Reading | None:
        """The reading as the core's value, in the time of its sounds."""
        return from_json(self.reading) if self.reading else None

    def the_pins(self) -> tuple[AnchoredPin, ...]:
        """The pins as the core's values, in the frames of their sounds."""
        return tuple(AnchoredPin(**pin) for pin in self.pins)

    def the_exposures(self) -> tuple[Exposure, ...]:
        """The mouth track as the core's values."""
        return tuple(exposure_from_json(document) for document in self.exposures)

    def the_settings(self) -> Settings:
        """Hold, lead and Detail as the core's value."""
        return Settings(self.hold, self.lead, self.detail)

    def settle(self, before: dict[str, Any]) -> None:
        """The mouth track follows from what a person decided."""
        from .planning import replan

        replan(self)
