from django.conf import settings
from django.db import models

from tinfork.web.productions.models import Scene


class Exposed(models.Model):
    """A frame at the camera: that it was shot, or is to be shot again. key: made by the page that says so, so that
    what is sent twice is kept once; frame: counted from 0; when: by the page's clock, as it may be sent later.
    written_rate: at which frame rate it was logged, where that is not the scene's any more, and written_frame its frame
    then."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="exposed")
    key = models.UUIDField(unique=True)
    frame = models.PositiveIntegerField()
    written_rate = models.CharField(max_length=20, blank=True)
    written_frame = models.PositiveIntegerField(null=True)
    again = models.BooleanField(default=False)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    when = models.DateTimeField()
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["when", "pk"]
        indexes = [models.Index(fields=["scene", "frame"])]


class Pairing(models.Model):
    """A telephone that steps somebody's prompter. code: what is typed on it, gone once it was; phone: the digest of
    what it shows from then on; presses: the last of them as [number, press]; shown: what the prompter shows now."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="pairings")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    code = models.CharField(max_length=9, blank=True, db_index=True)
    phone = models.CharField(max_length=64, blank=True)
    presses = models.JSONField(default=list)
    shown = models.JSONField(default=dict)
    made = models.DateTimeField(auto_now_add=True)
    used = models.DateTimeField(auto_now=True)
