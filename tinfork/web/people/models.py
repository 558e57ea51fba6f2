from django.conf import settings
from django.core.signing import Signer
from django.db import models
from django.urls import reverse
from django.utils import timezone

from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.web.productions.models import Membership, Production, Scene
from tinfork.web.shots.models import Sequence

SIGNER = Signer(salt="invitation")
WATCHING = Signer(salt="link to watch")


class Invitation(models.Model):
    """A link by which somebody joins a production, once. name: for whom it is meant, as its maker calls them; by: who
    made it; used_by: who joined by it."""

    Role = Membership.Role

    production = models.ForeignKey(Production, models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=8, choices=Role)
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField()
    withdrawn = models.BooleanField(default=False)
    used_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    used = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]

    def get_absolute_url(self) -> str:
        return reverse("join", args=[SIGNER.sign(str(self.pk))])

    @property
    def over(self) -> bool:
        """Whether its time is over."""
        return self.until <= timezone.now()


class WatchLink(models.Model):
    """A link by which whoever has it watches a shot, or the shots of a sequence, without an account. name: for whom it
    is meant, as its maker calls them; may_comment: whether they write notes; opened: how often its page was."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="watch_links")
    scene = models.ForeignKey(Scene, models.CASCADE, null=True, related_name="+")
    sequence = models.ForeignKey(Sequence, models.CASCADE, null=True, related_name="+")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    may_comment = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField()
    withdrawn = models.BooleanField(default=False)
    opened = models.PositiveIntegerField(default=0)
    last_opened = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(scene=None) ^ models.Q(sequence=None), name="a_link_is_to_a_shot_or_a_sequence"
            )
        ]

    def __str__(self) -> str:
        return str(self.scene or self.sequence)

    @property
    def token(self) -> str:
        """What of its address nobody can guess."""
        return WATCHING.sign(str(self.pk))

    @property
    def over(self) -> bool:
        """Whether its time is over."""
        return self.until <= timezone.now()

    @property
    def scenes(self) -> models.QuerySet[Scene]:
        """What is watched by it now, in its order."""
        own = self.production.scenes.filter(shot__archived=None)
        return own.filter(shot__sequence=self.sequence_id) if self.sequence_id else own.filter(pk=self.scene_id or 0)
