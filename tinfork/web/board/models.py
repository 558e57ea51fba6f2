from django.db import models

from tinfork.web.productions.models import Scene


class ShotFacts(models.Model):
    """What a board says of a scene, found out once for what the scene was. of: the versions of its documents then;
    found: tinfork.web.board.facts.Facts as plain values; wrong: how many of its tracks have open checks, None where
    that was not looked at yet."""

    scene = models.OneToOneField(Scene, models.CASCADE, related_name="facts")
    of = models.JSONField()
    found = models.JSONField()
    wrong = models.PositiveIntegerField(null=True)
