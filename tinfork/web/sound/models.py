from django.db import models

from tinfork.web.productions.models import Production


class SoundFile(models.Model):
    """A sound as it came, byte for byte, with its listening copy and the peaks of its waveform."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="sounds")
    name = models.CharField(max_length=255)
    sha256 = models.CharField(max_length=64)
    original = models.FileField(max_length=200)
    listen = models.FileField(max_length=200)
    peaks = models.FileField(max_length=200)
    seconds = models.FloatField()
    rate = models.PositiveIntegerField()
    notes = models.JSONField(default=list)
    brought = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["production", "sha256"], name="one_sound_of_a_content")]

    def __str__(self) -> str:
        return self.name
