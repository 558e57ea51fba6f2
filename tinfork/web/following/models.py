from django.conf import settings
from django.db import models

from tinfork.core.following.following import Followed
from tinfork.core.plain import restore
from tinfork.web.edits.history import NUMBERING
from tinfork.web.edits.models import Document
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.sound.models import SoundFile


class Timing(Document):
    """What the frames of a scene are numbered by: its frame rate and first frame, as somebody changed them, which the
    scene has itself too; and where the notes of its reviews lie, [first frame, last], by their numbers, as something
    was changed with which they went along. So all of it is undone with what it was changed with."""

    EDITABLE = ("rate", "start_frame", "places")
    area = NUMBERING

    scene = models.OneToOneField(Scene, models.CASCADE, related_name="timing")
    rate = models.CharField(max_length=20)
    start_frame = models.PositiveIntegerField()
    places = models.JSONField(default=dict)


def timing_of(scene: Scene) -> Timing:
    """Return what a scene is numbered by, kept from now on."""
    own = {"rate": scene.rate, "start_frame": scene.start_frame}
    found, _ = Timing.objects.get_or_create(scene=scene, defaults=own)
    found.scene = scene
    return found


class Following(models.Model):
    """Another version of a sound of a scene, looked at before it is taken. source_id: the old one's; job: what
    compared both; found: a core's Followed, its lines numbered by their places in of; of: of each line its stave, its
    number there, and the line as it was; taken: since when it lies in the scene."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="followings")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    source_id = models.PositiveIntegerField()
    old = models.ForeignKey(SoundFile, models.CASCADE, related_name="+")
    new = models.ForeignKey(SoundFile, models.CASCADE, related_name="+")
    job = models.ForeignKey(Job, models.SET_NULL, null=True, related_name="+")
    found = models.JSONField(null=True)
    of = models.JSONField(default=list)
    taken = models.DateTimeField(null=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    @property
    def value(self) -> Followed | None:
        """What became of the old sound; None as long as it is not known."""
        return None if self.found is None else restore(self.found, Followed)
