from django.conf import settings
from django.db import models

from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.web.productions.models import Production, Scene

MAX_NUMBER_CHARACTERS = 12
MAX_QUERY_CHARACTERS = 500


class Sequence(models.Model):
    """A part of the film: its shots follow one another. place: among the others."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="sequences")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    place = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["place", "pk"]
        constraints = [models.UniqueConstraint(fields=["production", "name"], name="one_sequence_of_a_name")]

    def __str__(self) -> str:
        return self.name


class Shot(models.Model):
    """A scene as the film counts it, with what a person sets of it; a scene without one has none of it. number: as the
    film numbers it, such as "0120"; who: whose work it is; archived: since when it is put away."""

    class Priority(models.IntegerChoices):
        LOW = -1, "low"
        USUAL = 0, "usual"
        HIGH = 1, "high"

    scene = models.OneToOneField(Scene, models.CASCADE, related_name="shot")
    number = models.CharField(max_length=MAX_NUMBER_CHARACTERS, blank=True)
    sequence = models.ForeignKey(Sequence, models.SET_NULL, null=True, blank=True, related_name="shots")
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, blank=True, related_name="shots")
    due = models.DateField(null=True, blank=True)
    priority = models.SmallIntegerField(choices=Priority, default=Priority.USUAL)
    archived = models.DateTimeField(null=True, blank=True)


class BoardStep(models.Model):
    """What one action changed of shots, to be taken back by who did it. text: the action in words; changes: for each
    shot [number of the scene, field, before, after], as plain values."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="board_steps")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    text = models.CharField(max_length=200)
    changes = models.JSONField()
    undone = models.BooleanField(default=False)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]


class BoardView(models.Model):
    """What somebody filters and sorts a board by, kept under a name. query: as it stands in the page's address."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="board_views")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    query = models.CharField(max_length=MAX_QUERY_CHARACTERS)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["production", "person", "name"], name="one_view_of_a_name")]
