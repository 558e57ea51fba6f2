"""A shot as it is seen and heard, kept exactly: what is drawn of everybody, and where their sounds lie."""

import hashlib
import zlib
from collections.abc import Iterable
from typing import Any, TypeAlias

import msgspec
from msgspec import Struct

from tinfork.core.plain import plain, restore
from tinfork.core.shot.shot import Role
from tinfork.core.sound.arrangement import Arrangement
from tinfork.web.acting.models import Acting
from tinfork.web.charts.models import ChartDrawing, Worn
from tinfork.web.faces.models import Face, FaceLayer, FacePart
from tinfork.web.handover.rendering import role_of
from tinfork.web.handover.wishes import staves_of
from tinfork.web.productions.models import Character, Scene
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement as ArrangementDocument
from tinfork.web.staves.models import Stave
from tinfork.web.staves.planning import planned

Versions: TypeAlias = dict[str, int | str]


class Kept(Struct, frozen=True):
    """roles: everybody whose mouths do anything, with the numbers of their characters; arrangement: of the sound."""

    roles: list[Role]
    characters: list[int]
    arrangement: Arrangement


def keep(scene: Scene) -> bytes:
    """Return a shot as it is now, packed."""
    staves = staves_of(scene)
    kept = Kept(
        [role_of(planned(stave)) for stave in staves],
        [stave.character_id for stave in staves],
        arrangement_of(scene).value,
    )
    return zlib.compress(msgspec.json.encode(plain(kept)), 6)


def kept_in(packed: "bytes | memoryview[int]") -> Kept:
    """Return a shot that was kept."""
    return restore(msgspec.json.decode(zlib.decompress(packed)), Kept)


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
        found[number] |= {f"look {character}": looks[character] for character in who}
    return found


_SEEN = {
    Face: ("x", "y", "size", "turn"),
    FacePart: ("pk", "name", "number", "x", "y", "on", "role", "rest"),
    FaceLayer: ("picture", "number", "x", "y", "scale", "turn", "in_front", "hidden", "part", "switched", "removed"),
}
_DRAWN = ("name", "mood", "picture", "x", "y", "scale", "turn", "removed")
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
