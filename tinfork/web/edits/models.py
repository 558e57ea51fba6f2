from collections.abc import Iterable
from typing import Any, ClassVar, Self, TypeVar

from django.conf import settings
from django.db import connection, models

from tinfork.core.plain import restore
from tinfork.web.productions.models import Scene

T = TypeVar("T")


class Document(models.Model):
    """Something people edit, with a version that grows with every change. What a person decided of it falls into parts
    by name, which undo brings back one by one: the fields in EDITABLE, unless a kind has others; COUNTED: those that
    only count how often something was done, and go with no bundle; LATER: those that bundles from before they were
    there lack. DERIVED: what follows from them (see following).
    BELONGS_TO: what it is the document of."""

    EDITABLE: ClassVar[tuple[str, ...]] = ()
    COUNTED: ClassVar[tuple[str, ...]] = ()
    LATER: ClassVar[tuple[str, ...]] = ()
    DERIVED: ClassVar[tuple[str, ...]] = ()
    BELONGS_TO: ClassVar[tuple[str, ...]] = ("scene",)
    OWNED: ClassVar[tuple[str, ...]] = ()
    """The relations to rows in which parts of it are kept."""

    scene: Scene
    scene_id: int
    version = models.PositiveIntegerField(default=0)

    class Meta:
        abstract = True

    @property
    def area(self) -> str:
        """What the edit log calls this document among those of its scene."""
        raise NotImplementedError

    @classmethod
    def of_area(cls, scene: Scene, area: str) -> Self | None:
        """Return the document of this kind that the edit log of a scene calls so."""
        return next((one for one in cls.of_scene(scene) if one.area == area), None)

    @classmethod
    def of_scene(cls, scene: Scene) -> "models.QuerySet[Self]":
        """Return the documents of this kind in a scene."""
        return cls._default_manager.filter(scene=scene)

    @classmethod
    def of_scenes(cls, scenes: Iterable[int]) -> "models.QuerySet[Self]":
        """Return the documents of this kind in scenes of these numbers."""
        return cls._default_manager.filter(scene__in=scenes)

    def moved_since(self, version: int) -> frozenset[int]:
        """Return the sounds that were moved under what was decided since a version, by the number of their placing."""
        return frozenset()

    asked_on: int | None = None
    """The version an edit was asked for on that is being made on a later one; None else."""

    merged: bool = False
    """Whether the last change made with this object came after others' that who asked for it did not know."""

    remarks: tuple[str, ...] = ()
    """What is to be said of the change that was made with this object."""

    @property
    def derived_before(self) -> dict[str, bytes]:
        """What followed from documents before the last change that was made with this object, by their areas: what is
        derived from what was there too, and is brought back as it was when the change is undone. Followers fill it."""
        found: dict[str, bytes] = self.__dict__.setdefault("_derived_before", {})
        return found

    @property
    def to_bring_back(self) -> dict[str, bytes]:
        """While a change is undone or done again, what derived_before said when it went the other way."""
        found: dict[str, bytes] = self.__dict__.setdefault("_to_bring_back", {})
        return found

    def decided(self, names: Iterable[str]) -> dict[str, Any]:
        """Return what a person decided of some parts, as plain values; None for a part that is not there."""
        return {name: getattr(self, name) for name in names}

    def decide(self, name: str, value: Any) -> None:
        """Set a part; None takes away one that need not be there. Does not save."""
        setattr(self, name, value)

    def stored_in(self, name: str) -> str:
        """Return the field in which a part is kept."""
        return name

    def restored(self, name: str, kind: type[T]) -> T:
        """Return a field as the core's value; made once of what is in it."""
        known = self.__dict__.setdefault("_restored", {})
        kept = getattr(self, name)
        if name not in known or known[name][0] is not kept:
            known[name] = (kept, restore(kept, kind))
        value: T = known[name][1]
        return value

    def known_as(self, name: str, value: Any) -> None:
        """Say which of the core's values a field holds, so that it need not be made again."""
        self.__dict__.setdefault("_restored", {})[name] = (getattr(self, name), value)

    def read_again(self) -> None:
        """Take what is kept of the document now; its scene stays the object it is."""
        self.refresh_from_db(fields=[field.attname for field in self._meta.concrete_fields if not field.is_relation])

    @property
    def edits(self) -> "models.QuerySet[Edit]":
        """The edit log of this document."""
        return Edit.objects.filter(scene=self.scene, area=self.area)

    @property
    def can_undo(self) -> bool:
        """Whether something in the scene can be taken back."""
        return bool(self.steps["undo"])

    @property
    def can_redo(self) -> bool:
        """Whether something in the scene can be done again."""
        return bool(self.steps["redo"])

    @property
    def steps(self) -> dict[str, str]:
        """In words, "undo": the last action in the scene, on whichever document, and "redo": what was undone last in
        it; "" where there is none."""
        with connection.cursor() as cursor:
            cursor.execute(_STEPS, [self.scene_id, self.scene_id])
            known = dict(cursor.fetchall())
        return {"undo": known.get(False, ""), "redo": known.get(True, "")}


_STEPS = """
    (SELECT undone, verb FROM edits_edit WHERE scene_id = %s AND NOT undone AND NOT superseded
        ORDER BY step DESC, id DESC LIMIT 1)
    UNION ALL
    (SELECT undone, verb FROM edits_edit WHERE scene_id = %s AND undone AND NOT superseded ORDER BY step, id LIMIT 1)
"""
"""What EditQuerySet.of_scene gives of both at its near end, in one question: every edit asks it."""


class EditQuerySet(models.QuerySet["Edit"]):
    """The edit log."""

    def of_scene(self, scene: Scene, undone: bool) -> Self:
        """Return what can be undone, or done again, in a scene, in the order it was done."""
        return self.filter(scene=scene, undone=undone, superseded=False).order_by("step", "pk")


class Edit(models.Model):
    """The edit log: what one action changed in one document, both ways.

    changes: for each of the document's fields what changed, as tinfork.web.edits.diff has it. spots: where it touched
    the document (tinfork.web.edits.spots), None where that is not known; last_at: the last version of the document that
    it was made, undone or done again on. derived: what Document.derived_before said when it was made, undone or done
    again last, as MessagePack. step: all edits of one action have the same number, and are undone together. batch: the
    piece of long work that did it, all of whose changes are one action unless somebody did something in between. by:
    who did it elsewhere, before it came in a bundle.
    """

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="edits")
    area = models.CharField(max_length=40)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    by = models.CharField(max_length=150, blank=True)
    verb = models.CharField(max_length=40)
    changes = models.JSONField(default=dict)
    derived = models.BinaryField(null=True)
    version = models.PositiveIntegerField()
    spots = models.JSONField(null=True)
    last_at = models.PositiveIntegerField(default=0)
    step = models.PositiveBigIntegerField(db_default=models.Func(models.Value("edits_step"), function="nextval"))
    batch = models.PositiveBigIntegerField(null=True, blank=True)
    undone = models.BooleanField(default=False)
    superseded = models.BooleanField(default=False)
    made = models.DateTimeField(auto_now_add=True)

    objects = EditQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]
        indexes = [
            models.Index(fields=["scene", "area"]),
            models.Index(fields=["scene", "step"], name="edits_edit_scene_i_step_idx"),
        ]
