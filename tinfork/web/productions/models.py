from fractions import Fraction
from typing import ClassVar, Self, TypeVar

from django.conf import settings
from django.db import models
from django.urls import reverse

from tinfork.core.acting.temper import EVEN
from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.mouths.builds import FaceStyle
from tinfork.core.mouths.heads import FORMS
from tinfork.core.timebase import parse_rate

M = TypeVar("M", bound=models.Model)


class KeptManager(models.Manager[M]):
    """What was not deleted."""

    def get_queryset(self) -> "models.QuerySet[M]":
        """Without what was."""
        return super().get_queryset().filter(removed__isnull=True)


class Removable(models.Model):
    """Something that can be deleted, and brought back with all that is in it: removed says since when it is out of
    sight."""

    removed = models.DateTimeField(null=True, blank=True)

    objects: ClassVar[KeptManager[Self]] = KeptManager()
    everything: ClassVar[models.Manager[Self]] = models.Manager()

    class Meta:
        abstract = True


class Production(Removable):
    """A film or series; everything in it belongs to its people. came_with: who worked on it before it came here in a
    bundle, each a name and what they were."""

    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    people = models.ManyToManyField(settings.AUTH_USER_MODEL, through="Membership", related_name="productions")
    language = models.CharField(max_length=20, default="en")
    came_with = models.JSONField(default=list, blank=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        return reverse("production", args=[self.pk])


class Membership(models.Model):
    """That a person belongs to a production, and what they may do there. Every production has one owner."""

    class Role(models.TextChoices):
        OWNER = "owner"
        ANIMATOR = "animator"
        REVIEWER = "reviewer"

    production = models.ForeignKey(Production, models.CASCADE)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    role = models.CharField(max_length=8, choices=Role, default=Role.ANIMATOR)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["production", "person"], name="one_membership")]


_USUAL_SIZE = 1.15


class Character(Removable):
    """Someone who speaks. The look is that of the built-in face until drawings are brought in; without a language of
    their own they speak the production's. formants: how many times as high as usual the formants of their voice lie, as
    it was heard in so many seconds of their speech; None before any was read. temper: how they are, in scenes in which
    nothing of that was said (tinfork.core.acting.temper); learned: by kinds of what is done on words, how often people
    kept it and how often they threw it away or turned it down."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="characters")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    form = models.CharField(max_length=8, choices=[(form, form) for form in FORMS], default=FORMS[0])
    skin = models.CharField(max_length=7, default=FaceStyle.skin)
    trim = models.CharField(max_length=7, default=FaceStyle.trim)
    lip = models.CharField(max_length=7, default=FaceStyle.lip)
    language = models.CharField(max_length=20, blank=True)
    place = models.PositiveIntegerField(default=0)
    formants = models.FloatField(null=True)
    formants_seconds = models.FloatField(default=0)
    temper = models.CharField(max_length=12, default=EVEN)
    learned = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["place", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["production", "name"], condition=models.Q(removed=None), name="one_character_of_a_name"
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def look(self) -> FaceStyle:
        """The built-in face's form and colours."""
        return FaceStyle(self.form, self.skin, self.trim, self.lip)

    @property
    def voice(self) -> str:
        """How large somebody's voice makes them, as it was heard; nothing for the usual size."""
        if self.formants is None or 1 / _USUAL_SIZE < self.formants < _USUAL_SIZE:
            return ""
        return "small voice" if self.formants > 1 else "large voice"


class Scene(Removable):
    """One shot's dialogue, at its own frame rate. rate is text that parse_rate reads, such as "23.976"."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="scenes")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    rate = models.CharField(max_length=20)
    start_frame = models.PositiveIntegerField(default=1)
    made = models.DateTimeField(auto_now_add=True)
    place = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["place", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["production", "name"], condition=models.Q(removed=None), name="one_scene_of_a_name"
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def fps(self) -> Fraction:
        """Exact frames per second."""
        return parse_rate(self.rate)
