"""Somebody else in somebody's place; a character once more, with all they look like; and a scene in another
production."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from django.db import transaction
from django.utils import timezone

from tinfork.core.errors import TinForkError
from tinfork.core.exposure.ranges import AnchoredStretch
from tinfork.core.exposure.track import NOTHING
from tinfork.core.limits import MAX_NAME_CHARACTERS
from tinfork.core.naming import numbered
from tinfork.web.acting.models import GESTURES, LANE, Acting, acting_of, kept_lane
from tinfork.web.bundles.numbers import renumbered
from tinfork.web.charts.actions import copy_chart
from tinfork.web.charts.models import Worn
from tinfork.web.edits import actions as edits
from tinfork.web.edits.copying import copy_documents
from tinfork.web.edits.models import Document, Edit
from tinfork.web.faces.models import Face
from tinfork.web.productions.actions import create_scene, free_scene_name, hold
from tinfork.web.productions.models import Character, Production, Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.script.models import Script
from tinfork.web.shots.models import Shot
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import SoundFile
from tinfork.web.staves.actions import stave_for
from tinfork.web.staves.models import Stave
from tinfork.web.staves.mouths import Mouths, basis_now, face_shown, mouths_of, rules_now

_VERB = "somebody else"
_LISTS = ("order", "lost", "pins", "moods", "passages", "stretches", "intents", "eases")
_MOVED = ("about", *_LISTS, "hold", "lead", "detail", "step")
_EMPTY: dict[str, Any] = {"about": None} | {name: [] for name in _LISTS}


@dataclass
class Recast:
    """What became of a swap. scenes: in how many; redrawn: for each drawing that the other does not have the one that
    is nearest to it, in order; lacking: parts of faces that the other does not have: what they did stays with whose it
    was."""

    scenes: int = 0
    redrawn: dict[str, str] = field(default_factory=dict)
    lacking: list[str] = field(default_factory=list)

    @property
    def words(self) -> str:
        """In words."""
        told = f"Done in {self.scenes} scene{'' if self.scenes == 1 else 's'}."
        if self.redrawn:
            told += " By shape: " + ", ".join(f"“{a}” is “{b}”" for a, b in self.redrawn.items()) + "."
        if self.lacking:
            told += f" Their face has no {', '.join(dict.fromkeys(self.lacking))}: what these did stays where it was."
        return told


@transaction.atomic
def swap(person: Person, scenes: Iterable[Scene], old: Character, new: Character) -> Recast:
    """Put one character in another's place in scenes: tracks, lines, mouths by shape, acting by parts; one step in the
    history of each. TinForkError where the other is there already, or has no part in it."""
    found = Recast()
    for scene in scenes:
        check(person, scene.production, "edit")
        edits.lock_scene(scene)
        if old.pk == new.pk or {old.production_id, new.production_id} != {scene.production_id}:
            raise TinForkError("Choose two of the cast: whose place is taken, and by whom.")
        if _is_in(scene, new):
            raise TinForkError(f"{new} is in “{scene}” already; somebody speaks for one alone.")
        if _is_in(scene, old):
            with edits.one_step():
                _swap(person, scene, old, new, found)
            found.scenes += 1
    if not found.scenes:
        raise TinForkError(f"{old} is in none of these scenes.")
    return found


def _is_in(scene: Scene, who: Character) -> bool:
    """Whether somebody has sound, lines, mouths or acting in a scene."""
    stave = scene.staves.filter(character=who).first()
    acts = Acting.objects.filter(scene=scene, character=who, lanes__isnull=False).exists()
    script = Script.objects.filter(scene=scene).first()
    speaks = script is not None and any(line.character == who.pk for line in script.value.lines)
    heard = any(track.character == who.pk for track in arrangement_of(scene).value.tracks)
    return acts or speaks or heard or bool(stave and stave.has_mouths)


def _swap(person: Person, scene: Scene, old: Character, new: Character, found: Recast) -> None:
    def who(number: int | None) -> int | None:
        return new.pk if number == old.pk else number

    arrangement = edits.locked(person, arrangement_of(scene))
    value, marks = arrangement.value, arrangement.kept_marks
    tracks = tuple(
        replace(t, character=who(t.character), name=new.name if t.name == old.name else t.name)
        if t.character == old.pk
        else t
        for t in value.tracks
    )
    own = tuple(replace(mark, character=who(mark.character) or 0) for mark in marks.marks)
    parts = {"body": replace(value, tracks=tracks), "marks": replace(marks, marks=own)}
    edits.change(person, arrangement, _VERB, parts)
    for script in Script.objects.filter(scene=scene):
        script.scene = scene
        held = edits.locked(person, script)
        lines = tuple(replace(line, character=who(line.character)) for line in held.value.lines)
        edits.change(person, held, _VERB, {"body": replace(held.value, lines=lines)})
    for stave in scene.staves.filter(character=old):
        stave.scene, stave.character = scene, old
        _swap_mouths(person, stave, new, found)
    for acting in Acting.objects.filter(scene=scene, character=old):
        acting.scene, acting.character = scene, old
        _swap_acting(person, acting, new, found)


def _swap_mouths(person: Person, stave: Stave, new: Character, found: Recast) -> None:
    """Everything that was decided of mouths, in the drawings of somebody else."""
    held = edits.locked(person, stave)
    held.character = stave.character
    parts: dict[str, Any] = {name: getattr(held, name) for name in _MOVED}
    lines = dict(zip(held.order, held.bodies(held.order), strict=True))
    other = stave_for(person, stave.scene, new)
    parts |= redrawn_parts(held, mouths_of(held), mouths_of(other), found.redrawn)
    edits.change(person, held, _VERB, _EMPTY | {f"line {number}": None for number in lines})
    other = edits.locked(person, other)
    edits.change(person, other, _VERB, parts | {f"line {number}": body for number, body in lines.items()})


def redrawn_parts(stave: Stave, old: Mouths, new: Mouths, told: dict[str, str]) -> dict[str, Any]:
    """Return pins and stretches of a stave in the drawings of somebody else: those of the same name, else the nearest
    by shape, which are told."""

    def named(drawing: str) -> str:
        if drawing == NOTHING or new.has(drawing):
            return drawing
        nearest = new.by_shape(old.place_of(drawing))
        told[drawing] = nearest
        return nearest

    def shown(one: AnchoredStretch) -> AnchoredStretch:
        return replace(one, pieces=tuple(replace(piece, drawing=named(piece.drawing)) for piece in one.pieces))

    return {
        "pins": tuple(replace(pin, drawing=named(pin.drawing)) for pin in stave.pin_values),
        "stretches": tuple(shown(one) for one in stave.stretch_values),
    }


def _swap_acting(person: Person, acting: Acting, new: Character, found: Recast) -> None:
    """What parts of a face did, done by the parts of the same name or role of another."""
    held = edits.locked(person, acting)
    held.character = acting.character
    own, theirs = face_shown(acting.character).parts, face_shown(new).parts
    names = {part.name for part in theirs}
    by_role = {part.role: part.name for part in reversed(theirs) if part.role}
    roles = {part.name: part.role for part in own}
    gone: dict[str, Any] = {}
    parts: dict[str, Any] = {"phrases": held.phrases, "rate": held.rate, "seed": held.seed, "amount": held.amount}
    for name, lane in held.all_lanes().items():
        to = name if name in names else by_role.get(roles.get(name, ""))
        if to is None:
            found.lacking.append(name)
            continue
        kept = kept_lane(lane)
        parts |= {LANE + to: kept["body"], GESTURES + to: kept["gestures"]}
        gone |= {LANE + name: None, GESTURES + name: None}
    edits.change(person, held, _VERB, gone | {"phrases": {}})
    edits.change(person, edits.locked(person, acting_of(acting.scene, new)), _VERB, parts)


# Once more


@transaction.atomic
def copy_character(person: Person, character: Character, production: Production | None = None) -> Character:
    """Make another character like one: chart, face, poses and voice; in another production with a copy of the chart,
    and of the poses that are not there."""
    to = production or character.production
    check(person, character.production, "see" if production else "edit")
    check(person, to, "edit")
    hold(to)
    taken = set(to.characters.values_list("name", flat=True))
    wanted = character.name[: MAX_NAME_CHARACTERS - 5]
    made = Character.objects.get(pk=character.pk)
    made.pk, made._state.adding, made.production = None, True, to
    made.name = next(one for one in numbered(wanted) if one not in taken)
    made.place = max(to.characters.values_list("place", flat=True), default=0) + 1
    made.save(force_insert=True)
    _copy_face(character, made)
    worn = Worn.objects.filter(character=character).select_related("chart").first()
    if worn:
        chart = worn.chart if to.pk == character.production_id else copy_chart(person, worn.chart, to)
        Worn.objects.create(character=made, chart=chart, mood=worn.mood)
    for rows in (character.sound_rules, character.name_matches):
        for row in rows.all():
            row.pk, row._state.adding, row.character = None, True, made
            row.save(force_insert=True)
    if to.pk != character.production_id:
        there = set(to.poses.values_list("name", flat=True))
        for pose in character.production.poses.exclude(name__in=there):
            to.poses.create(name=pose.name, parts=pose.parts)
    return made


def _copy_face(character: Character, made: Character) -> None:
    for face in Face.objects.filter(character=character):
        parts, layers = list(face.parts.all()), list(face.layers.all())
        face.pk, face._state.adding, face.character = None, True, made
        face.save(force_insert=True)
        there = {}
        for part in parts:
            before = part.pk
            part.pk, part._state.adding, part.face = None, True, face
            part.save(force_insert=True)
            there[before] = part
        for layer in layers:
            part_of = there.get(layer.part_id or 0)
            layer.pk, layer._state.adding, layer.face, layer.part = None, True, face, part_of
            layer.save(force_insert=True)


# Elsewhere


@transaction.atomic
def copy_scene_to(
    person: Person, scene: Scene, production: Production, moved: bool = False, as_whom: Mapping[int, int] = {}
) -> Scene:
    """Put a copy of a scene into another production: its cast is matched by name, who is not there comes along with
    their chart; sounds are not copied on the disk. moved: the scene here is put away. as_whom: who of the scene speaks
    as whom there, by their numbers, 0 for coming along."""
    check(person, scene.production, "edit" if moved else "see")
    check(person, production, "edit")
    if production.pk == scene.production_id:
        raise TinForkError("The scene is in this production already; copy it on the board.")
    hold(production)
    edits.lock_scene(scene)
    name = free_scene_name(production, scene.name)
    made = create_scene(person, production, name, scene.rate, str(scene.start_frame))
    copy_documents(scene, made)
    cast = _cast_in(person, scene, production, as_whom)
    sounds = {one.pk: _sound_in(one, production) for one in _sounds_of(scene)}
    charts = {0: 0}

    def number(kind: str, was: int) -> int:
        known = {"characters": cast, "sounds": sounds, "charts": charts}.get(kind, {})
        return known.get(was, was if kind == "drawings" else 0)

    for kind in Document.__subclasses__():
        for document in kind.of_scene(made):
            _renumber(document, number)
    for stave in Stave.objects.filter(scene=made):
        _stave_elsewhere(person, stave, scene, cast[stave.character_id])
    for acting in Acting.objects.filter(scene=made):
        Acting.objects.filter(pk=acting.pk).update(character=cast[acting.character_id])
    for take in scene.takes.select_related("sound"):
        own = _sound_in(take.sound, production)
        made.takes.create(character_id=cast[take.character_id], sound_id=own, person_id=take.person_id, at=take.at)
    Edit.objects.filter(scene=made).delete()  # It begins as it is.
    if moved:
        Shot.objects.update_or_create(scene=scene, defaults={"archived": timezone.now()})
    return made


def _renumber(document: Any, number: Any) -> None:
    """A copied document with the numbers of where it is now."""
    area = document.area.split()[0]
    if area not in ("sound", "script"):
        return
    for name, value in renumbered(area, document.decided(document.EDITABLE), number).items():
        setattr(document, name, value)
    document.save()


def cast_of(scene: Scene) -> list[Character]:
    """Return everybody who has a part in a scene."""
    numbers = {track.character for track in arrangement_of(scene).value.tracks}
    numbers |= {line.character for script in Script.objects.filter(scene=scene) for line in script.value.lines}
    numbers |= {mark.character for mark in arrangement_of(scene).kept_marks.marks}
    numbers |= set(scene.staves.values_list("character", flat=True)) | set(
        scene.takes.values_list("character", flat=True)
    )
    numbers |= set(Acting.objects.filter(scene=scene).values_list("character", flat=True))
    return list(Character.everything.filter(pk__in=[one for one in numbers if one]))


def _cast_in(person: Person, scene: Scene, production: Production, as_whom: Mapping[int, int]) -> dict[int, int]:
    """Of everybody who has a part in a scene, who speaks for them in another production: who was chosen, else the one
    of their name, made if need be. TinForkError where two would be one."""
    own = {one.pk: one for one in production.characters.all()}
    names = {one.name: one.pk for one in own.values()}
    cast: dict[int, int] = {}
    for character in cast_of(scene):
        wanted = as_whom.get(character.pk, names.get(character.name, 0))
        cast[character.pk] = wanted if wanted in own else copy_character(person, character, production).pk
    if len(set(cast.values())) < len(cast):
        raise TinForkError("Two of this scene cannot be one there; choose somebody else for one of them.")
    return cast


def _sounds_of(scene: Scene) -> Iterable[SoundFile]:
    return SoundFile.objects.filter(pk__in={clip.sound for clip in arrangement_of(scene).value.clips})


def _sound_in(sound: SoundFile, production: Production) -> int:
    """A sound in another production, on the same files."""
    known = production.sounds.filter(sha256=sound.sha256).first()
    if known:
        return known.pk
    copies = list(sound.copies.all())
    own = SoundFile.objects.get(pk=sound.pk)
    own.pk, own._state.adding, own.production = None, True, production
    own.save(force_insert=True)
    for copy in copies:
        copy.pk, copy._state.adding, copy.sound = None, True, own
        copy.save(force_insert=True)
    return int(own.pk)


def _stave_elsewhere(person: Person, stave: Stave, scene: Scene, character: int) -> None:
    """A copied stave in the drawings of who speaks it there; planned anew where these are others."""
    before = mouths_of(scene.staves.select_related("character").get(character=stave.character_id))
    Stave.objects.filter(pk=stave.pk).update(character=character)
    own = Stave.objects.select_related("character", "scene__production").get(pk=stave.pk)
    moods = [replace(one, chart=0) for one in own.mood_values]
    parts: dict[str, Any] = {"basis": basis_now(own.character), "rules": rules_now(own.character), "moods": moods}
    held = edits.locked(person, own)
    edits.change(person, held, _VERB, parts | redrawn_parts(held, before, mouths_of(own), {}))
