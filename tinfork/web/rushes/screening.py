"""Shots watched one after another: where each lies in time and what is heard of it; and what is seen of one, asked for
when its turn comes."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from django.db.models import QuerySet
from django.urls import reverse

from tinfork.core.sound.arrangement import Arrangement, Clip, heard_tracks
from tinfork.web.handover.keeping import keep, kept_in
from tinfork.web.handover.models import Version
from tinfork.web.productions.models import Production, Scene
from tinfork.web.shots.changing import in_film_order
from tinfork.web.shots.models import Shot
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.document import addresses, time_base
from tinfork.web.sound.models import Arrangement as ArrangementDocument
from tinfork.web.sound.models import SoundFile

from .reviewing import role_document

MOST_SHOTS = 300
"""So many shots are watched in one go."""


@dataclass(frozen=True)
class Addresses:
    """Where whoever watches finds a shot's picture and its notes, and a sound's listening copy, peaks and film."""

    seen: Callable[[Scene], str]
    notes: Callable[[Scene], str]
    sound: Callable[[Scene, SoundFile, int], dict[str, str]]
    film: Callable[[Scene, SoundFile], str]


MEMBERS = Addresses(
    seen=lambda scene: reverse("rushes-seen", args=[scene.pk]),
    notes=lambda scene: reverse("rushes", args=[scene.pk]),
    sound=lambda _, sound, channel: addresses(sound, channel),
    film=lambda _, sound: reverse("sound-reel", args=[sound.pk]),
)
"""Of those who belong to the production."""


def chosen_shots(production: Production, sequence: int | None, shots: Iterable[int]) -> list[Scene]:
    """Return the shots of a sequence, or of these numbers, in their order; of the whole film where neither is given;
    one more than are watched in one go where there are more."""
    own = production.scenes.filter(shot__archived=None).select_related("production")
    wanted = list(shots)
    if sequence is not None:
        own = own.filter(shot__sequence=sequence)
    elif wanted:
        own = own.filter(pk__in=wanted)
    return first_shots(own)


def first_shots(scenes: "QuerySet[Scene]") -> list[Scene]:
    """Return scenes in the film's order, one more than are watched in one go where there are more."""
    return list(in_film_order(scenes)[: MOST_SHOTS + 1])


def screened(scenes: list[Scene], document: dict[str, Any], where: Addresses, shown: bool = False) -> dict[str, Any]:
    """Return what the page of a screening needs of shots (first_shots): as many as are watched in one go, and that
    there are more. document: what else the page's code is given; shown: see strip."""
    seen = scenes[:MOST_SHOTS]
    most = MOST_SHOTS if len(scenes) > MOST_SHOTS else 0
    return {"shots": seen, "most": most, "document": document | {"shots": strip(seen, where, shown)}}


def strip(scenes: Sequence[Scene], where: Addresses, shown: bool = False) -> list[dict[str, Any]]:
    """Return shots as a page lays them one after another. shown: as the newest version of each was shown, where one
    was, and not as it is now."""
    versions = newest_versions(scenes) if shown else {}
    numbers = dict(Shot.objects.filter(scene__in=scenes).values_list("scene", "number"))
    found = {one.scene_id: one.value for one in ArrangementDocument.objects.filter(scene__in=scenes)}
    found |= {pk: kept_in(one.kept).arrangement for pk, one in versions.items()}
    sounds = SoundFile.objects.in_bulk({clip.sound for one in found.values() for clip in one.clips})
    return [
        {
            **time_base(versions[scene.pk].scene_then(scene) if scene.pk in versions else scene),
            "number": numbers.get(scene.pk, ""),
            "version": versions[scene.pk].number if scene.pk in versions else 0,
            **_sounds_of(scene, found.get(scene.pk, Arrangement()), sounds, where),
            "seenUrl": where.seen(scene),
            "notesUrl": where.notes(scene),
        }
        for scene in scenes
    ]


def newest_versions(scenes: Iterable[Scene]) -> dict[int, Version]:
    """Return the newest version of each scene that was shown for review."""
    own = Version.objects.filter(scene__in=list(scenes)).order_by("scene_id", "-number").distinct("scene_id")
    return {one.scene_id: one for one in own}


def _sounds_of(
    scene: Scene, arrangement: Arrangement, sounds: dict[int, SoundFile], where: Addresses
) -> dict[str, Any]:
    """What is heard, and which films lie beside it."""
    tracks = heard_tracks(arrangement)
    heard = [(track, clip) for track in tracks for clip in track.clips if clip.sound in sounds]
    filmed = [clip for clip in arrangement.clips if clip.sound in sounds and sounds[clip.sound].reel]
    return {
        "frames": arrangement.frames,
        "clips": [
            where.sound(scene, sounds[clip.sound], clip.channel) | _lies(clip) | {"gain": clip.gain + track.gain}
            for track, clip in heard
        ],
        "films": [{"url": where.film(scene, sounds[clip.sound])} | _lies(clip) for clip in filmed],
    }


def _lies(clip: Clip) -> dict[str, Any]:
    return {"start": clip.start, "offset": clip.offset, "frames": clip.frames, "whole": clip.whole}


def watched_arrangement(scene: Scene, shown: bool) -> Arrangement:
    """Return how the sounds of a shot lie, as strip lays them."""
    version = newest_versions([scene]).get(scene.pk) if shown else None
    return kept_in(version.kept).arrangement if version else arrangement_of(scene).value


def seen_of(scene: Scene, shown: bool = False) -> dict[str, Any]:
    """Return what is seen of a shot: of everybody their face with the drawings that are used, and what is seen on which
    frames. shown: see strip."""
    version = newest_versions([scene]).get(scene.pk) if shown else None
    kept = kept_in(version.kept) if version else keep(scene)
    return {"version": version.number if version else 0, "roles": [role_document(role) for role in kept.roles]}
