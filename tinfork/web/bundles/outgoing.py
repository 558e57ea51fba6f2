"""A production, or some of its scenes, as a bundle's document and the files it names."""

import tempfile
from collections.abc import Iterable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeVar

import msgspec
from django.db import models, transaction
from django.db.models import Q
from django.db.models.fields.files import FieldFile
from msgspec import Struct, to_builtins

from tinfork.core.errors import BundleError
from tinfork.core.formats import bundle
from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.naming import numbered
from tinfork.core.plain import plain
from tinfork.core.sound.arrangement import MIX
from tinfork.web.accounts.names import name_of
from tinfork.web.acting.models import Acting
from tinfork.web.charts.models import ChartDrawing, MouthChart, Worn
from tinfork.web.edits.actions import lock_scene
from tinfork.web.edits.models import Document, Edit
from tinfork.web.faces.models import Face, FaceLayer
from tinfork.web.files import store
from tinfork.web.following.models import Timing
from tinfork.web.handover.keeping import kept_in, versions_now
from tinfork.web.handover.models import Version, backdrop_of
from tinfork.web.productions.actions import hold
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.rushes.models import Comment
from tinfork.web.script.models import Script
from tinfork.web.sheet.models import SheetNotes
from tinfork.web.shots.models import Shot
from tinfork.web.sound.actions import local_file
from tinfork.web.sound.models import Arrangement, SoundFile
from tinfork.web.staves.models import Stave, TrackTake
from tinfork.web.staves.mouths import lent_name

from . import document
from .numbers import renumbered, renumbered_changes

K = TypeVar("K", bound=Struct)
_KINDS = (Arrangement, Script, SheetNotes, Timing)


def write(path: Path, production: Production, scenes: Sequence[Scene] | None) -> None:
    """A bundle of a production, or of some of its scenes with all of its cast and charts."""
    with ExitStack() as stack:
        out = _Outgoing(production, stack)
        with transaction.atomic():
            found = out.production(scenes)
        bundle.write(path, to_builtins(found, builtin_types=()), out.files)


@dataclass
class _Places:
    """The places in lists that stand for rows. wanted: the numbers that were asked for."""

    of: dict[str, dict[int, int]]
    wanted: dict[str, set[int]]

    def __call__(self, kind: str, number: int) -> int:
        self.wanted.setdefault(kind, set()).add(number)
        return self.of.get(kind, {}).get(number, 0)

    def number(self, kind: str, rows: Iterable[models.Model]) -> None:
        """Number rows by their places in a list."""
        self.of[kind] = {row.pk: place for place, row in enumerate(rows, 1)}


def _row(kind: type[K], row: Any, **others: Any) -> K:
    """A row as the document has it: its fields of the same names, and others."""
    removed = {"removed": row.removed is not None} if "removed" in kind.__struct_fields__ else {}
    own = (name for name in kind.__struct_fields__ if name not in others and name not in removed)
    return kind(**{name: getattr(row, name) for name in own}, **removed, **others)


class _Outgoing:
    """files: what the document names, where it lies on this machine."""

    def __init__(self, production: Production, stack: ExitStack) -> None:
        self._of, self._stack = production, stack
        self._places = _Places({}, {})
        self.files: dict[str, Path] = {}

    def production(self, scenes: Sequence[Scene] | None) -> document.Production:
        """Return everything, as it is at one moment."""
        own = self._of
        hold(own)
        every = list(Scene.everything.filter(production=own).order_by("pk"))
        taken = every if scenes is None else [one for one in every if one in scenes]
        for scene in taken:
            lock_scene(scene)
        characters = list(Character.everything.filter(production=own).order_by("pk"))
        near = Q(production=own) | Q(worn_by__character__production=own)
        charts = list(MouthChart.everything.filter(near).distinct().order_by("pk"))
        charts.sort(key=lambda chart: chart.production_id != own.pk)
        drawings = {chart.pk: list(ChartDrawing.everything.filter(chart=chart).order_by("pk")) for chart in charts}
        self._places.number("characters", characters)
        self._places.number("charts", charts)
        self._places.number("drawings", (one for chart in charts for one in drawings[chart.pk]))
        sounds = self._sounds(None if scenes is None else taken)
        self._places.number("sounds", sounds)
        names = _free_names(charts)
        self._places.number("sequences", own.sequences.all())
        members = own.membership_set.select_related("person").order_by("pk") if scenes is None else ()
        return document.Production(
            own.name,
            own.language,
            [self._character(one) for one in characters],
            [self._chart(one, names[one.pk], drawings[one.pk]) for one in charts],
            [_row(document.Entry, one) for one in own.lexicon.order_by("pk")],
            [_row(document.Preset, one) for one in own.presets.order_by("pk")],
            [self._sound(one) for one in sounds],
            [self._scene(one) for one in taken],
            [_row(document.SavedPose, one) for one in own.poses.order_by("pk")],
            list(own.sequences.values_list("name", flat=True)),
            [document.Member(name_of(one.person), one.role) for one in members],
        )

    def _sounds(self, scenes: Sequence[Scene] | None) -> list[SoundFile]:
        """The sounds of a production, or those that lie, or lay once, in some scenes."""
        own = SoundFile.objects.filter(production=self._of).order_by("pk")
        if scenes is None:
            return list(own)
        for scene in scenes:
            for kept in Arrangement.objects.filter(scene=scene):
                renumbered("sound", kept.decided(kept.EDITABLE), self._places)
            for version in Version.objects.filter(scene=scene):
                self._plain_of(version)
            for edit in Edit.objects.filter(scene=scene, area="sound"):
                renumbered_changes("sound", edit.changes, self._places)
        return list(own.filter(Q(pk__in=self._places.wanted.get("sounds", ())) | Q(take__scene__in=scenes)).distinct())

    def _character(self, own: Character) -> document.Character:
        worn = Worn.objects.filter(character=own).first()
        face = Face.objects.filter(character=own).first()
        return _row(
            document.Character,
            own,
            chart=self._places("charts", worn.chart_id) if worn else 0,
            mood=worn.mood if worn else "",
            face=self._face(face) if face else None,
            rules=[_row(document.Rule, one) for one in own.sound_rules.order_by("pk")],
            matches=[_row(document.Match, one) for one in own.name_matches.order_by("pk")],
        )

    def _face(self, face: Face) -> document.Face:
        layers = FaceLayer.everything.filter(face=face).order_by("pk")
        return _row(
            document.Face,
            face,
            layers=[
                _row(
                    document.Layer,
                    one,
                    picture=self._file("pictures", one.picture),
                    part=one.part.name if one.part else "",
                    also=[self._file("pictures", one.file_of(1 + at)) for at in range(len(one.also))],
                )
                for one in layers.select_related("part")
            ],
            parts=[_row(document.Part, one) for one in face.parts.order_by("pk")],
        )

    def _chart(self, own: MouthChart, name: str, drawings: Sequence[ChartDrawing]) -> document.Chart:
        """A chart under a name; where that is another, pins that show its drawings elsewhere still find them."""
        former = {} if name == own.name else {one.pk: [lent_name(own.name, one.called)] for one in drawings}
        rows = [self._drawing(one, [*one.formerly, *former.get(one.pk, ())]) for one in drawings]
        return _row(document.Chart, own, name=name, drawings=rows)

    def _drawing(self, own: ChartDrawing, formerly: list[str]) -> document.Drawing:
        drawn = ChartDrawing(picture=own.drawn).picture
        return _row(
            document.Drawing,
            own,
            formerly=formerly,
            picture=self._file("pictures", own.picture),
            drawn=self._file("pictures", drawn) if drawn else "",
            also=[self._file("pictures", own.file_of(1 + at)) for at in range(len(own.also))],
        )

    def _sound(self, own: SoundFile) -> document.Heard:
        channels = own.copies.exclude(channel=MIX).order_by("channel").values_list("channel", flat=True)
        return document.Heard(own.name, self._file("sounds", own.original), list(channels))

    def _file(self, folder: str, kept: FieldFile) -> str:
        """A kept file's name in the bundle."""
        if not store.is_there(kept.name or ""):
            raise BundleError(f"A file of “{self._of.name}” is no longer on the disk ({kept.name}); bring it in again.")
        path = self._stack.enter_context(local_file(kept))
        name = bundle.name_of(folder, store.digest(path))
        self.files[name] = path
        return name

    def _scene(self, own: Scene) -> document.Scene:
        staves = list(Stave.objects.filter(scene=own).select_related("character").order_by("pk"))
        actings = list(Acting.objects.filter(scene=own).order_by("pk"))
        areas = {stave.area: f"stave {place}" for place, stave in enumerate(staves, 1)}
        areas |= {acting.area: f"acting {place}" for place, acting in enumerate(actings, 1)}
        kept = {kind: kind.objects.filter(scene=own).first() for kind in _KINDS}
        return _row(
            document.Scene,
            own,
            sound=self._decided(kept[Arrangement]),
            script=self._decided(kept[Script]),
            sheet=self._decided(kept[SheetNotes]),
            staves=[self._stave(one) for one in staves],
            recorded=[
                document.Recorded(
                    self._places("characters", one.character_id), self._places("sounds", one.sound_id), one.kept
                )
                for one in own.takes.order_by("pk")
            ],
            history=list(self._history(own, areas)),
            shots=[_row(document.Shot, one) for one in own.exposed.order_by("pk")],
            backdrop=self._file("pictures", behind.picture) if (behind := backdrop_of(own)) else "",
            actings=[self._acting(one) for one in actings],
            film=self._as_shot(own),
            versions=self._versions(own),
            comments=_comments(own),
            timing=self._decided(kept[Timing]),
        )

    def _as_shot(self, own: Scene) -> document.AsShot | None:
        shot = Shot.objects.filter(scene=own).select_related("who").first()
        if shot is None:
            return None
        return document.AsShot(
            shot.number,
            self._places("sequences", shot.sequence_id or 0),
            name_of(shot.who) if shot.who else "",
            shot.due.isoformat() if shot.due else "",
            shot.priority,
            shot.archived is not None,
        )

    def _versions(self, own: Scene) -> list[document.Version]:
        shown = list(Version.objects.filter(scene=own).order_by("number"))
        now = versions_now([own])[own.pk] if shown else {}
        return [
            document.Version(
                one.number,
                one.name,
                one.made,
                one.of == now,
                self._made("versions", msgspec.json.encode(self._plain_of(one), order="sorted")),
                [_row(document.Verdict, said) for said in one.verdicts.order_by("pk")],
                one.rate,
                one.start_frame,
            )
            for one in shown
        ]

    def _plain_of(self, version: Version) -> dict[str, Any]:
        """What a version keeps, as plain values, with places in the bundle for numbers."""
        kept: dict[str, Any] = plain(kept_in(version.kept))
        arrangement = renumbered("sound", {"body": kept["arrangement"]}, self._places)["body"]
        characters = [self._places("characters", number) for number in kept["characters"]]
        return kept | {"arrangement": arrangement, "characters": characters}

    def _made(self, folder: str, data: bytes) -> str:
        """The name in the bundle of a file that is made for it."""
        path = Path(self._stack.enter_context(tempfile.TemporaryDirectory())) / "made"
        path.write_bytes(data)
        name = bundle.name_of(folder, store.digest(path))
        self.files[name] = path
        return name

    def _decided(self, kept: Document | None) -> document.Decided | None:
        if kept is None:
            return None
        return document.Decided(kept.version, renumbered(kept.area, kept.decided(kept.EDITABLE), self._places))

    def _stave(self, own: Stave) -> document.Stave:
        takes = [
            document.TrackTake(one.name, renumbered("stave", one.decisions, self._places), _exposures(one), one.rate)
            for one in own.takes.order_by("pk")
        ]
        return document.Stave(
            self._places("characters", own.character_id),
            own.version,
            renumbered("stave", own.decided(set(own.EDITABLE) - set(own.COUNTED)), self._places),
            {str(number): body for number, body in own.lines.order_by("number").values_list("number", "body")},
            _exposures(own),
            [(first, end) for first, end in own.unplanned],
            takes,
        )

    def _acting(self, own: Acting) -> document.Acting:
        rows = own.lanes.order_by("part").values_list("part", "body", "gestures")
        lanes = {part: document.ActedLane(body, gestures) for part, body, gestures in rows}
        who = self._places("characters", own.character_id)
        return document.Acting(who, own.version, own.decided(own.EDITABLE), lanes)

    def _history(self, scene: Scene, areas: dict[str, str]) -> Iterator[document.Step]:
        own = list(Edit.objects.filter(scene=scene).select_related("person").order_by("pk"))
        steps = {step: place for place, step in enumerate(sorted({edit.step for edit in own}), 1)}
        for edit in own:
            kind = edit.area.partition(" ")[0]
            yield _row(
                document.Step,
                edit,
                area=areas.get(edit.area, f"{kind} 0") if kind in ("stave", "acting") else edit.area,
                changes=renumbered_changes(kind, edit.changes, self._places),
                step=steps[edit.step],
                by=str(edit.person or edit.by),
            )


def _comments(own: Scene) -> list[document.Comment]:
    """The notes of a scene, each with the place of what it answers."""
    found = list(Comment.objects.filter(scene=own).select_related("version").order_by("pk"))
    places = {one.pk: place for place, one in enumerate(found, 1)}
    return [
        _row(
            document.Comment,
            one,
            line=[(x, y) for x, y in one.line],
            on=places.get(one.on_id or 0, 0),
            version=one.version.number if one.version else 0,
        )
        for one in found
    ]


def _exposures(own: Stave | TrackTake) -> list[document.Exposed]:
    return [(e.frame, e.frames, e.drawing, e.pinned) for e in own.track.exposures()] if own.cells else []


def _free_names(charts: Sequence[MouthChart]) -> dict[int, str]:
    """What charts are called when all of them are in one production, by their numbers."""
    found: dict[int, str] = {}
    taken: set[str] = set()
    for chart in charts:
        tries = numbered(chart.name, most=MAX_NAME_CHARACTERS - 6)
        found[chart.pk] = own = next(one for one in tries if one not in taken or chart.removed is not None)
        if chart.removed is None:
            taken.add(own)
    return found
