from django.conf import settings
from django.db import models

from tinfork.web.productions.models import Production, Scene

MAX_TEXT_CHARACTERS = 200


class Notice(models.Model):
    """Something that concerns somebody: a note on their shot, an answer, a verdict, work that has ended. text: it in
    words; address: where it is; seen: since when they know of it."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="notices")
    production = models.ForeignKey(Production, models.CASCADE, related_name="notices")
    scene = models.ForeignKey(Scene, models.CASCADE, null=True, related_name="+")
    text = models.CharField(max_length=MAX_TEXT_CHARACTERS)
    address = models.CharField(max_length=200)
    made = models.DateTimeField(auto_now_add=True)
    seen = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["person", "seen"], name="notices_person_seen_idx")]
