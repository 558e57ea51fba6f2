from django.db import models

from tinfork.core.script import lines
from tinfork.web.edits.models import Document
from tinfork.web.productions.models import Scene


class Script(Document):
    """A scene's lines, the core's own value as a document."""

    EDITABLE = ("body",)
    area = "script"

    scene = models.OneToOneField(Scene, models.CASCADE, related_name="script")
    body = models.JSONField()

    @property
    def value(self) -> lines.Script:
        """The script as the core's value."""
        return self.restored("body", lines.Script)


class Difference(models.Model):
    """Where a scene's script and its recording part, as it was heard when both were laid side by side. kind, line,
    first, last and heard: as the core's Difference has them; written: the words it is about, as they stood then; start
    and end: in seconds of the sound of this source_id; kept: somebody looked at it, and what is written stays; takes:
    where a line is said that is said again, [start, end, how sure, how clean] each, as core.speech.takes has them."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="differences")
    kind = models.CharField(max_length=12)
    line = models.PositiveIntegerField()
    first = models.PositiveIntegerField()
    last = models.PositiveIntegerField()
    written = models.TextField(blank=True)
    heard = models.TextField(blank=True)
    start = models.FloatField()
    end = models.FloatField()
    source_id = models.PositiveIntegerField()
    kept = models.BooleanField(default=False)
    takes = models.JSONField(default=list)

    class Meta:
        ordering = ["pk"]
