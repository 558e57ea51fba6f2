from collections.abc import Iterable, Sequence
from functools import cached_property
from typing import Any

import msgspec
from django.conf import settings
from django.db import models

from tinfork.core.exposure import windows
from tinfork.core.exposure.pins import AnchoredPin
from tinfork.core.exposure.ranges import AnchoredEase, AnchoredIntent, AnchoredMood, AnchoredSettings, AnchoredStretch
from tinfork.core.exposure.track import Settings, Track, differing
from tinfork.core.plain import plain, restore
from tinfork.core.script.casting import only_listens
from tinfork.core.script.lines import pauses
from tinfork.core.speech.reading import Line, Lost, Reading
from tinfork.web.edits.models import Document
from tinfork.web.productions.models import Character, Scene
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement

_LINE = "line "

WORTH_WRITING = 0.15
"""In seconds: unwritten speech shorter than this is no word."""

Body = dict[str, Any]
Spans = list[list[Any]]


_MOST_MOVES = 40
"""So many moves of sounds a stave remembers."""


class Stave(Document):
    """One character's lanes in a scene: the reading of their lines, pins, and the mouth track planned from both.

    Reading and pins are kept in the time of the sounds they belong to (tinfork.core.sound.anchors), so that they move
    with them. about: length, rate and language of what was read, None before the first line. order: the numbers of
    the reading's lines, each kept in a row of its own; lost: see tinfork.core.speech.reading; basis: the drawings that
    mouths are planned with, each a name, a place and the number of the chart's drawing, none for ours. moods, passages
    and stretches: what was decided for ranges (tinfork.core.exposure.ranges). rules: sounds with a drawing of their
    own, each its IPA, the drawing's name and its place. intents: what looks wrong and is meant so; eases: where
    seams are not cut; plans: how often somebody had the mouths planned anew. Derived: where,
    for each line by its number, the stretches of sounds its words lie on: sound, first and last second, whether it is
    said; cells and drawings: the mouth track (tinfork.core.exposure.track), in frames of the scene; unplanned: the
    stretches of it that do not yet follow from the rest; changed: those of them where nothing is kept of what the track
    shows there; moved: by which versions which sounds were moved.
    """

    EDITABLE = (
        *("about", "order", "lost", "pins", "moods", "passages", "stretches", "intents", "eases"),
        *("hold", "lead", "detail", "step", "basis", "rules", "plans"),
    )
    COUNTED = ("plans",)
    BELONGS_TO = ("scene", "character")
    OWNED = ("lines",)
    DERIVED = ("cells", "drawings", "unplanned", "changed")
    LARGE = (
        *("order", "lost", "pins", "moods", "passages", "stretches", "intents", "eases"),
        *("where", "cells", "drawings", "unplanned", "changed"),
    )

    scene = models.ForeignKey(Scene, models.CASCADE, related_name="staves")
    character = models.ForeignKey(Character, models.CASCADE, related_name="staves")
    about = models.JSONField(null=True, blank=True)
    order = models.JSONField(default=list)
    lost = models.JSONField(default=list)
    pins = models.JSONField(default=list)
    moods = models.JSONField(default=list)
    passages = models.JSONField(default=list)
    stretches = models.JSONField(default=list)
    intents = models.JSONField(default=list)
    eases = models.JSONField(default=list)
    hold = models.PositiveSmallIntegerField(default=2)
    lead = models.PositiveSmallIntegerField(default=1)
    detail = models.FloatField(default=0.5)
    step = models.PositiveSmallIntegerField(default=1)
    basis = models.JSONField(default=list)
    rules = models.JSONField(default=list)
    plans = models.PositiveIntegerField(default=0)
    where = models.JSONField(default=dict)
    cells = models.BinaryField(default=b"")
    drawings = models.JSONField(default=list)
    unplanned = models.JSONField(default=list)
    changed = models.JSONField(default=list)
    moved = models.JSONField(default=list)

    anew: Sequence[range] = ()
    """The stretches of the track that the last change, made with this object, does not leave as they were."""

    redrawn: Sequence[range] = ()
    """The stretches that the last change, made with this object, shows otherwise without planning them anew."""

    lines_decided: int = 0
    """How often a line was changed with this object."""

    class Meta:
        ordering = ["character_id"]
        constraints = [models.UniqueConstraint(fields=["scene", "character"], name="one_stave_of_a_character")]

    @property
    def area(self) -> str:
        """What the edit log calls it."""
        return f"stave {self.pk}"

    @classmethod
    def of_area(cls, scene: Scene, area: str) -> "Stave | None":
        """Return the scene's stave that the edit log calls so."""
        return cls.objects.filter(scene=scene, pk=int(area.split()[1])).first() if area.startswith("stave ") else None

    def moved_since(self, version: int) -> frozenset[int]:
        """Return the sounds that were moved since a version; kept of the last moves."""
        return frozenset(sound for at, sounds in self.moved if at >= version for sound in sounds)

    def note_moved(self, sounds: Iterable[int]) -> None:
        """Note that sounds are moved on this version. Does not save."""
        self.moved = [*self.moved, [self.version, sorted(sounds)]][-_MOST_MOVES:]

    @property
    def is_read(self) -> bool:
        """Whether lines were ever read, or put in by hand."""
        return self.about is not None

    @property
    def has_mouths(self) -> bool:
        """Whether its mouths do anything but rest: something was read, or set by hand."""
        return self.is_read or bool(self.pins)

    @property
    def is_seen(self) -> bool:
        """Whether they are seen in films and on sheets: their mouths do something, or they are there and listen."""
        return self.has_mouths or only_listens(self.arrangement.value, self.character_id)

    @property
    def has_unwritten(self) -> bool:
        """Whether speech is heard beside its lines that nobody wrote."""
        spans = (span for own in self.where.values() for span in own)
        return any(not said and end - start >= WORTH_WRITING for _, start, end, said in spans)

    @cached_property
    def arrangement(self) -> Arrangement:
        """Where the scene's sounds lie, as it was when this was first asked for."""
        return arrangement_of(self.scene)

    @cached_property
    def _bodies(self) -> dict[int, Body]:
        """The lines that were loaded, by their numbers."""
        return {}

    def bodies(self, numbers: Iterable[int]) -> list[Body]:
        """Return lines of the reading in plain values; each is loaded once. KeyError for a number there is not."""
        numbers = list(numbers)
        missing = [number for number in numbers if number not in self._bodies]
        if missing:
            self._bodies.update(self.lines.filter(number__in=missing).values_list("number", "body"))
        return [self._bodies[number] for number in numbers]

    def decided(self, names: Iterable[str]) -> dict[str, Any]:
        """Return what was decided by its names; every line of the reading has one of its own, "line" and its number;
        None where there is none."""
        names = list(names)
        numbers = {name: int(name.removeprefix(_LINE)) for name in names if name.startswith(_LINE)}
        there = [number for number in numbers.values() if str(number) in self.where]
        bodies = dict(zip(there, self.bodies(there), strict=True))
        lines = {name: bodies.get(number) for name, number in numbers.items()}
        return lines | super().decided(name for name in names if name not in lines)

    def decide(self, name: str, value: Any) -> None:
        """Set a part; a line is kept at once."""
        if not name.startswith(_LINE):
            return super().decide(name, value)
        number = int(name.removeprefix(_LINE))
        self.lines_decided += 1
        if value is None:
            self.lines.filter(number=number).delete()
            self._bodies.pop(number, None)
            self.where.pop(str(number), None)
            return
        line = restore(value, Line)
        what = {"body": value, "line": line.id, "heard": heard_of(line)}
        if not self.lines.filter(number=number).update(**what):
            self.lines.create(number=number, **what)
        self._bodies[number] = value
        self.where[str(number)] = spans_of(line)

    def stored_in(self, name: str) -> str:
        """Return lines are kept in rows of their own, and only where they are is kept here."""
        return "where" if name.startswith(_LINE) else name

    @property
    def reading_value(self) -> Reading | None:
        """The reading as the core's value, in the time of its sounds."""
        if self.about is None:
            return None
        return self.reading_with(tuple(restore(body, Line) for body in self.bodies(self.order)))

    def reading_with(self, lines: tuple[Line, ...]) -> Reading:
        """Return the reading, with some lines for its own."""
        about = self.about or {"seconds": 0.0, "rate": 0, "language": ""}
        return Reading(about["seconds"], about["rate"], about["language"], lines, (), self.lost_words)

    @property
    def lost_words(self) -> Lost:
        """The pinned words that lost their place, as the core's value."""
        return restore(self.lost, Lost)

    def parts_of(self, reading: Reading) -> dict[str, Any]:
        """Return what to decide so that a reading takes the place of its own: a line keeps its number where the
        script's line is the same."""
        known: dict[int, list[int]] = {}
        for number, body in zip(self.order, self.bodies(self.order), strict=True):
            known.setdefault(body["id"], []).append(number)
        free = max(self.order, default=0)
        parts: dict[str, Any] = {f"{_LINE}{number}": None for number in self.order}
        order = []
        for line in reading.lines:
            own = known.get(line.id)
            number = own.pop(0) if own else (free := free + 1)
            order.append(number)
            parts[f"{_LINE}{number}"] = plain(line)
        about = {"seconds": reading.seconds, "rate": reading.rate, "language": reading.language}
        return parts | {"about": about, "order": order, "lost": plain(reading.lost)}

    @property
    def pin_values(self) -> tuple[AnchoredPin, ...]:
        """The pins as the core's values, in the frames of their sounds."""
        return self.restored("pins", tuple[AnchoredPin, ...])

    @property
    def mood_values(self) -> tuple[AnchoredMood, ...]:
        """The ranges in another mood, in the frames of their sounds."""
        return self.restored("moods", tuple[AnchoredMood, ...])

    @property
    def passage_values(self) -> tuple[AnchoredSettings, ...]:
        """The ranges with settings of their own, in the frames of their sounds."""
        return self.restored("passages", tuple[AnchoredSettings, ...])

    @property
    def stretch_values(self) -> tuple[AnchoredStretch, ...]:
        """The stretches of their own, in the frames of their sounds."""
        return self.restored("stretches", tuple[AnchoredStretch, ...])

    @property
    def intent_values(self) -> tuple[AnchoredIntent, ...]:
        """What looks wrong and is meant so, in the frames of its sounds."""
        return self.restored("intents", tuple[AnchoredIntent, ...])

    @property
    def ease_values(self) -> tuple[AnchoredEase, ...]:
        """The ranges whose seams are eased, in the frames of their sounds."""
        return self.restored("eases", tuple[AnchoredEase, ...])

    @property
    def track(self) -> Track:
        """The mouth track, as far as it is planned."""
        return Track.unpacked(bytes(self.cells), self.drawings) if self.cells else Track.of(())

    @track.setter
    def track(self, track: Track) -> None:
        self.cells, self.drawings = track.packed(), list(track.drawings)

    @property
    def stale(self) -> list[range]:
        """The stretches of the track that are not planned."""
        return [range(first, end) for first, end in self.unplanned]

    @stale.setter
    def stale(self, ranges: Iterable[range]) -> None:
        self.unplanned = windows.pairs(ranges)

    @property
    def open(self) -> list[range]:
        """The stretches of the track of which nothing is kept when they are planned."""
        return [range(first, end) for first, end in self.changed]

    @open.setter
    def open(self, ranges: Iterable[range]) -> None:
        self.changed = windows.pairs(ranges)

    @property
    def derived(self) -> bytes:
        """The track, and what of it is to be planned, in a few bytes that bring_back takes."""
        return msgspec.msgpack.encode([bytes(self.cells), self.drawings, self.unplanned, self.changed])

    def bring_back(self, derived: bytes) -> None:
        """Have the track that was there when derived said so. Does not save."""
        was = self.track
        self.cells, self.drawings, self.unplanned, self.changed = msgspec.msgpack.decode(derived)
        self.anew = differing(was, self.track)

    @property
    def settings_value(self) -> Settings:
        """Hold, lead, Detail and step as the core's value."""
        return Settings(self.hold, self.lead, self.detail, self.step)


RANGED: dict[str, Any] = {
    "pins": tuple[AnchoredPin, ...],
    "moods": tuple[AnchoredMood, ...],
    "passages": tuple[AnchoredSettings, ...],
    "stretches": tuple[AnchoredStretch, ...],
    "intents": tuple[AnchoredIntent, ...],
    "eases": tuple[AnchoredEase, ...],
}
"""What a stave keeps that lies on frames of its sounds, and as which values of the core."""


class TrackTake(models.Model):
    """A mouth track as it was when somebody kept it. decisions: what was decided of the stave but for its reading, by
    the names of its fields; cells and drawings: what was seen (tinfork.core.exposure.track), in frames of the scene;
    derived: the stave's track under it, as Stave.derived has it, None where it came in a bundle; rate: the
    frames a second of the scene then; followed: a sum of what else that track follows from."""

    DECISIONS = tuple(name for name in Stave.EDITABLE if name not in ("about", "order", "lost", "plans"))

    stave = models.ForeignKey(Stave, models.CASCADE, related_name="takes")
    name = models.CharField(max_length=120)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    made = models.DateTimeField(auto_now_add=True)
    decisions = models.JSONField()
    cells = models.BinaryField()
    drawings = models.JSONField()
    derived = models.BinaryField(null=True)
    rate = models.CharField(max_length=20)
    followed = models.CharField(max_length=64, blank=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["stave", "name"], name="one_take_of_a_name")]

    @property
    def track(self) -> Track:
        """What was seen."""
        return Track.unpacked(bytes(self.cells), self.drawings)


class SoundRule(models.Model):
    """A character keeps it: a sound, in IPA, that is always shown by one drawing; place: where that lies."""

    character = models.ForeignKey(Character, models.CASCADE, related_name="sound_rules")
    ipa = models.CharField(max_length=8)
    drawing = models.CharField(max_length=200)
    place = models.JSONField()

    class Meta:
        ordering = ["ipa"]
        constraints = [models.UniqueConstraint(fields=["character", "ipa"], name="one_rule_of_a_sound")]


class NameMatch(models.Model):
    """What a name in another program's files stood for the last time it was brought in for a character."""

    character = models.ForeignKey(Character, models.CASCADE, related_name="name_matches")
    name = models.CharField(max_length=200)
    drawing = models.CharField(max_length=200)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["character", "name"], name="one_match_of_a_name")]


class ReadLine(models.Model):
    """One line of a stave's reading, as a core's Line in plain JSON values. Derived: line, the id of the script's line;
    heard: see tinfork.web.staves.heard."""

    stave = models.ForeignKey(Stave, models.CASCADE, related_name="lines")
    number = models.PositiveIntegerField()
    body = models.JSONField()
    line = models.PositiveIntegerField()
    heard = models.JSONField()

    class Meta:
        ordering = ["stave", "number"]
        constraints = [models.UniqueConstraint(fields=["stave", "number"], name="one_line_of_a_number")]
        indexes = [models.Index(fields=["stave", "line"], name="reading_rea_stave_i_line_idx")]


def heard_of(line: Line) -> dict[str, Any]:
    """Return what the Script view tells of a line: source_id and start, where its first word begins; sure, mean
    confidence; pause, the number of the word after its longest pause and how many seconds that is; words, how many
    there are."""
    found = pauses([(word.start, word.end) for word in line.words])
    return {
        "source_id": line.words[0].source_id,
        "start": line.words[0].start,
        "sure": sum(word.confidence for word in line.words) / len(line.words),
        "words": len(line.words),
        "pause": max(found, key=lambda pause: pause[1]) if found else None,
    }


def spans_of(line: Line) -> Spans:
    """Return where the words of a line are, as Stave.where has it."""
    found: Spans = []
    for word in line.words:
        edges = [word.start, *word.edges]
        start, end = min(edges), max(edges)
        if found and found[-1][0] == word.source_id and found[-1][3] and word.said and start <= found[-1][2]:
            _, first, last, _ = found.pop()
            start, end = min(start, first), max(end, last)
        found += [[word.source_id, *stretch, False] for stretch in word.extra]
        found.append([word.source_id, start, end, word.said])
    return found
