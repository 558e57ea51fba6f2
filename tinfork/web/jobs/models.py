from django.conf import settings
from django.db import models

from tinfork.web.files import store
from tinfork.web.productions.models import Scene


class Job(models.Model):
    """A piece of long work as people see it: what it is, how far it has come, how it ended. scene: None where it is of
    no scene, and then only who asked for it sees it."""

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="jobs", null=True, blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    kind = models.CharField(max_length=20)
    subject = models.PositiveBigIntegerField()
    asked = models.JSONField(default=dict)
    state = models.CharField(max_length=9, choices=State, default=State.WAITING)
    progress = models.FloatField(default=0)
    attempts = models.PositiveSmallIntegerField(default=0)
    message = models.TextField(blank=True)
    result = models.FileField(max_length=200, blank=True)
    result_name = models.CharField(max_length=200, blank=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["kind", "subject"])]

    @property
    def ended(self) -> bool:
        """Whether nothing more will happen."""
        return self.state in (self.State.DONE, self.State.FAILED, self.State.CANCELLED)

    @property
    def taken_up_again(self) -> bool:
        """Whether the worker that began it was lost, and another does it."""
        return self.attempts > 1

    @property
    def file_bytes(self) -> int | None:
        """How long the file is that was made; None where there is none, or it is gone."""
        return self.result.size if store.is_there(self.result.name or "") else None

    @property
    def percent(self) -> int:
        """Progress in whole percent."""
        return round(self.progress * 100)

    @property
    def label(self) -> str:
        """What is being made, in words."""
        return {
            "read": "Reading",
            "pictures": "Pictures",
            "video": "Video",
            "reel": "Reference picture",
            "handover": "Files",
            "bundle": "Bundle",
            "bring-in": "Bringing a bundle in",
        }[self.kind]
