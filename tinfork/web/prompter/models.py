from django.conf import settings
from django.db import models

from tinfork.web.productions.models import Scene


class Exposed(models.Model):
    """A frame at the camera: that it was shot, or is to be shot again. key: made by the page that says so, so that
    what is sent twice is kept once; frame: counted from 0; when: by the page's clock, as it may be sent later."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="exposed")
    key = models.UUIDField(unique=True)
    frame = models.PositiveIntegerField()
    again = models.BooleanField(default=False)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    when = models.DateTimeField()
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["when", "pk"]
        indexes = [models.Index(fields=["scene", "frame"])]
