import math
from datetime import datetime, timedelta

from django.conf import settings
from django.db import models
from django.utils import timezone

from tinfork.web.files import store
from tinfork.web.productions.models import Scene

_SHARE_TO_TELL, _SECONDS_TO_TELL = 0.04, 4.0


class Job(models.Model):
    """A piece of long work as people see it: what it is, how far it has come, how it ended.

    scene: None where it is of no scene, and then only who asked for it sees it. of: the versions of what it is made
    from. attempts: how often it was begun: the number of an attempt is its token, and what an older one reports or
    writes is refused (tinfork.web.jobs.running). losses: how often what did it was lost, and the database was not.
    begun, ended_at: when the last attempt began, and when it ended.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    class Queue(models.TextChoices):
        WAITED_FOR = "waited-for"
        LATER = "fetched-later"

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="jobs", null=True, blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    kind = models.CharField(max_length=20)
    subject = models.PositiveBigIntegerField()
    asked = models.JSONField(default=dict)
    of = models.JSONField(default=dict)
    state = models.CharField(max_length=9, choices=State, default=State.WAITING)
    progress = models.FloatField(default=0)
    queue = models.CharField(max_length=20, choices=Queue, default=Queue.LATER)
    priority = models.SmallIntegerField(default=0)
    attempts = models.PositiveIntegerField(default=0)
    losses = models.PositiveSmallIntegerField(default=0)
    begun = models.DateTimeField(null=True, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    message = models.TextField(blank=True)
    result = models.FileField(max_length=200, blank=True)
    result_name = models.CharField(max_length=200, blank=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
        indexes = [
            models.Index(fields=["kind", "subject"]),
            models.Index(fields=["queue", "state"], name="jobs_job_queue_state_idx"),
        ]

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
    def kept_until(self) -> datetime | None:
        """When what was made is removed; None where it is not."""
        days = settings.KEEP_DAYS
        return (
            self.ended_at + timedelta(days=days) if days and self.ended_at and self.state == self.State.DONE else None
        )

    @property
    def minutes_left(self) -> int | None:
        """How many minutes it will take still, as far as can be told: from what is done, and how long that took."""
        if self.state != self.State.RUNNING or self.begun is None or self.progress < _SHARE_TO_TELL:
            return None
        taken = (timezone.now() - self.begun).total_seconds()
        return math.ceil(taken * (1 - self.progress) / self.progress / 60) if taken > _SECONDS_TO_TELL else None

    @property
    def label(self) -> str:
        """What is being made, in words."""
        return {
            "read": "Reading",
            "follow": "Comparing sounds",
            "propose": "Proposals",
            "compare": "Comparing script and recording",
            "lay-out": "Finding what is said where",
            "pictures": "Pictures",
            "video": "Video",
            "reel": "Reference picture",
            "handover": "Files",
            "bundle": "Bundle",
            "bring-in": "Bringing a bundle in",
        }[self.kind]
