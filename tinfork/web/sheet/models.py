from django.db import models

from tinfork.web.edits.models import Document
from tinfork.web.productions.models import Scene


class SheetNotes(Document):
    """What people wrote beside the frames of a scene: notes, by frames counted from 0."""

    EDITABLE = ("notes",)
    area = "sheet"

    scene = models.OneToOneField(Scene, models.CASCADE, related_name="sheet_notes")
    notes = models.JSONField(default=dict)

    @property
    def by_frame(self) -> dict[int, str]:
        """The notes by their frames as numbers."""
        return {int(frame): text for frame, text in self.notes.items()}
