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
