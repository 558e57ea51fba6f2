from typing import Any

from django.conf import settings
from django.db import models
from django.urls import reverse

from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.mouths.chart import Chart, Drawing
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.register import Registration, markup
from tinfork.core.mouths.shapes import ARTICULATORS, Articulation
from tinfork.web.productions.models import Character, Production, Removable

from .pictures import MovingPictured


class MouthChart(Removable):
    """Mouths somebody drew, for any character: a production's, or in the library of the person who owns it. part: what
    its drawings show."""

    class Of(models.TextChoices):
        MOUTH = "mouth", "mouths"
        HEAD = "head", "whole heads"

    production = models.ForeignKey(Production, models.CASCADE, null=True, blank=True, related_name="charts")
    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.CASCADE, null=True, blank=True, related_name="library_charts"
    )
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    part = models.CharField(max_length=8, choices=Of, default=Of.MOUTH)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["production", "name"], condition=models.Q(removed=None), name="one_chart_of_a_name"
            ),
            models.UniqueConstraint(
                fields=["owner", "name"], condition=models.Q(removed=None), name="one_library_chart_of_a_name"
            ),
            models.CheckConstraint(
                condition=models.Q(production=None, owner__isnull=False)
                | models.Q(production__isnull=False, owner=None),
                name="a_chart_is_somewhere",
            ),
        ]

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        return reverse("chart", args=[self.pk])

    @property
    def is_heads(self) -> bool:
        """Whether its drawings are whole heads, which need no face."""
        return self.part == self.Of.HEAD

    def usable(self) -> "list[ChartDrawing]":
        """Return the drawings that mouths are planned with: the neutral ones that are not kept for hands; where there
        are none, any."""
        known = list(self.drawings.all())
        return [d for d in known if d.mood == NEUTRAL and not d.special] or known

    def planning(self) -> Chart | None:
        """Return those drawings as the core's value; None where there are none."""
        usable = self.usable()
        return Chart(tuple(Drawing(d.called, d.articulation) for d in usable)) if usable else None


class ChartDrawing(Removable, MovingPictured):
    """One mouth of a chart: its picture as a PNG, where that lies on the anchor (tinfork.core.mouths.register), and its
    place in articulator space. by_hand: a person set the place; special: it is only used by hand; formerly: what it was
    called in tracks before, so that pins find it; key: a letter or digit that picks it on the desk, "" for none; meant:
    it is on purpose as it is beside the others, and is not listed among what would jump; drawn: its picture as it came,
    where its lines were made like those of the others; outline: tinfork.core.mouths.drift.Outline of its picture;
    vector: the SVG we drew it as, where we did; also: the names of further pictures of it, of the same canvas, by which
    it moves; each, once: how (tinfork.core.mouths.cycles). LARGE: what no track needs of it."""

    LARGE = ("outline", "vector")

    chart = models.ForeignKey(MouthChart, models.CASCADE, related_name="drawings")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    mood = models.CharField(max_length=40, default=NEUTRAL)
    number = models.PositiveIntegerField(default=0)
    place = models.JSONField()
    by_hand = models.BooleanField(default=False)
    special = models.BooleanField(default=False)
    key = models.CharField(max_length=1, blank=True)
    meant = models.BooleanField(default=False)
    x = models.FloatField()
    y = models.FloatField()
    scale = models.FloatField()
    turn = models.FloatField(default=0.0)
    formerly = models.JSONField(default=list)
    drawn = models.CharField(max_length=200, blank=True)
    outline = models.JSONField(default=dict)
    vector = models.TextField(blank=True)

    class Meta:
        ordering = ["number", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["chart", "mood", "name"], condition=models.Q(removed=None), name="one_drawing_of_a_name"
            )
        ]

    def __str__(self) -> str:
        return self.called

    @property
    def called(self) -> str:
        """Its name in tracks, which is its own among all moods of the chart."""
        return self.name if self.mood == NEUTRAL else f"{self.mood} · {self.name}"

    @property
    def articulation(self) -> Articulation:
        """Its place as the core's value."""
        return tuple(self.place)

    @property
    def dials(self) -> list[dict[str, Any]]:
        """Its place as the page shows it."""
        names = zip(ARTICULATORS, self.place, strict=True)
        return [{"name": name, "label": name.replace("_", " "), "value": value} for name, value in names]

    @property
    def registration(self) -> Registration:
        """Where its picture lies on the anchor."""
        return Registration(self.x, self.y, self.scale, self.turn)

    def markup(self, href: str) -> str:
        """Return it on its anchor, as SVG. href: where its picture is, or one of those it has beside it."""
        return markup(href, self.width, self.height, self.registration)


class Worn(models.Model):
    """Which chart a character speaks with, and in which of its moods; without one they speak with the mouths of the
    built-in face."""

    character = models.OneToOneField(Character, models.CASCADE, related_name="worn")
    chart = models.ForeignKey(MouthChart, models.CASCADE, related_name="worn_by")
    mood = models.CharField(max_length=40, default=NEUTRAL)

    def __str__(self) -> str:
        return f"{self.character} with {self.chart}"


def worn_by(character: Character) -> Worn | None:
    """Return what a character speaks with, if it is not the built-in mouths and has drawings."""
    worn = Worn.objects.filter(character=character, chart__removed=None).select_related("chart").first()
    return worn if worn and worn.chart.drawings.exists() else None
