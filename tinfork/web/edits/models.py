from typing import Any, ClassVar

from django.conf import settings
from django.db import models

from tinfork.web.productions.models import Scene


class Document(models.Model):
    """Something people edit, with a version that grows with every change. CHOICES: the fields a person decides, which
    undo brings back; everything else follows from them."""

    CHOICES: ClassVar[tuple[str, ...]] = ()
    scene: Scene
    version = models.PositiveIntegerField(default=0)

    class Meta:
        abstract = True

    @property
    def area(self) -> str:
        """What the edit log calls this document; undo goes back within one area of a scene."""
        raise NotImplementedError

    def choices(self) -> dict[str, Any]:
        """What a person decided, as plain values."""
        return {name: getattr(self, name) for name in self.CHOICES}

    def settle(self, before: dict[str, Any]) -> None:
        """Set what follows from the choices, here and elsewhere, after they changed from what they were before."""

    @property
    def edits(self) -> "models.QuerySet[Edit]":
        """The edit log of this document."""
        return Edit.objects.filter(scene=self.scene, area=self.area)

    @property
    def can_undo(self) -> bool:
        """Whether there is something to take back."""
        return self.edits.filter(undone=False, superseded=False).exists()

    @property
    def can_redo(self) -> bool:
        """Whether there is something to do again."""
        return self.edits.filter(undone=True, superseded=False).exists()


class Edit(models.Model):
    """The edit log: one action on one version of one document, with what undoes it: the choices that it changed, before
    and after. run: the number of a piece of long work all of whose changes are one action."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="edits")
    area = models.CharField(max_length=40)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    verb = models.CharField(max_length=40)
    before = models.JSONField()
    after = models.JSONField()
    version = models.PositiveIntegerField()
    run = models.PositiveBigIntegerField(null=True, blank=True)
    undone = models.BooleanField(default=False)
    superseded = models.BooleanField(default=False)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["scene", "area"])]
