from django.conf import settings
from django.db import models

from tinfork.core.script import marks as marking
from tinfork.core.sound import arrangement
from tinfork.core.sound.arrangement import MIX
from tinfork.web.edits.models import Document
from tinfork.web.productions.models import Character, Production, Scene


class SoundFile(models.Model):
    """A sound as it came, byte for byte, with what one pass over it found. reel: the picture of a video, made for
    showing in time."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="sounds")
    name = models.CharField(max_length=255)
    sha256 = models.CharField(max_length=64)
    original = models.FileField(max_length=200)
    seconds = models.FloatField()
    rate = models.PositiveIntegerField()
    channels = models.PositiveSmallIntegerField(default=1)
    has_picture = models.BooleanField(default=False)
    reel = models.FileField(max_length=200, blank=True)
    notes = models.JSONField(default=list)
    findings = models.JSONField(default=list)
    brought = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["production", "sha256"], name="one_sound_of_a_content")]

    def __str__(self) -> str:
        return self.name


class ChannelCopy(models.Model):
    """One channel of a sound, or their mix: its listening copy and the peaks of its waveform."""

    sound = models.ForeignKey(SoundFile, models.CASCADE, related_name="copies")
    channel = models.SmallIntegerField(default=MIX)
    listen = models.FileField(max_length=200)
    peaks = models.FileField(max_length=200)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sound", "channel"], name="one_copy_of_a_channel")]


class SoundMelody(models.Model):
    """How high and how loud a channel of a sound is, as tinfork.core.sound.melody keeps it; made when it is first
    asked for."""

    sound = models.ForeignKey(SoundFile, models.CASCADE, related_name="melodies")
    channel = models.SmallIntegerField(default=MIX)
    packed = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sound", "channel"], name="one_melody_of_a_channel")]


class Arrangement(Document):
    """What lies where in a scene, and who was marked as speaking when; both the core's own values as documents."""

    EDITABLE = ("body", "marks")
    area = "sound"

    scene = models.OneToOneField(Scene, models.CASCADE, related_name="arrangement")
    body = models.JSONField()
    marks = models.JSONField()

    @property
    def value(self) -> arrangement.Arrangement:
        """The arrangement as the core's value."""
        return self.restored("body", arrangement.Arrangement)

    @property
    def kept_marks(self) -> marking.Marks:
        """The marks as the core's value, in the time of the sounds they lie on."""
        return self.restored("marks", marking.Marks)

    @property
    def the_marks(self) -> marking.Marks:
        """The marks as the core's value, where their sounds are heard in the scene now."""
        return marking.in_scene(self.kept_marks, self.value.clips, float(self.scene.fps))


class Arrived(models.Model):
    """A file that a page sent, under a key of its own, was placed up to a frame: it is not placed again when it is sent
    again, as the page does when it did not hear that it came."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="arrived")
    key = models.UUIDField()
    number = models.PositiveIntegerField()
    end = models.IntegerField()
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["scene", "key", "number"], name="one_arrival_of_a_key")]


class Take(models.Model):
    """A recording made in the browser, kept until one of them is chosen. at: the frame the playhead was on when it was
    made, where that is known."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="takes")
    character = models.ForeignKey(Character, models.CASCADE)
    sound = models.ForeignKey(SoundFile, models.CASCADE)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    kept = models.BooleanField(default=False)
    at = models.PositiveIntegerField(null=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
