from collections.abc import Iterable
from typing import Any

from django.db import models
from msgspec import Struct

from tinfork.core.acting.blinks import USUAL_RATE
from tinfork.core.acting.lanes import Amounts, Lane
from tinfork.core.acting.parts import Pose
from tinfork.core.acting.poses import KeptPose
from tinfork.core.acting.proposals import Wish
from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.plain import plain, restore
from tinfork.web.edits.models import Document
from tinfork.web.productions.models import Character, Production, Scene

LANE = "lane "


class PhraseNotes(Struct, frozen=True):
    """What a person says of a phrase. note: what the character means and does; moments: key moments, each a frame and
    the number of the sound it counts in; amount: how much of its gestures is seen; locked: whether it is finished."""

    note: str = ""
    moments: tuple[tuple[int, int], ...] = ()
    amount: float = 1.0
    locked: bool = False


class Acting(Document):
    """What one character does in a scene beside speaking: a lane for each part of their face, each kept in a row of its
    own, so that no edit of one touches another. rate, seed, eyes_first: see tinfork.core.acting.proposals; amount: how
    much of all gestures is seen; phrases: by the numbers of script lines what is said of them (PhraseNotes)."""

    EDITABLE = ("rate", "seed", "eyes_first", "amount", "phrases")
    BELONGS_TO = ("scene", "character")

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="actings")
    character = models.ForeignKey(Character, models.CASCADE, related_name="actings")
    rate = models.FloatField(default=USUAL_RATE)
    seed = models.PositiveIntegerField(default=1)
    eyes_first = models.SmallIntegerField(default=3)
    amount = models.FloatField(default=1.0)
    phrases = models.JSONField(default=dict)

    class Meta:
        ordering = ["character_id"]
        constraints = [models.UniqueConstraint(fields=["scene", "character"], name="one_acting_of_a_character")]

    @property
    def area(self) -> str:
        """What the edit log calls it."""
        return f"acting {self.pk}"

    @classmethod
    def of_area(cls, scene: Scene, area: str) -> "Acting | None":
        """The scene's acting that the edit log calls so."""
        own = cls.objects.filter(scene=scene).select_related("character")
        return own.filter(pk=int(area.split()[1])).first() if area.startswith("acting ") else None

    def decided(self, names: Iterable[str]) -> dict[str, Any]:
        """Every lane is a part of its own, called "lane" and its part; None where there is none."""
        names = list(names)
        lanes = [name for name in names if name.startswith(LANE)]
        own = [name.removeprefix(LANE) for name in lanes]
        bodies = dict(self.lanes.filter(part__in=own).values_list("part", "body")) if own else {}
        found = {name: bodies.get(name.removeprefix(LANE)) for name in lanes}
        return found | super().decided(name for name in names if name not in found)

    def decide(self, name: str, value: Any) -> None:
        """Set a part; a lane is kept at once."""
        if not name.startswith(LANE):
            return super().decide(name, value)
        part = name.removeprefix(LANE)
        if value is None:
            self.lanes.filter(part=part).delete()
        elif not self.lanes.filter(part=part).update(body=value):
            self.lanes.create(part=part, body=value)
        return None

    def stored_in(self, name: str) -> str:
        """Lanes are kept in rows of their own."""
        return "version" if name.startswith(LANE) else name

    def lane(self, part: str) -> Lane:
        """A part's lane; an empty one where nothing was decided or proposed."""
        body = self.lanes.filter(part=part).values_list("body", flat=True).first()
        return Lane() if body is None else restore(body, Lane)

    def all_lanes(self) -> dict[str, Lane]:
        """Every lane in which there is something, by its part."""
        own = {part: restore(body, Lane) for part, body in self.lanes.values_list("part", "body")}
        return {part: lane for part, lane in own.items() if not lane.is_empty}

    @property
    def notes(self) -> dict[int, PhraseNotes]:
        """What is said of phrases, by their lines."""
        return restore(self.phrases, dict[int, PhraseNotes])

    @property
    def amounts(self) -> Amounts:
        """How much of gestures is seen."""
        return Amounts(self.amount, {line: own.amount for line, own in self.notes.items()})

    @property
    def wish(self) -> Wish:
        """What is left to the proposals."""
        return Wish(self.rate, self.seed, self.eyes_first)


class ActedLane(models.Model):
    """One part's lane, as a core's Lane in plain JSON values."""

    acting = models.ForeignKey(Acting, models.CASCADE, related_name="lanes")
    part = models.CharField(max_length=MAX_NAME_CHARACTERS)
    body = models.JSONField()

    class Meta:
        ordering = ["acting", "part"]
        constraints = [models.UniqueConstraint(fields=["acting", "part"], name="one_lane_of_a_part")]


class SavedPose(models.Model):
    """A pose under a name, for every face of a production that has the parts; parts: a core's KeptPose, plain."""

    production = models.ForeignKey(Production, models.CASCADE, related_name="poses")
    name = models.CharField(max_length=MAX_NAME_CHARACTERS)
    parts = models.JSONField()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["production", "name"], name="one_pose_of_a_name")]

    def __str__(self) -> str:
        return self.name

    @property
    def value(self) -> KeptPose:
        """The pose as the core's value."""
        return KeptPose(restore(self.parts, dict[str, Pose]))

    @value.setter
    def value(self, pose: KeptPose) -> None:
        self.parts = plain(pose.parts)


def acting_of(scene: Scene, character: Character) -> Acting:
    """A character's acting in a scene, made if need be."""
    found = Acting.objects.get_or_create(scene=scene, character=character)[0]
    found.scene, found.character = scene, character
    return found
