import copy
from collections.abc import Iterable
from typing import Any

from django.conf import settings
from django.db import models
from django.urls import reverse

from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.web.charts.pictures import Pictured
from tinfork.web.edits.history import versions_in
from tinfork.web.files import store
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Production, Scene


class Handover(models.Model):
    """Files that were asked for at one time. job: what makes them; wish: what is made and how
    (tinfork.web.handover.wishes); of: for each scene by its number the versions its documents had, as
    tinfork.web.edits.history.versions gives them."""

    job = models.OneToOneField(Job, models.CASCADE, related_name="handover")
    wish = models.JSONField()
    of = models.JSONField(default=dict)

    class Meta:
        ordering = ["-pk"]

    is_older: bool = False
    """Whether something was changed since in what it was made of, where compare_versions found it."""


def compare_versions(handovers: Iterable[Handover]) -> None:
    """Find out which hand-overs are older than what they were made of; each scene is asked once."""
    known = list(handovers)
    there = Scene.objects.filter(pk__in={int(number) for one in known for number in one.of})
    now = {str(number): own for number, own in versions_in(there.values_list("pk", flat=True)).items()}
    for one in known:
        one.is_older = any(
            now.get(number, {}).get(area) != version for number, of in one.of.items() for area, version in of.items()
        )


class HandoverFile(models.Model):
    """One file that was made."""

    handover = models.ForeignKey(Handover, models.CASCADE, related_name="files")
    name = models.CharField(max_length=200)
    file = models.FileField(max_length=200)
    size = models.PositiveBigIntegerField()
    sha256 = models.CharField(max_length=64)

    class Meta:
        ordering = ["pk"]

    @property
    def is_there(self) -> bool:
        """Whether it is still on the disk."""
        return store.is_there(self.file.name or "")


class Version(models.Model):
    """A shot as it was when it was shown for review, kept exactly. name: who showed it, as they were called; number:
    from 1 on, in its scene; of: the versions of its documents then, with what its characters looked like; frames: how
    many there were; rate, start_frame: the scene's then; who: the names of its characters, by their numbers; kept:
    tinfork.web.handover.keeping.Kept as JSON, packed."""

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="shown_versions")
    number = models.PositiveIntegerField()
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS, blank=True)
    of = models.JSONField()
    frames = models.PositiveIntegerField()
    rate = models.CharField(max_length=20)
    start_frame = models.PositiveIntegerField()
    who = models.JSONField()
    kept = models.BinaryField()
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["scene", "number"], name="one_version_of_a_number")]

    def __str__(self) -> str:
        return f"version {self.number}"

    def scene_then(self, scene: Scene) -> Scene:
        """Return the scene with the rate and first frame it had then; not to be saved."""
        then = copy.copy(scene)
        then.rate, then.start_frame = self.rate, self.start_frame
        return then


class Backdrop(Pictured):
    """A picture that can lie behind everybody in what is handed over of a scene."""

    scene = models.OneToOneField(Scene, models.CASCADE, related_name="backdrop")

    @property
    def href(self) -> str:
        """The address of its picture."""
        return reverse("backdrop-picture", args=[self.scene_id, self.picture_key])


def backdrop_of(scene: Scene) -> Backdrop | None:
    """Return the picture behind everybody, where there is one."""
    return Backdrop.objects.filter(scene=scene).first()


class Preset(models.Model):
    """A way to hand over that a production keeps: a wish without its scenes, characters and range."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="presets")
    name = models.CharField(max_length=60)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    wish = models.JSONField()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["production", "name"], name="one_preset_of_a_name")]

    def __str__(self) -> str:
        return self.name

    def document(self) -> dict[str, Any]:
        """Return it as the page takes it."""
        return {"id": self.pk, "name": self.name, "wish": self.wish}
