"""What a person keeps for themselves, in whatever production they work."""

from django.conf import settings
from django.contrib.sessions.models import Session
from django.db import models

# Marks of browsers (the first that is found counts: each claims to be those after it) and of systems.
_PROGRAMS = (("Firefox", "Firefox"), ("Edg/", "Edge"), ("Chrom", "Chromium"), ("Safari", "Safari"))
_SYSTEMS = (
    ("Android", "Android"),
    ("iPhone", "a telephone"),
    ("Windows", "Windows"),
    ("Mac OS", "macOS"),
    ("Linux", "Linux"),
)


class Preferences(models.Model):
    """How a person likes to work. keys: by the name of a view the keys of their own, each by the key it usually has, as
    the window of keys writes both."""

    person = models.OneToOneField(settings.AUTH_USER_MODEL, models.CASCADE, related_name="preferences")
    keys = models.JSONField(default=dict)
    stays = models.BooleanField(default=False)
    """What was set by hand stays on its frames when its word is moved."""
    theme = models.CharField(max_length=5, blank=True, choices=[(name, name) for name in ("light", "dark")])

    def __str__(self) -> str:
        return f"Preferences of {self.person}"


class Visit(models.Model):
    """That a person is signed in somewhere. browser: what the browser says it is."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="visits")
    session = models.OneToOneField(Session, models.CASCADE)
    browser = models.CharField(max_length=300, blank=True)
    begun = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-begun"]

    @property
    def where(self) -> str:
        """The browser and the system in words, as far as the browser tells."""
        program = next((name for mark, name in _PROGRAMS if mark in self.browser), "A browser")
        system = next((name for mark, name in _SYSTEMS if mark in self.browser), "")
        return f"{program} on {system}" if system else program
