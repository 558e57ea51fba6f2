from django.conf import settings
from django.core.signing import Signer
from django.db import models
from django.urls import reverse
from django.utils import timezone

from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.web.productions.models import Membership, Production

SIGNER = Signer(salt="invitation")


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
