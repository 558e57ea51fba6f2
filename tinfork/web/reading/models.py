from django.conf import settings
from django.db import models

from tinfork.core.exposure.track import Exposure, Pin, Settings, exposure_from_json
from tinfork.core.speech.reading import Reading, from_json
from tinfork.web.productions.models import Character, Scene
from tinfork.web.sound.models import SoundFile


class Stave(models.Model):
    """One character's lanes in a scene: sound, script, the reading of both, pins, and the mouth track planned from
    them. Reading and exposures are the core's own values as documents; version grows with every change."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="staves")
    character = models.ForeignKey(Character, models.CASCADE, related_name="staves")
    sound = models.ForeignKey(SoundFile, models.PROTECT, null=True, blank=True)
    script = models.TextField(blank=True)
    language = models.CharField(max_length=20, default="en")
    reading = models.JSONField(null=True, blank=True)
    pins = models.JSONField(default=list)
    hold = models.PositiveSmallIntegerField(default=2)
    lead = models.PositiveSmallIntegerField(default=1)
    detail = models.FloatField(default=0.5)
    exposures = models.JSONField(default=list)
    version = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["character_id"]
        constraints = [models.UniqueConstraint(fields=["scene", "character"], name="one_stave_of_a_character")]

    def the_reading(self) -> Reading | None:
        """The reading as the core's value."""
        return from_json(self.reading) if self.reading else None

    def the_pins(self) -> tuple[Pin, ...]:
        """The pins as the core's values."""
        return tuple(Pin(**pin) for pin in self.pins)

    def the_exposures(self) -> tuple[Exposure, ...]:
        """The mouth track as the core's values."""
        return tuple(exposure_from_json(document) for document in self.exposures)

    def the_settings(self) -> Settings:
        """Hold, lead and Detail as the core's value."""
        return Settings(self.hold, self.lead, self.detail)

    def choices(self) -> dict[str, object]:
        """What a person decides on the desk, and undo brings back."""
        return {"pins": self.pins, "hold": self.hold, "lead": self.lead, "detail": self.detail}


class Edit(models.Model):
    """The edit log: one action on one version, with what undoes it."""

    stave = models.ForeignKey(Stave, models.CASCADE, related_name="edits")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    verb = models.CharField(max_length=40)
    before = models.JSONField()
    after = models.JSONField()
    version = models.PositiveIntegerField()
    undone = models.BooleanField(default=False)
    superseded = models.BooleanField(default=False)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
