"""What people do to a scene's arrangement. Each action is one on one version, undoable; see tinfork.web.edits."""

from collections.abc import Callable, Iterable, Sequence
from typing import Any

from django.db import transaction

from tinfork.core.errors import SoundError
from tinfork.core.plain import plain
from tinfork.core.script import marks
from tinfork.core.script.casting import clips_of, own_clips
from tinfork.core.sound import arrangement as core
from tinfork.core.sound import mix, voices
from tinfork.core.timebase import frame_count
from tinfork.web.edits import actions as edits
from tinfork.web.productions.actions import check_in_cast
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import Person, check

from .actions import channel_copy
from .listening import open_sounds
from .models import Arrangement, SoundFile, Take


def arrangement_of(scene: Scene) -> Arrangement:
    """The scene's arrangement, made empty if need be."""
    empty = {"body": plain(core.Arrangement()), "marks": plain(marks.Marks())}
    found = Arrangement.objects.get_or_create(scene=scene, defaults=empty)[0]
    found.scene = scene
    return found


@transaction.atomic
def _change(
    person: Person,
    document: Arrangement,
    version: int | None,
    verb: str,
    do: Callable[[core.Arrangement], core.Arrangement],
) -> Arrangement:
    held = edits.locked(person, document, version)
    return edits.change(person, held, verb, {"body": do(held.value)})


@transaction.atomic
def place_sound(
    person: Person,
    document: Arrangement,
    sound: SoundFile,
    start: int | None,
    character: Character | None = None,
    track: int | None = None,
    version: int | None = None,
) -> Arrangement:
    """Place a sound on a track, or on a character's own, made if need be, from a scene frame on; None: at the end."""
    scene = document.scene
    if sound.production_id != scene.production_id:
        raise SoundError("This sound belongs to another production.")
    if character and character.production_id != scene.production_id:
        raise SoundError("This character belongs to another production.")
    whole = frame_count(sound.seconds, scene.fps)

    def do(value: core.Arrangement) -> core.Arrangement:
        value, number = _track_for(value, character, track)
        clips = value.track(number).clips
        return core.place(
            value, number, sound.pk, whole, max((c.end for c in clips), default=0) if start is None else start
        )

    return _change(person, document, version, "place", do)


def place_part(person: Person, document: Arrangement, sound: SoundFile, start: int, frames: int) -> Arrangement:
    """Place a part of a sound, from a frame of it on, in an empty scene, which is as long as it."""
    whole = frame_count(sound.seconds, document.scene.fps)

    def do(value: core.Arrangement) -> core.Arrangement:
        value, track = _track_for(value, None, None)
        number = value.next
        placed = core.place(value, track, sound.pk, whole, -start)
        return core.set_length(core.trim(placed, number, 0, frames), frames)

    return _change(person, document, None, "place", do)


def place_parts(
    person: Person, document: Arrangement, parts: Sequence[tuple[SoundFile, Character | None, int, int, int]]
) -> Arrangement:
    """Place parts of sounds, each on its character's own track or the shared one: of which sound, whose, from which of
    its frames up to, not including, which, and the scene frame it is heard from. In one step."""

    def do(value: core.Arrangement) -> core.Arrangement:
        for sound, character, first, end, at in parts:
            value, track = _track_for(value, character, None)
            number = value.next
            value = core.place(value, track, sound.pk, frame_count(sound.seconds, document.scene.fps), at - first)
            value = core.trim(value, number, at, at + end - first)
        return value

    return _change(person, document, None, "place", do)


def _track_for(value: core.Arrangement, character: Character | None, track: int | None) -> tuple[core.Arrangement, int]:
    if track is not None:
        return value, value.track(track).id
    kind, who = (core.DIALOGUE, character.pk) if character else (core.SHARED, None)
    known = next((t.id for t in value.tracks if t.kind == kind and t.character == who), None)
    if known is not None:
        return value, known
    made = core.add_track(value, kind, character.name if character else "Everybody", who)
    return made, made.tracks[-1].id


def slide(person: Person, document: Arrangement, version: int, clips: list[int], by: int, ripple: bool) -> Arrangement:
    """Move clips by frames, together; with ripple, all that comes after moves along."""
    return _change(person, document, version, "slide", lambda value: core.slide(value, clips, by, ripple))


def to_track(person: Person, document: Arrangement, version: int, clip: int, track: int) -> Arrangement:
    """Move a clip to another track."""
    return _change(person, document, version, "move", lambda value: core.move_to_track(value, clip, track))


def trim(person: Person, document: Arrangement, version: int, clip: int, first: int, end: int) -> Arrangement:
    """Let a clip be heard from one scene frame up to another."""
    return _change(person, document, version, "trim", lambda value: core.trim(value, clip, first, end))


def split(person: Person, document: Arrangement, version: int, clips: list[int], frame: int) -> Arrangement:
    """Cut clips in two at a frame."""
    return _change(person, document, version, "split", lambda value: core.split(value, clips, frame))


def delete(person: Person, document: Arrangement, version: int, clips: list[int], ripple: bool) -> Arrangement:
    """Take clips away; with ripple, what comes later closes up."""
    return _change(person, document, version, "delete", lambda value: core.delete(value, clips, ripple))


def cut_out(
    person: Person,
    document: Arrangement,
    version: int | None,
    first: int,
    end: int,
    tracks: list[int] | None,
    ripple: bool,
) -> Arrangement:
    """Take a stretch away from some tracks, or all."""
    return _change(person, document, version, "cut out", lambda v: core.cut_out(v, first, end, tracks, ripple))


def open_gap(
    person: Person, document: Arrangement, version: int, frame: int, frames: int, tracks: list[int] | None
) -> Arrangement:
    """Move all that comes after a frame later, cutting what lies across it."""
    return _change(
        person, document, version, "open a gap", lambda v: core.shift_after(v, frame, frames, tracks, split_across=True)
    )


def set_gain(person: Person, document: Arrangement, version: int, clip: int, gain: float) -> Arrangement:
    """Set a clip's gain in dB."""
    return _change(person, document, version, "gain", lambda value: core.set_clip(value, clip, gain=gain))


@transaction.atomic
def set_channel(person: Person, document: Arrangement, version: int, clip: int, channel: int) -> Arrangement:
    """Choose one of a clip's channels, or their mix."""
    check(person, document.scene.production, "edit")
    sound = SoundFile.objects.get(pk=document.value.clip(clip).sound)
    channel_copy(sound, channel)
    return _change(person, document, version, "channel", lambda value: core.set_clip(value, clip, channel=channel))


def add_track(
    person: Person, document: Arrangement, version: int, kind: str, name: str, character: int | None
) -> Arrangement:
    """Add an empty track."""
    if character is not None:
        check_in_cast(document.scene.production, character)
    return _change(person, document, version, "add a track", lambda v: core.add_track(v, kind, name, character))


def remove_track(person: Person, document: Arrangement, version: int, track: int) -> Arrangement:
    """Take a track away with what lies on it."""
    return _change(person, document, version, "remove a track", lambda value: core.remove_track(value, track))


def set_track(
    person: Person,
    document: Arrangement,
    version: int,
    track: int,
    muted: bool | None,
    solo: bool | None,
    gain: float | None,
    name: str | None,
) -> Arrangement:
    """Mute a track, set it solo, set its gain in dB, or name it."""
    asked = {"muted": muted, "solo": solo, "gain": gain, "name": name}
    changed = {key: value for key, value in asked.items() if value is not None}
    return _change(person, document, version, "set a track", lambda value: core.set_track(value, track, **changed))


def set_length(person: Person, document: Arrangement, version: int | None, frames: int | None) -> Arrangement:
    """Set the scene's length in frames, or let it follow the sound."""
    return _change(person, document, version, "length", lambda value: core.set_length(value, frames))


@transaction.atomic
def keep_take(person: Person, document: Arrangement, version: int, take: int, start: int | None) -> dict[str, str]:
    """Place a take on its character's track, where that is free at or after the start; it is the one that was kept. A
    sentence where it had to go elsewhere."""
    found = Take.objects.select_related("character", "sound").filter(scene=document.scene, pk=take).first()
    if found is None:
        raise SoundError("This take is gone; reload the page.")
    scene = document.scene
    free = start
    if start is not None:
        clips = own_clips(document.value, found.character_id)
        free = core.free_from(clips, start, frame_count(found.sound.seconds, scene.fps))
    place_sound(person, document, found.sound, free, found.character, None, version)
    found.kept = True
    found.save(update_fields=["kept"])
    if free == start or free is None:
        return {}
    return {
        "done": f"Placed at frame {free + scene.start_frame}, as other sound of {found.character} lies before that."
    }


_marks_followed: list[Callable[[Person, Scene], list[str]]] = []


def follow_marks(told: Callable[[Person, Scene], list[str]]) -> None:
    """Be told whenever somebody marks who speaks; told: does what follows, and returns what there is to say of it."""
    _marks_followed.append(told)


@transaction.atomic
def mark_pass(
    person: Person,
    document: Arrangement,
    version: int,
    character: int,
    held: list[tuple[float, float]],
    first: float,
    end: float,
) -> Arrangement:
    """Take a live pass: stretches a character's key was held while the scene played from first to end, in seconds."""
    document = edits.locked(person, document, version)
    check_in_cast(document.scene.production, character)
    spans = marks.from_pass(held, speech_in(document))
    after = marks.add_pass(document.the_marks, character, spans, (first, end))
    return _mark(person, document, "live pass", after)


@transaction.atomic
def add_mark(
    person: Person, document: Arrangement, version: int, character: int, start: float, end: float
) -> Arrangement:
    """Mark a character as speaking, in seconds."""
    document = edits.locked(person, document, version)
    check_in_cast(document.scene.production, character)
    return _mark(person, document, "mark who speaks", marks.add(document.the_marks, character, start, end))


@transaction.atomic
def give_mark(person: Person, document: Arrangement, version: int, mark: int, character: int) -> Arrangement:
    """Say that somebody else speaks where a mark lies."""
    document = edits.locked(person, document, version)
    check_in_cast(document.scene.production, character)
    return _mark(person, document, "another speaks", marks.give(document.the_marks, mark, character))


@transaction.atomic
def move_mark(person: Person, document: Arrangement, version: int, mark: int, start: float, end: float) -> Arrangement:
    """Set a mark's edges, in seconds."""
    document = edits.locked(person, document, version)
    return _mark(person, document, "move a mark", marks.change(document.the_marks, mark, start, end))


@transaction.atomic
def remove_mark(person: Person, document: Arrangement, version: int, mark: int) -> Arrangement:
    """Take a mark away."""
    document = edits.locked(person, document, version)
    return _mark(person, document, "remove a mark", marks.remove(document.the_marks, mark))


def _mark(person: Person, document: Arrangement, verb: str, after: marks.Marks) -> Arrangement:
    """Set the marks that are seen in the scene; they are kept in the time of the sounds they lie on."""
    value = document.value
    kept = marks.with_changes(
        document.kept_marks,
        document.the_marks,
        after,
        lambda character: clips_of(value, character),
        float(document.scene.fps),
    )
    with edits.one_step():
        changed = edits.change(person, document, verb, {"marks": kept})
        changed.remarks = tuple(sentence for told in _marks_followed for sentence in told(person, document.scene))
    return changed


def pieces_of(
    clips: Iterable[core.Clip], scene: Scene, path_of: Callable[[SoundFile, int], Any], gain: float = 0.0
) -> list[mix.SoundPiece]:
    """Clips as the mixer takes them. path_of: the path of a sound's channel; gain: the track's, in dB."""
    clips = list(clips)
    sounds = SoundFile.objects.in_bulk({clip.sound for clip in clips})
    fps = float(scene.fps)
    return [
        mix.SoundPiece(
            path_of(sounds[c.sound], c.channel),
            c.start / fps,
            c.offset / fps,
            c.frames / fps,
            10 ** ((c.gain + gain) / 20),
        )
        for c in clips
    ]


def filmed(document: Arrangement) -> list[tuple[core.Clip, SoundFile]]:
    """The clips whose sound came with a picture."""
    clips = document.value.clips
    films = SoundFile.objects.filter(pk__in={clip.sound for clip in clips}, has_picture=True).in_bulk()
    return [(clip, films[clip.sound]) for clip in clips if clip.sound in films]


def speech_in(document: Arrangement) -> list[tuple[float, float]]:
    """Where anybody speaks in the scene, in seconds: the dialogue tracks together, cut at pauses."""
    return voices.stretches(_dialogue(document))


def group_voices(person: Person, document: Arrangement, count: int | None) -> list[voices.VoiceStretch]:
    """Stretches of the dialogue grouped by voice. count: how many people speak, or None to estimate."""
    check(person, document.scene.production, "see")
    if count is not None and not 1 <= count <= 12:
        raise SoundError("Give how many people speak, 1 to 12, or leave it empty.")
    return voices.group(_dialogue(document), count)


def _dialogue(document: Arrangement) -> Any:
    value = document.value
    clips = [clip for track in value.tracks if track.is_read for clip in track.clips]
    with open_sounds() as path_of:
        pieces = pieces_of(clips, document.scene, path_of)
        return mix.recording(pieces, value.frames / float(document.scene.fps)).samples


@transaction.atomic
def take_groups(
    person: Person, document: Arrangement, version: int, spans: list[tuple[float, float, int]], who: list[int]
) -> Arrangement:
    """Mark grouped stretches as characters speaking. spans: (start, end, voice); who: the character of each voice."""
    document = edits.locked(person, document, version)
    cast = set(document.scene.production.characters.values_list("pk", flat=True))
    value = document.the_marks
    for voice, character in enumerate(who):
        if character not in cast:
            raise SoundError("Say which character each voice is.")
        own = [(start, end) for start, end, number in spans if number == voice and end > start >= 0]
        value = marks.add_pass(value, character, own, (0.0, float("inf")))
    return _mark(person, document, "take the voices", value)
