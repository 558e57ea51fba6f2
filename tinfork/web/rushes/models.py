from django.conf import settings
from django.db import models

from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.web.handover.models import Version
from tinfork.web.people.models import WatchLink
from tinfork.web.productions.models import Scene


class Verdict(models.Model):
    """What somebody says of a version; the last one counts. name: who said it, as they were called then."""

    class Kind(models.TextChoices):
        APPROVED = "approved"
        CHANGES = "changes", "wants changes"

    version = models.ForeignKey(Version, models.CASCADE, related_name="verdicts")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    kind = models.CharField(max_length=8, choices=Kind)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]


class Comment(models.Model):
    """A note on a frame of a shot, or an answer to one. link: by which a guest wrote it; name: who did, as they were
    called then, or called themselves; on: the note it answers; version: the one that was looked at,
    None for the shot as it was then; frame, end: counted from 0, the frames it is about; x, y: its place on the
    picture, as shares of its width and height; line: a line drawn with it, [x, y] each; done: since when it is done.
    written_rate: at which frame rate it was written, where that is not the scene's any more, and written_frame and
    written_end what its frames were then."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="comments")
    version = models.ForeignKey(Version, models.SET_NULL, null=True, blank=True, related_name="+")
    on = models.ForeignKey("self", models.CASCADE, null=True, blank=True, related_name="answers")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    link = models.ForeignKey(WatchLink, models.SET_NULL, null=True, blank=True, related_name="comments")
    guest = models.BooleanField(default=False)
    text = models.TextField()
    frame = models.PositiveIntegerField(default=0)
    end = models.PositiveIntegerField(default=0)
    written_rate = models.CharField(max_length=20, blank=True)
    written_frame = models.PositiveIntegerField(null=True)
    written_end = models.PositiveIntegerField(null=True)
    x = models.FloatField(null=True)
    y = models.FloatField(null=True)
    line = models.JSONField(default=list)
    done = models.DateTimeField(null=True)
    done_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["frame", "pk"]

    @property
    def who(self) -> str:
        """Who wrote it, and that they are a guest, whose name nobody knows to be theirs."""
        return f"{self.name} (guest)" if self.guest else self.name
