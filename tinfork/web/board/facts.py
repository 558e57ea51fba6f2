"""What a board says of scenes, found out once for each version of a scene and kept: a thousand cost no more than
reading a thousand rows."""

import time
from collections.abc import Collection, Iterable, Sequence
from typing import Any, TypeAlias

from msgspec import Struct, convert, to_builtins

from tinfork.core.script.casting import cast_lines
from tinfork.core.script.lines import Script
from tinfork.core.sound.arrangement import Arrangement
from tinfork.core.speech.words import spoken_part
from tinfork.web.edits.history import versions_in
from tinfork.web.productions.models import Production, Scene
from tinfork.web.script.models import Script as ScriptDocument
from tinfork.web.sound.models import Arrangement as ArrangementDocument
from tinfork.web.staves.models import ReadLine, Stave
from tinfork.web.tracks.checking import looks_wrong

from .models import ShotFacts

Versions: TypeAlias = dict[str, int]

_SECONDS_LOOKED = 1.0
"""After so long a request that looks for open checks answers with what it has."""


class DrawnClip(Struct, frozen=True):
    """A clip as a thumbnail draws its wave; frames."""

    sound: int
    channel: int
    start: int
    offset: int
    frames: int


class Facts(Struct, frozen=True):
    """frames: how long the scene is; sound, words, read: whether there is any; unread: how many lines that sound is
    heard for are not read; speakers: the numbers of the characters who are heard."""

    frames: int = 0
    sound: bool = False
    words: bool = False
    read: bool = False
    unread: int = 0
    speakers: list[int] = []
    clips: list[DrawnClip] = []


def known_facts(scenes: Sequence[Scene]) -> dict[int, tuple[Facts, int | None, Versions]]:
    """Return of each scene, by its number: its facts, how many tracks have open checks (None: not looked at), and the
    versions of its documents."""
    now = versions_in([scene.pk for scene in scenes])
    kept = {one.scene_id: one for one in ShotFacts.objects.filter(scene__in=now)}
    old = [scene for scene in scenes if scene.pk not in kept or kept[scene.pk].of != now[scene.pk]]
    kept |= {one.scene_id: one for one in _found_out(old, now)}
    return {pk: (convert(kept[pk].found, Facts), kept[pk].wrong, now[pk]) for pk in now}


def _found_out(scenes: Collection[Scene], now: dict[int, Versions]) -> list[ShotFacts]:
    """Find out about scenes, in as many questions whatever their number, and keep it."""
    if not scenes:
        return []
    arrangements = {one.scene_id: one.value for one in ArrangementDocument.objects.filter(scene__in=scenes)}
    scripts = {one.scene_id: one.value for one in ScriptDocument.objects.filter(scene__in=scenes)}
    read: dict[int, set[int]] = {}
    for number, line in ReadLine.objects.filter(stave__scene__in=scenes).values_list("stave__scene", "line"):
        read.setdefault(number, set()).add(line)
    made = []
    for scene in scenes:
        own = arrangements.get(scene.pk, Arrangement()), scripts.get(scene.pk, Script()), read.get(scene.pk, set())
        made.append(ShotFacts(scene=scene, of=now[scene.pk], found=to_builtins(facts_of(*own))))
    return ShotFacts.objects.bulk_create(
        made, update_conflicts=True, unique_fields=["scene"], update_fields=["of", "found", "wrong"]
    )


def facts_of(arrangement: Arrangement, script: Script, read: Collection[int]) -> Facts:
    """Return what there is of a scene. read: the lines of its script that are read."""
    tracks = [track for track in arrangement.tracks if track.is_read and track.clips]
    without = {line.id for line in cast_lines(arrangement, script).without_sound} if script.lines else set()
    spoken = {line.id for line in script.lines if spoken_part(line.text).strip()} - without
    return Facts(
        frames=arrangement.frames if arrangement.clips else 0,
        sound=bool(tracks),
        words=bool(script.lines or read),
        read=bool(read),
        unread=len(spoken - set(read)),
        speakers=sorted(_speakers(arrangement, script)),
        clips=[DrawnClip(c.sound, c.channel, c.start, c.offset, c.frames) for t in tracks for c in t.clips],
    )


def _speakers(arrangement: Arrangement, script: Script) -> set[int]:
    named = (track.character for track in arrangement.tracks if track.clips)
    written = (line.character for line in script.lines)
    return {one for one in (*named, *written) if one is not None}


def look_for_checks(production: Production) -> list[int]:
    """Look which tracks have open checks, where that is not known, for about a second; the scenes that were looked at.
    Those that are not read, or not to the end, are not looked at."""
    begun, done = time.monotonic(), []
    known_facts(list(production.scenes.all()))
    for facts in _to_look_at(production.scenes.all()):
        staves = Stave.objects.filter(scene=facts.scene_id).only("where", "version", "scene", "about", "pins")
        facts.wrong = sum(looks_wrong(stave, look=True) or stave.has_unwritten for stave in staves if stave.has_mouths)
        facts.save(update_fields=["wrong"])
        done.append(facts.scene_id)
        if time.monotonic() - begun > _SECONDS_LOOKED:
            break
    return done


def _to_look_at(scenes: Iterable[Scene]) -> Iterable[ShotFacts]:
    kept = ShotFacts.objects.filter(scene__in=scenes, wrong=None, found__read=True, found__unread=0)
    now: dict[int, Versions] = versions_in(kept.values_list("scene", flat=True))
    return (one for one in kept.order_by("scene__place") if one.of == now[one.scene_id])


def drawn(clips: Iterable[DrawnClip], addresses: dict[tuple[int, int], str]) -> list[dict[str, Any]]:
    """Return clips as a thumbnail draws them. addresses: of the peaks of sounds and channels."""
    found = []
    for clip in clips:
        peaks = addresses.get((clip.sound, clip.channel))
        if peaks:
            found.append({"start": clip.start, "offset": clip.offset, "frames": clip.frames, "peaks": peaks})
    return found
