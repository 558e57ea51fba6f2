from collections.abc import Collection, Iterable
from functools import cached_property
from typing import Any

from django.db import models
from msgspec import Struct

from tinfork.core.acting.blinks import USUAL_RATE
from tinfork.core.acting.framing import FRAMINGS, MEDIUM
from tinfork.core.acting.lanes import Amounts, Lane
from tinfork.core.acting.poses import KeptPose
from tinfork.core.acting.temper import EVEN, TEMPERS, liking
from tinfork.core.acting.wish import Wish
from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.mouths.parts import Pose
from tinfork.core.plain import plain, restore
from tinfork.web.edits.fields import PackedJSONField
from tinfork.web.edits.models import Document
from tinfork.web.productions.models import Character, Production, Scene

LANE, GESTURES = "lane ", "gestures "
_KEPT = {LANE: "body", GESTURES: "gestures"}
"""What parts of acting are called that are kept in a lane's row, before the name of what they are of, and where."""

Parts = dict[str, Any]


def part_of(name: str) -> tuple[str, str] | None:
    """Return the field and the face's part that a part of acting so called is kept in; None for one that is kept
    otherwise."""
    return next(((field, name.removeprefix(kind)) for kind, field in _KEPT.items() if name.startswith(kind)), None)


def kept_lane(lane: Lane, like: Lane | None = None, body: Any = None, gestures: Any = None) -> Parts:
    """Return what a lane's row keeps of it, made plain; None where there is nothing. body, gestures: what the row of a
    lane it is made from (like) keeps: what both share is taken from there, and not made plain again."""
    like, known = like or Lane(), body or {}
    rows = {id(own): row for own, row in zip(like.gestures, gestures or (), strict=False)}
    same = {dial for dial, own in lane.keys.items() if known and own is like.keys.get(dial)}
    keys = {dial: known["keys"][dial] if dial in same else plain(own) for dial, own in lane.keys.items()}
    shows = known["shows"] if known and lane.shows is like.shows else plain(lane.shows)
    there = any(keys.values()) or shows or lane.lead or lane.alone
    return {
        "body": {"keys": keys, "shows": shows, "lead": lane.lead, "alone": lane.alone} if there else None,
        "gestures": [rows[id(own)] if id(own) in rows else plain(own) for own in lane.gestures] or None,
    }


def restored_lane(body: Any, gestures: Any) -> Lane:
    """Return the lane that a row keeps."""
    return restore({**(body or {}), "gestures": gestures or []}, Lane)


def _stored(fields: Collection[str]) -> set[str]:
    """The fields of a lane's row in which what is asked for of it is kept."""
    return {"body" if field == "shows" else field for field in fields or ("body", "gestures")}


class PhraseNotes(Struct, frozen=True):
    """What a person says of a phrase. note: what the character means and does; moments: key moments, each a frame and
    the number of the sound it counts in; amount: how much of its gestures is seen; locked: whether it is finished;
    again: how often something else was asked for than what was proposed."""

    note: str = ""
    moments: tuple[tuple[int, int], ...] = ()
    amount: float = 1.0
    locked: bool = False
    again: int = 0


class Acting(Document):
    """What one character does in a scene beside speaking: a lane for each part of their face, each kept in a row of its
    own, so that no edit of one touches another. rate, seed, eyes_first: see tinfork.core.acting.proposals; temper: how
    they are in this scene, one of core.acting.temper's; framing: how large they are seen in it, one of
    core.acting.framing's; amount: how much of all gestures is seen; phrases: by the
    numbers of script lines what is said of them (PhraseNotes)."""

    EDITABLE = ("rate", "seed", "eyes_first", "temper", "framing", "amount", "phrases")
    LATER = ("temper", "framing")
    BELONGS_TO = ("scene", "character")
    OWNED = ("lanes",)

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="actings")
    character = models.ForeignKey(Character, models.CASCADE, related_name="actings")
    rate = models.FloatField(default=USUAL_RATE)
    seed = models.PositiveIntegerField(default=1)
    eyes_first = models.SmallIntegerField(default=3)
    temper = models.CharField(max_length=12, default=EVEN)
    framing = models.CharField(max_length=12, default=MEDIUM)
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
        """Return the scene's acting that the edit log calls so."""
        own = cls.objects.filter(scene=scene).select_related("character")
        return own.filter(pk=int(area.split()[1])).first() if area.startswith("acting ") else None

    @cached_property
    def _rows(self) -> dict[tuple[str, str], Any]:
        """What rows keep, as far as it was loaded, by field and part."""
        return {}

    def row_field(self, field: str, part: str) -> Any:
        """Return what a lane's row keeps in a field; None where there is nothing. Loaded once."""
        if (field, part) not in self._rows:
            self._rows[field, part] = self.lanes.filter(part=part).values_list(field, flat=True).first()
        return self._rows[field, part]

    def read_again(self) -> None:
        """Take what is kept now."""
        self._rows.clear()
        super().read_again()

    def decided(self, names: Iterable[str]) -> dict[str, Any]:
        """Return every lane is two parts, called "lane" and "gestures" and its part; None where there is none."""
        names = list(names)
        found = {name: self.row_field(*where) for name in names if (where := part_of(name))}
        return found | super().decided(name for name in names if name not in found)

    def decide(self, name: str, value: Any) -> None:
        """Set a part; what is of a lane is kept at once."""
        where = part_of(name)
        if where is None:
            return super().decide(name, value)
        field, part = where
        if not self.lanes.filter(part=part).update(**{field: value}):
            self.lanes.create(part=part, **{field: value})
        self._rows[where] = value
        return None

    def stored_in(self, name: str) -> str:
        """Lanes are kept in rows of their own."""
        return "version" if part_of(name) else name

    def load(self, parts: Iterable[str], *fields: str) -> None:
        """Load what rows of some parts keep in one go, as lane asks for it."""
        wanted = [field for field in ("body", "gestures") if field in _stored(fields)]
        self._rows |= {(field, part): None for part in parts for field in wanted}
        for part, *kept in self.lanes.filter(part__in=parts).values_list("part", *wanted):
            self._rows |= {(field, part): value for field, value in zip(wanted, kept, strict=True)}

    def lane(self, part: str, *fields: str) -> Lane:
        """Return a part's lane; an empty one where nothing was decided or proposed. fields: what is asked for of it,
        its "gestures", its "body", or of the body all but the keys ("shows"); everything where none is named."""
        stored = _stored(fields)
        body, gestures = (self.row_field(field, part) if field in stored else None for field in ("body", "gestures"))
        if body and fields and "body" not in fields:
            body = body | {"keys": {}}
        return restored_lane(body, gestures)

    def all_lanes(self) -> dict[str, Lane]:
        """Return every lane in which there is something, by its part."""
        for part, body, gestures in self.lanes.values_list("part", "body", "gestures"):
            self._rows |= {("body", part): body, ("gestures", part): gestures}
        own = {part: self.lane(part) for part in dict.fromkeys(part for _, part in self._rows)}
        return {part: lane for part, lane in sorted(own.items()) if not lane.is_empty or lane.lead or lane.alone}

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
        again = {line: own.again for line, own in self.notes.items() if own.again}
        return Wish(
            self.rate,
            self.seed,
            self.eyes_first,
            temper=TEMPERS.get(self.temper, TEMPERS[EVEN]),
            framing=FRAMINGS.get(self.framing, FRAMINGS[MEDIUM]),
            again=again,
            liked=liking(self.character.learned),
        )


class ActedLane(models.Model):
    """One part's lane, as a core's Lane in plain JSON values: what was set, and apart from it its gestures, so that who
    changes one need not load and keep the other."""

    acting = models.ForeignKey(Acting, models.CASCADE, related_name="lanes")
    part = models.CharField(max_length=MAX_NAME_CHARACTERS)
    body = PackedJSONField(null=True)
    gestures = PackedJSONField(null=True)

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
    """Return a character's acting in a scene, made if need be."""
    found = Acting.objects.get_or_create(scene=scene, character=character, defaults={"temper": character.temper})[0]
    found.scene, found.character = scene, character
    return found
