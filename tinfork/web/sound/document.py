"""What the Sound view draws, made of plain values."""

from collections.abc import Iterable
from typing import Any

from django.urls import reverse

from tinfork.core.plain import plain
from tinfork.core.script import marks
from tinfork.core.sound.arrangement import Clip
from tinfork.core.sound.quality import good_enough
from tinfork.core.speech import scratch
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Production, Scene

from .models import Arrangement, SoundFile, Take


def time_base(scene: Scene) -> dict[str, Any]:
    """Return the scene's rate and first frame number."""
    fps = scene.fps
    return {
        "id": scene.pk,
        "name": scene.name,
        "rate": {"text": scene.rate, "numerator": fps.numerator, "denominator": fps.denominator},
        "startFrame": scene.start_frame,
    }


def sound_document(document: Arrangement) -> dict[str, Any]:
    """Return the arrangement as it is now, with all that may be done to it."""
    value = document.value
    sounds = SoundFile.objects.in_bulk({clip.sound for clip in value.clips})
    return {
        "version": document.version,
        "frames": value.frames,
        "length": value.length,
        "tracks": [
            {
                "id": track.id,
                "kind": track.kind,
                "name": track.name,
                "character": track.character,
                "muted": track.muted,
                "solo": track.solo,
                "gain": track.gain,
                "clips": [clip_document(clip, sounds[clip.sound]) for clip in track.clips],
            }
            for track in value.tracks
        ],
        "sounds": {pk: described(sound) for pk, sound in sounds.items()},
        "marks": plain(document.the_marks.marks),
        "overlaps": marks.overlaps(document.the_marks),
        "takes": [_take(take) for take in document.scene.takes.select_related("character", "sound")],
        **document.steps,
    }


def clip_document(clip: Clip, sound: SoundFile) -> dict[str, Any]:
    """Return a clip with the addresses of what is heard and drawn of it."""
    return {
        "id": clip.id,
        "sound": clip.sound,
        "source": clip.source_id,
        "start": clip.start,
        "offset": clip.offset,
        "frames": clip.frames,
        "whole": clip.whole,
        "gain": clip.gain,
        "channel": clip.channel,
        "name": sound.name,
        **addresses(sound, clip.channel),
    }


def addresses(sound: SoundFile, channel: int = -1) -> dict[str, str]:
    """Return where the listening copy and the peaks of a channel are."""
    name = "mix" if channel < 0 else str(channel)
    return {
        "listen": reverse("sound-listen", args=[sound.pk, name]),
        "peaks": reverse("sound-peaks", args=[sound.pk, name]),
    }


def described(sound: SoundFile) -> dict[str, Any]:
    """Return what is known of a sound file."""
    job = Job.objects.filter(kind="reel", subject=sound.pk).first() if sound.has_picture and not sound.reel else None
    return {
        "name": sound.name,
        "seconds": sound.seconds,
        "rate": sound.rate,
        "channels": sound.channels,
        "notes": sound.notes,
        "findings": sound.findings,
        "original": reverse("sound-original", args=[sound.pk]),
        "reel": reverse("sound-reel", args=[sound.pk]) if sound.reel else None,
        "reelState": job.state if job else "",
    }


def _take(take: Take) -> dict[str, Any]:
    return {
        "id": take.pk,
        "character": take.character.name,
        "characterId": take.character_id,
        "seconds": take.sound.seconds,
        "at": take.at,
        "kept": take.kept,
        "grave": not good_enough(take.sound.findings),
        **addresses(take.sound),
    }


def cast_document(production: Production) -> list[dict[str, Any]]:
    """Return the cast in order, each with the key that stands for them."""
    return [
        {
            "id": character.pk,
            "name": character.name,
            "key": str(number) if number <= 9 else "",
            "colour": character.trim,
            "language": character.language or production.language,
        }
        for number, character in enumerate(production.characters.all(), 1)
    ]


def voices_document(languages: Iterable[str]) -> dict[str, list[list[str]]]:
    """Return for each language the synthesised voices that speak it: code and name."""
    return {code: [[v.code, v.name] for v in scratch.voices(code)] for code in set(languages)}
