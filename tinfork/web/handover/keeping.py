"""A shot as it is seen and heard, kept exactly: what is drawn of everybody, and where their sounds lie."""

import hashlib
import zlib
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeAlias

import msgspec
from msgspec import Struct

from tinfork.core.plain import plain, restore
from tinfork.core.shot.shot import Role
from tinfork.core.sound.arrangement import Arrangement
from tinfork.web.acting.models import Acting
from tinfork.web.charts.models import ChartDrawing, Worn
from tinfork.web.faces.models import Face, FaceLayer, FacePart
from tinfork.web.productions.models import Character, Scene
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement as ArrangementDocument
from tinfork.web.staves.models import Stave
from tinfork.web.staves.placing import Placed
from tinfork.web.staves.planning import planned

from .roles import role_of, staves_of
from .wishes import Wish, chosen, version_of

Versions: TypeAlias = dict[str, int | str]

_LOOKS = "look "
"""How versions call what a character looks like, before their number."""


class Kept(Struct, frozen=True):
    """roles: everybody whose mouths do anything, with the numbers of their characters; arrangement: of the sound."""

    roles: list[Role]
    characters: list[int]
    arrangement: Arrangement


@dataclass(frozen=True)
class Material:
    """What of a scene is handed over. roles, characters, arrangement: see Kept; of: the versions of its documents."""

    roles: Sequence[Role]
    characters: Sequence[int]
    arrangement: Arrangement
    of: Versions

    def of_some(self, characters: Collection[int]) -> "Material":
        """Return it with some of its characters alone."""
        chosen = [at for at, number in enumerate(self.characters) if number in characters]
        return replace(self, roles=[self.roles[at] for at in chosen], characters=[self.characters[at] for at in chosen])


def material_now(placed: Sequence[Placed]) -> Material:
    """Return some staves of a scene as they are now."""
    arrangement = placed[0].arrangement
    characters = [one.stave.character_id for one in placed]
    of: Versions = {arrangement.area: arrangement.version}
    of |= {one.stave.area: one.stave.version for one in placed}
    actings = Acting.objects.filter(scene=placed[0].stave.scene, character__in=characters)
    of |= {one.area: one.version for one in actings}
    return Material([role_of(one) for one in placed], characters, arrangement.value, of)


def material_of(wish: Wish, scene: Scene) -> Material:
    """Return what is handed over of a scene: of a version of it where one is wished for. HandoverError where that is
    gone, or nobody has a mouth track."""
    if not wish.version:
        return material_now([planned(stave) for stave in chosen(wish, scene)])
    version = version_of(wish, scene)
    kept = kept_in(version.kept)
    of = {area: number for area, number in version.of.items() if not area.startswith(_LOOKS)}
    whole = Material(kept.roles, kept.characters, kept.arrangement, of)
    return whole.of_some(wish.characters or kept.characters)


def keep(scene: Scene) -> Kept:
    """Return a shot as it is now, to be kept."""
    staves = staves_of(scene)
    return Kept(
        [role_of(planned(stave)) for stave in staves],
        [stave.character_id for stave in staves],
        arrangement_of(scene).value,
    )


def packed(kept: Kept) -> bytes:
    """Return a shot as a version keeps it."""
    return zlib.compress(msgspec.json.encode(plain(kept)), 6)


def kept_in(found: "bytes | memoryview[int]") -> Kept:
    """Return a shot that was kept."""
    return restore(msgspec.json.decode(zlib.decompress(found)), Kept)


def versions_now(scenes: Iterable[Scene]) -> dict[int, Versions]:
    """Return of each scene, by its number, the versions of all that is seen and heard of it; in as many questions to
    the database whatever their number."""
    known = list(scenes)
    found: dict[int, Versions] = {scene.pk: {} for scene in known}
    speaks: dict[int, set[int]] = {scene.pk: set() for scene in known}
    for one in ArrangementDocument.objects.filter(scene__in=known).only("pk", "scene", "version"):
        found[one.scene_id][one.area] = one.version
    for kind in (Stave, Acting):
        for document in kind.objects.filter(scene__in=known).only("pk", "scene", "version", "character"):
            found[document.scene_id][document.area] = document.version
            speaks[document.scene_id].add(document.character_id)
    looks = looks_of({character for who in speaks.values() for character in who})
    for number, who in speaks.items():
        found[number] |= {f"{_LOOKS}{character}": looks[character] for character in who}
    return found


_SEEN = {
    Face: ("x", "y", "size", "turn", "views"),
    FacePart: ("pk", "name", "number", "x", "y", "on", "role", "rest"),
    FaceLayer: (
        *("picture", "number", "x", "y", "scale", "turn", "in_front", "hidden", "part", "switched", "removed"),
        *("view", "depth", "also", "each", "once"),
    ),
}
_DRAWN = ("name", "mood", "picture", "x", "y", "scale", "turn", "removed", "also", "each", "once")
_LOOK = ("form", "skin", "trim", "lip")


def looks_of(characters: Iterable[int]) -> dict[int, str]:
    """Return of characters, by their numbers, a sum of all they look like: another where anything of it changes."""
    numbers = sorted(set(characters))
    told: dict[int, list[Any]] = {number: [] for number in numbers}
    for number, *rest in Character.everything.filter(pk__in=numbers).values_list("pk", *_LOOK):
        told[number].append(rest)
    for kind, fields in _SEEN.items():
        of = "character" if kind is Face else "face__character"
        manager = getattr(kind, "everything", kind._default_manager)
        for number, *rest in manager.filter(**{f"{of}__in": numbers}).order_by("pk").values_list(of, *fields):
            told[number].append([kind.__name__, *map(str, rest)])
    worn = dict(Worn.objects.filter(character__in=numbers).values_list("character", "chart"))
    moods = dict(Worn.objects.filter(character__in=numbers).values_list("character", "mood"))
    drawn: dict[int, list[Any]] = {}
    drawings = ChartDrawing.everything.filter(chart__in=set(worn.values())).order_by("pk")
    for chart, *rest in drawings.values_list("chart", *_DRAWN):
        drawn.setdefault(chart, []).append([*map(str, rest)])
    for number, chart in worn.items():
        told[number].append([chart, moods[number], drawn.get(chart, [])])
    return {number: hashlib.sha256(msgspec.json.encode(own)).hexdigest()[:16] for number, own in told.items()}
