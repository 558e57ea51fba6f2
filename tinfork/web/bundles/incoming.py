"""A bundle made into a production. Nothing in it is believed: what does not hold together is refused, in words."""

import math
import re
import tempfile
import uuid
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import date
from pathlib import Path
from typing import Annotated, Any, NoReturn

import msgspec
from django.contrib.auth.models import User
from django.core.files.base import File
from django.db import DatabaseError, connection, transaction
from django.utils import timezone
from msgspec import Meta, Struct

from tinfork.core.acting import verbs
from tinfork.core.acting.lanes import EASES, Lane
from tinfork.core.errors import BundleError
from tinfork.core.exposure.track import Exposure, Track
from tinfork.core.formats.bundle import OpenBundle
from tinfork.core.limits import (
    MAX_GESTURES,
    MAX_KEYS,
    MAX_NAME_CHARACTERS,
    MAX_SCENE_FRAMES,
    MAX_SCRIPT_LINES,
    MAX_SOUND_SECONDS,
)
from tinfork.core.mouths.heads import FORMS
from tinfork.core.mouths.hints import NEUTRAL
from tinfork.core.mouths.parts import DIALS, ROLES, Pose, check_parts
from tinfork.core.mouths.picture import checked_svg
from tinfork.core.mouths.prepared import PictureSource, Prepared, drawings, one_picture
from tinfork.core.plain import restore
from tinfork.core.sound import arrangement
from tinfork.core.speech.espeak import check_language
from tinfork.core.speech.phones import parse_ipa
from tinfork.core.speech.reading import Line
from tinfork.core.timebase import format_rate, parse_rate
from tinfork.web.accounts.names import name_of
from tinfork.web.acting.models import GESTURES, LANE, Acting, PhraseNotes, restored_lane
from tinfork.web.charts.models import ChartDrawing, MouthChart, Worn
from tinfork.web.charts.pictures import keep_picture, pictured
from tinfork.web.edits.models import Document, Edit
from tinfork.web.faces.actions import parts_of_rows
from tinfork.web.faces.models import Face, FaceLayer, FacePart
from tinfork.web.files.aside import aside
from tinfork.web.following.models import Timing
from tinfork.web.handover.keeping import Versions, packed, versions_now
from tinfork.web.handover.models import Backdrop, Version
from tinfork.web.handover.wishes import Wish, as_now
from tinfork.web.jobs.running import DATABASE_GONE
from tinfork.web.productions.actions import checked_name, create_production, free_name
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.productions.permissions import Person
from tinfork.web.prompter.models import Exposed
from tinfork.web.rushes.models import Comment, Verdict
from tinfork.web.script.models import Script
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.shots.models import Sequence as Sequence_
from tinfork.web.shots.models import Shot
from tinfork.web.sound.actions import bring_in as bring_sound_in
from tinfork.web.sound.actions import channel_copy
from tinfork.web.sound.models import Arrangement
from tinfork.web.sound.reels import ask_for_reel
from tinfork.web.staves.models import Stave, TrackTake

from . import document
from .kept import checked_kept
from .numbers import renumbered, renumbered_changes

_OfScene = Arrangement | Script | SheetNotes | Timing
_KINDS: dict[str, type[_OfScene]] = {"sound": Arrangement, "script": Script, "sheet": SheetNotes, "timing": Timing}
_LINE = re.compile(r"line [1-9]\d{0,8}")
_NUMBERED: dict[str, tuple[type[Document], re.Pattern[str]]] = {
    "stave": (Stave, _LINE),
    "acting": (Acting, re.compile(rf"({LANE}|{GESTURES}).{{1,{MAX_NAME_CHARACTERS}}}")),
}
"""Documents of which a scene has several, and what parts of them are called that are kept in rows of their own."""

_CAME = "came"
"""What the versions of a shot's documents have instead of them, when it was another already before it came here."""

_MOST_DRAWINGS = 8_000
_LARGEST = 1e9
_CHANGE = (3, 4)


class _Basis(Struct, array_like=True, frozen=True):
    name: document.Text
    place: document.Place
    drawing: int | None


class _Rule(Struct, array_like=True, frozen=True):
    ipa: document.Text
    drawing: document.Text
    place: document.Place


class _About(Struct, frozen=True, forbid_unknown_fields=True):
    seconds: float
    rate: int
    language: document.Code


_PLAIN_PARTS: dict[str, Any] = {
    "about": _About | None,
    "order": list[int],
    "basis": list[_Basis],
    "rules": list[_Rule],
    "hold": int,
    "lead": int,
    "detail": float,
    "step": int,
    "notes": dict[str, document.Text],
    "rate": Annotated[float, Meta(ge=1, le=60)],
    "seed": Annotated[int, Meta(ge=1, le=1_000_000)],
    "eyes_first": Annotated[int, Meta(ge=0, le=24)],
    "amount": Annotated[float, Meta(ge=0, le=3)],
    "temper": document.Temper,
    "framing": document.Framing,
    "phrases": dict[str, PhraseNotes],
}
"""The parts of what people decided that the core has no values for."""


def bring_in(person: Person, bundle: OpenBundle) -> Production:
    """Return the production in a bundle as the person's own, whole or not at all. BundleError when it cannot be."""
    try:
        asked = msgspec.convert(bundle.production, document.Production)
    except msgspec.ValidationError as amiss:
        raise BundleError(f"This bundle says something that is not understood: {amiss}.") from None
    _check_numbers(bundle.production)
    with tempfile.TemporaryDirectory() as folder:
        try:
            with transaction.atomic():
                return _Incoming(person, bundle, Path(folder)).production(asked)
        except DATABASE_GONE:
            raise
        except (DatabaseError, RecursionError, OverflowError) as amiss:
            raise BundleError("This bundle does not hold together; take it out again where it came from.") from amiss


def _amiss(what: str) -> NoReturn:
    raise BundleError(f"This bundle does not hold together ({what}); take it out again where it came from.")


def _check_numbers(value: Any) -> None:
    """Nothing is so large that counting with it goes wrong."""
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, dict):
            waiting += one.values()
        elif isinstance(one, list):
            waiting += one
        elif isinstance(one, (int, float)) and not (math.isfinite(one) and abs(one) <= _LARGEST):
            _amiss("a number is too large")


def _fields(row: Struct, *others: str) -> dict[str, Any]:
    """What of the document is kept as it is."""
    found = {name: getattr(row, name) for name in row.__struct_fields__ if name not in others}
    if "removed" in found:
        found["removed"] = timezone.now() if found["removed"] else None
    return found


class _Incoming:
    def __init__(self, person: Person, bundle: OpenBundle, folder: Path) -> None:
        self._person, self._bundle, self._folder = person, bundle, folder
        self._rows: dict[str, list[Any]] = {}
        self._production: Production

    def _number(self, kind: str, place: int) -> int:
        """The number of the row that a place stands for; 0 for one that is gone."""
        row = self._row(kind, place)
        return row.pk if row else 0

    def _row(self, kind: str, place: int) -> Any:
        rows = self._rows.setdefault(kind, [])
        if not 0 <= place <= len(rows):
            _amiss(f"there is no number {place} of its {kind}")
        return rows[place - 1] if place else None

    def production(self, asked: document.Production) -> Production:
        own = self._production = create_production(self._person, free_name(self._person, asked.name))
        own.language = check_language(asked.language)
        own.came_with = [[one.name, one.role] for one in asked.people]
        own.save()
        if len(set(asked.sequences)) < len(asked.sequences):
            _amiss("two sequences have one name")
        rows = [Sequence_(production=own, name=name, place=at) for at, name in enumerate(asked.sequences, 1)]
        self._rows["sequences"] = Sequence_.objects.bulk_create(rows)
        for chart in asked.charts:
            self._chart(chart)
        for character in asked.characters:
            self._character(character)
        for entry in asked.lexicon:
            parse_ipa(entry.ipa)
            own.lexicon.create(person_id=self._person.pk, **_fields(entry))
        for preset in asked.presets:
            wish = as_now(preset.wish)
            restore(wish, Wish)
            own.presets.create(person_id=self._person.pk, **_fields(preset) | {"wish": wish})
        for pose in asked.poses:
            restore(pose.parts, dict[str, Pose])
            own.poses.create(**_fields(pose))
        for sound in asked.sounds:
            self._sound(sound)
        for scene in asked.scenes:
            self._scene(scene)
        return own

    def _chart(self, asked: document.Chart) -> None:
        if asked.part not in MouthChart.Of.values:
            _amiss("a chart is of neither mouths nor heads")
        chart = MouthChart.objects.create(production=self._production, **_fields(asked, "drawings"))
        self._known("charts").append(chart)
        sources = [(self._source(one.picture), one.scale) for one in asked.drawings]
        opened = aside(drawings, sources, self._folder) if sources else []
        for one, (picture, drawn) in zip(asked.drawings, opened, strict=True):
            if one.vector:
                checked_svg("A drawing", one.vector.encode())
            self._known("drawings").append(
                ChartDrawing.objects.create(
                    chart=chart,
                    **_fields(one, "picture", "drawn", "also"),
                    **pictured(picture, self._folder),
                    drawn=keep_picture(self._picture(one.drawn), self._folder) if one.drawn else "",
                    also=[self._further(name, picture) for name in one.also],
                    outline=drawn,
                )
            )

    def _further(self, name: str, first: Prepared) -> str:
        """A further picture of a drawing that moves, kept."""
        found = self._picture(name)
        if (found.width, found.height) != (first.width, first.height):
            _amiss("the pictures of a drawing are of several sizes")
        return keep_picture(found, self._folder)

    def _source(self, name: str) -> PictureSource:
        """A picture of the bundle."""
        path = self._folder / name.rpartition("/")[2]
        self._bundle.take(name, path)
        return PictureSource("A picture in this bundle", path)

    def _picture(self, name: str) -> Prepared:
        """It opened and made anew."""
        return aside(one_picture, self._source(name), self._folder)

    def _character(self, asked: document.Character) -> None:
        if asked.form not in FORMS:
            _amiss("a character has a face that is not known")
        if asked.language:
            check_language(asked.language)
        own = _fields(asked, "chart", "mood", "face", "rules", "matches")
        character = Character.objects.create(production=self._production, **own)
        self._known("characters").append(character)
        if chart := self._row("charts", asked.chart):
            Worn.objects.create(character=character, chart=chart, mood=asked.mood or NEUTRAL)
        for rule in asked.rules:
            character.sound_rules.create(**_fields(rule))
        for match in asked.matches:
            character.name_matches.create(**_fields(match))
        if asked.face:
            views = {view: msgspec.structs.asdict(lies) for view, lies in asked.face.views.items()}
            lies = _fields(asked.face, "layers", "parts", "views")
            face = Face.objects.create(character=character, views=views, **lies)
            rows = [FacePart(face=face, **_fields(part)) for part in asked.face.parts]
            if any(row.role not in ("", *ROLES) for row in rows):
                _amiss("a part of a face is of no kind that is known")
            check_parts(parts_of_rows(rows))
            parts = {row.name: row for row in FacePart.objects.bulk_create(rows)}
            for layer in asked.face.layers:
                if layer.part and layer.part not in parts:
                    _amiss("a layer is of a part that is not there")
                picture = self._picture(layer.picture)
                seen = pictured(picture, self._folder) | {"also": [self._further(one, picture) for one in layer.also]}
                own_part = {"part": parts.get(layer.part)}
                FaceLayer.objects.create(face=face, **_fields(layer, "picture", "part", "also"), **own_part, **seen)

    def _sound(self, asked: document.Heard) -> None:
        path = self._folder / "sound"
        self._bundle.take(asked.file, path)
        with path.open("rb") as file:
            sound = bring_sound_in(self._person, self._production, File(file, name=asked.name))
        if any(sound == other for other in self._known("sounds")):
            _amiss("a sound is in it twice")
        if sound.name != asked.name:
            sound.name = asked.name
            sound.save(update_fields=["name"])
        for channel in asked.channels:
            channel_copy(sound, channel)
        self._known("sounds").append(sound)

    def _scene(self, asked: document.Scene) -> None:
        rate = format_rate(parse_rate(asked.rate))
        apart = (
            "name",
            "rate",
            "timing",
            "sound",
            "script",
            "sheet",
            "staves",
            "actings",
            "recorded",
            "history",
            "shots",
        )
        own = _fields(asked, *apart, "backdrop", "film", "versions", "comments")
        name = checked_name(asked.name, "scene")
        scene = Scene.objects.create(production=self._production, name=name, rate=rate, **own)
        for area, kind in _KINDS.items():
            if (decided := getattr(asked, area)) is not None:
                self._decided(area, kind(scene=scene, version=decided.version), decided.parts).save()
        staves = [self._stave(scene, one) for one in asked.staves]
        for take in asked.recorded:
            who, sound = self._row("characters", take.character), self._row("sounds", take.sound)
            if who and sound:
                scene.takes.create(character=who, sound=sound, person_id=self._person.pk, kept=take.kept)
        actings = [self._acting(scene, one) for one in asked.actings]
        self._history(scene, {"stave": staves, "acting": actings}, asked.history)
        shots = (Exposed(scene=scene, key=uuid.uuid4(), **_fields(shot)) for shot in asked.shots)
        Exposed.objects.bulk_create(shots, batch_size=1000)
        if asked.backdrop:
            Backdrop.objects.create(scene=scene, **pictured(self._picture(asked.backdrop), self._folder))
        self._reviewed(scene, asked)
        heard = {clip.sound for kept in Arrangement.objects.filter(scene=scene) for clip in kept.value.clips}
        for sound in self._known("sounds"):
            if sound.pk in heard:
                ask_for_reel(self._person, scene, sound)

    def _reviewed(self, scene: Scene, asked: document.Scene) -> None:
        """What the film has of a scene, the versions that were shown, and the notes."""
        if asked.film:
            self._as_shot(scene, asked.film)
        numbers = [one.number for one in asked.versions]
        if numbers != sorted(set(numbers)):
            _amiss("its versions are not in their order")
        now = versions_now([scene])[scene.pk] if asked.versions else {}
        versions = {one.number: self._version(scene, one, now) for one in asked.versions}
        made: list[Comment] = []
        for one in asked.comments:
            if one.on > len(made) or (one.version and one.version not in versions):
                _amiss("a note answers nothing, or is about no version")
            comment = Comment(scene=scene, **_fields(one, "on", "version"))
            comment.on, comment.version = made[one.on - 1] if one.on else None, versions.get(one.version)
            comment.save()
            made.append(comment)
        for comment, one in zip(made, asked.comments, strict=True):
            comment.made = one.made
        Comment.objects.bulk_update(made, ["made"])

    def _as_shot(self, scene: Scene, asked: document.AsShot) -> None:
        try:
            due = date.fromisoformat(asked.due) if asked.due else None
        except ValueError:
            _amiss("a shot is due on no day")
        archived = timezone.now() if asked.archived else None
        sequence = self._row("sequences", asked.sequence)
        mine = isinstance(self._person, User) and name_of(self._person) == asked.who
        Shot.objects.create(
            who_id=self._person.pk if mine else None,
            scene=scene,
            number=asked.number,
            sequence=sequence,
            due=due,
            priority=asked.priority,
            archived=archived,
        )

    def _version(self, scene: Scene, asked: document.Version, now: Versions) -> Version:
        path = self._folder / "version"
        self._bundle.take(asked.kept, path)
        kept = checked_kept(path, self._number)
        names = {str(number): role.name for number, role in zip(kept.characters, kept.roles, strict=True)}
        version = Version.objects.create(
            scene=scene,
            number=asked.number,
            name=asked.name,
            of=now if asked.now else {_CAME: "changed since"},
            frames=kept.arrangement.frames,
            who=names,
            kept=packed(kept),
            rate=_rate(asked.rate, scene),
            start_frame=asked.start_frame if asked.rate else scene.start_frame,
        )
        Version.objects.filter(pk=version.pk).update(made=asked.made)
        for said in asked.verdicts:
            if said.kind not in Verdict.Kind.values:
                _amiss("somebody said of a version what nobody can")
            verdict = version.verdicts.create(kind=said.kind, name=said.name)
            Verdict.objects.filter(pk=verdict.pk).update(made=said.made)
        return version

    def _known(self, kind: str) -> list[Any]:
        """The rows that were made of a kind so far."""
        return self._rows.setdefault(kind, [])

    def _decided(self, area: str, kept: Any, parts: dict[str, Any]) -> Any:
        """A document with what people decided, which is what it may be."""
        wanted = set(kept.EDITABLE) - set(kept.COUNTED)
        if not wanted - set(kept.LATER) <= parts.keys() <= wanted:
            _amiss(f"parts of a {area} are missing, or others are there")
        for name, value in renumbered(area, parts, self._number).items():
            kept.decide(name, value)
        _CHECKS[area](kept)
        return kept

    def _stave(self, scene: Scene, asked: document.Stave) -> Stave:
        character = self._row("characters", asked.character)
        if character is None:
            _amiss("a stave is nobody's")
        stave = Stave(scene=scene, character=character, version=asked.version)
        self._decided("stave", stave, asked.parts)
        stave.save()
        for number, body in asked.lines.items():
            if not _LINE.fullmatch(f"line {number}"):
                _amiss("a line has no number")
            _check_line(restore(body, Line))
            stave.decide(f"line {number}", body)
        if not {str(number) for number in stave.order} <= asked.lines.keys():
            _amiss("a line of a reading is missing")
        arranged = Arrangement.objects.filter(scene=scene).first()
        frames = arranged.value.frames if arranged else 1
        if asked.exposures:
            stave.track = _track(asked.exposures, frames)
        stave.unplanned = [[first, end] for first, end in asked.unplanned if first < end <= frames]
        stave.changed = stave.unplanned
        stave.save()
        for take in asked.takes:
            kept = Stave(scene=scene, character=character)
            decisions = {name: take.decisions.get(name, getattr(kept, name)) for name in TrackTake.DECISIONS}
            others = {
                name: getattr(kept, name)
                for name in Stave.EDITABLE
                if name not in (*TrackTake.DECISIONS, *Stave.COUNTED)
            }
            self._decided("stave", kept, decisions | others)
            track = _track(take.exposures, None)
            stave.takes.create(
                name=take.name,
                person_id=self._person.pk,
                decisions=kept.decided(TrackTake.DECISIONS),
                cells=track.packed(),
                drawings=list(track.drawings),
                rate=_rate(take.rate, scene),
            )
        return stave

    def _acting(self, scene: Scene, asked: document.Acting) -> Acting:
        character = self._row("characters", asked.character)
        if character is None:
            _amiss("acting is nobody's")
        acting = Acting(scene=scene, character=character, version=asked.version)
        self._decided("acting", acting, asked.parts)
        acting.save()
        for part, lane in asked.lanes.items():
            _check_lane(restored_lane(lane.body, lane.gestures))
            acting.decide(f"{LANE}{part}", lane.body)
            acting.decide(f"{GESTURES}{part}", lane.gestures)
        return acting

    def _history(
        self, scene: Scene, rows: Mapping[str, Sequence[Stave | Acting]], asked: Sequence[document.Step]
    ) -> None:
        numbers = _new_steps(asked)
        made = []
        for one in asked:
            kind, _, place = one.area.partition(" ")
            numbered = _NUMBERED.get(kind) if place.isdecimal() else None
            own = numbered[0] if numbered else _KINDS.get(kind) if not place else None
            if own is None or (place and int(place) > len(rows[kind])):
                _amiss("an edit is of nothing that there is")
            for name, changes in one.changes.items():
                if name not in own.EDITABLE and not (numbered and numbered[1].fullmatch(name)):
                    _amiss("an edit changes what nobody can edit")
                for change in changes:
                    _check_change(change)
            made.append(
                Edit(
                    scene=scene,
                    **_fields(one, "area", "changes", "step"),
                    area=f"{kind} {rows[kind][int(place) - 1].pk if int(place) else 0}" if place else kind,
                    changes=renumbered_changes(kind, one.changes, self._number),
                    step=numbers[one.step],
                )
            )
        Edit.objects.bulk_create(made, batch_size=500)
        for edit, one in zip(made, asked, strict=True):
            edit.made = one.made
        Edit.objects.bulk_update(made, ["made"], batch_size=500)


def _new_steps(asked: Sequence[document.Step]) -> dict[int, int]:
    """For each step of a history a number of its own here, in the same order."""
    steps = sorted({one.step for one in asked})
    with connection.cursor() as cursor:
        cursor.execute("SELECT nextval('edits_step') FROM generate_series(1, %s)", [len(steps)])
        return dict(zip(steps, sorted(row[0] for row in cursor.fetchall()), strict=True))


def _check_change(change: Any) -> None:
    fits = isinstance(change, list) and len(change) in _CHANGE and isinstance(change[0], list)
    if not fits or not all(isinstance(key, (str, int)) for key in change[0]):
        _amiss("an edit does not say what it changed")
    if len(change) > min(_CHANGE):
        at = change[3]
        lists = isinstance(change[1], list) and isinstance(change[2], list)
        if not lists or not isinstance(at, int) or at < 0:
            _amiss("an edit does not say what it changed")


def _check_line(line: Line) -> None:
    times = [line.start, line.end]
    for word in line.words:
        times += [word.start, word.end, *(edge for one in word.sounds for edge in (one.start, one.end))]
        times += [edge for stretch in word.extra for edge in stretch]
    if not line.words or max(map(abs, times)) > 2 * MAX_SOUND_SECONDS:
        _amiss("a line lies outside of any sound")


def _track(asked: Iterable[document.Exposed], frames: int | None) -> Track:
    """A mouth track. frames: how many it must cover, None for any number."""
    exposures = [Exposure(frame, count, name, pinned) for frame, count, name, pinned in asked]
    at = 0
    for one in exposures:
        if one.frame != at or one.frames < 1:
            _amiss("a mouth track has gaps")
        at = one.end
    if at > MAX_SCENE_FRAMES or (frames is not None and at != frames):
        _amiss("a mouth track is not as long as its scene")
    if len({one.drawing for one in exposures}) > _MOST_DRAWINGS:
        _amiss("a mouth track has too many drawings")
    return Track.of(exposures)


def _check_plain(kept: Document, *names: str) -> None:
    try:
        for name in names:
            msgspec.convert(getattr(kept, name), _PLAIN_PARTS[name])
    except msgspec.ValidationError as amiss:
        _amiss(str(amiss))


def _check_sound(kept: Arrangement) -> None:
    arrangement.check(kept.value)
    spans = [edge for mark in kept.kept_marks.marks for edge in (mark.start, mark.end)]
    if spans and max(map(abs, spans)) > 2 * MAX_SOUND_SECONDS:
        _amiss("a mark lies outside of any sound")


def _check_script(kept: Script) -> None:
    if len(kept.value.lines) > MAX_SCRIPT_LINES:
        _amiss("a script has too many lines")


def _check_sheet(kept: SheetNotes) -> None:
    _check_plain(kept, "notes")
    if not all(re.fullmatch(r"\d{1,7}", frame) for frame in kept.notes):
        _amiss("a note stands on no frame")


def _check_stave(kept: Stave) -> None:
    _check_plain(kept, "about", "order", "basis", "rules", "hold", "lead", "detail", "step")
    _ = kept.settings_value, kept.lost_words
    ranged = (kept.mood_values, kept.passage_values, kept.stretch_values, kept.intent_values, kept.ease_values)
    for one in (*kept.pin_values, *(one for values in ranged for one in values)):
        if one.frames < 1 or one.frames > MAX_SCENE_FRAMES:
            _amiss("something was decided for no frame")


def _check_acting(kept: Acting) -> None:
    _check_plain(kept, "rate", "seed", "eyes_first", "amount", "temper", "framing", "phrases")
    if not all(line.isdecimal() for line in kept.phrases):
        _amiss("something is said of no phrase")


def _check_lane(lane: Lane) -> None:
    """Nothing in a lane is what nobody could have set."""
    verbs.lead(lane, lane.lead)
    if len(lane.gestures) > MAX_GESTURES or any(len(keys) > MAX_KEYS for keys in lane.keys.values()):
        _amiss("a lane holds too much")
    for dial, keys in lane.keys.items():
        for key in keys:
            verbs.checked_value(dial, key.value)
            if key.ease not in EASES:
                _amiss("a dial goes on in a way that is not known")
    for one in lane.gestures:
        points = [at for own in one.dials.values() for at, _ in own]
        if (
            not set(one.dials) <= DIALS.keys()
            or any(not own for own in one.dials.values())
            or points != [at for own in one.dials.values() for at, _ in sorted(own)]
        ):
            _amiss("a gesture does what nothing can do")
        if min((*points, *(s.at for s in one.shown)), default=0) < 0 or one.frames > MAX_SCENE_FRAMES:
            _amiss("a gesture lasts too long")
    if any(pin.frames < 1 or pin.frames > MAX_SCENE_FRAMES for pin in lane.shows):
        _amiss("something was decided for no frame")


def _check_timing(kept: Timing) -> None:
    if (kept.rate, kept.start_frame) != (kept.scene.rate, kept.scene.start_frame):
        _amiss("a scene has two frame rates")


def _rate(text: str, scene: Scene) -> str:
    """A rate that was kept with something, else the scene's."""
    return format_rate(parse_rate(text)) if text else scene.rate


_CHECKS: dict[str, Callable[[Any], None]] = {
    "sound": _check_sound,
    "script": _check_script,
    "sheet": _check_sheet,
    "timing": _check_timing,
    "stave": _check_stave,
    "acting": _check_acting,
}
