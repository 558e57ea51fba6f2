"""What a person keeps for themselves, in whatever production they work."""

from django.conf import settings
from django.db import models


class Preferences(models.Model):
    """How a person likes to work. keys: by the name of a view the keys of their own, each by the key it usually has, as
    the window of keys writes both."""

    person = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE, related_name="preferences")
    keys = models.JSONField(default=dict)
    stays = models.BooleanField(default=False)
    """What was set by hand stays on its frames when its word is moved."""

    def __str__(self) -> str:
        return f"Preferences of {self.person}"
