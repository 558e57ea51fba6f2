"""Waiting in the middle of a shoot: what comes after a frame comes later, or sooner again; what is shot stays as it was
logged."""

from dataclasses import dataclass, replace

from django.db import transaction

from tinfork.core.errors import TinForkError
from tinfork.core.following.ways import Leg, OtherSounds
from tinfork.core.limits import MAX_SCENE_FRAMES
from tinfork.core.script import marks
from tinfork.core.script.casting import own_clips
from tinfork.core.sound import arrangement as core
from tinfork.core.sound.anchors import SCENE
from tinfork.web.edits import actions as edits
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement

from .carrying import Along, actings_along, scene_along, staves_along
from .numbering import as_runs

VERB = "wait"
MOST_FRAMES = 14_400


@dataclass(frozen=True)
class Wait:
    """frame: the first that comes later, counted from 0; frames: by how many, sooner where negative; character: who
    waits, None for everybody; before: the arrangement; shot: frames that were shot and that show something else
    then."""

    frame: int
    frames: int
    character: int | None
    before: Arrangement
    shot: tuple[range, ...]


def wait_of(scene: Scene, frame: int, frames: int, character: int | None) -> Wait:
    """Return what waiting at a frame does. TinForkError where it cannot be."""
    document = arrangement_of(scene)
    length = document.value.frames
    if not frames or abs(frames) > MOST_FRAMES:
        raise TinForkError(f"Give how many frames to wait, up to {MOST_FRAMES:,}; less than none to wait shorter.")
    if not 0 <= frame < length:
        raise TinForkError("This frame is not in the scene any more; go to another.")
    if length + frames > MAX_SCENE_FRAMES:
        raise TinForkError(f"A scene has up to {MAX_SCENE_FRAMES:,} frames.")
    if character is not None and not own_clips(document.value, character):
        raise TinForkError("Who has no sound of their own waits with everybody; choose everybody.")
    logged = sorted(scene.exposed.filter(frame__gte=frame).values_list("frame", flat=True).distinct())
    if frames < 0:
        _check_empty(document, scene, range(frame, frame - frames), character, logged)
    return Wait(frame, frames, character, document, tuple(as_runs(logged)))


def _check_empty(document: Arrangement, scene: Scene, span: range, character: int | None, logged: list[int]) -> None:
    """TinForkError where frames cannot be taken out: something is heard there, or was shot."""
    shot = [frame for frame in logged if frame in span]
    if shot:
        raise TinForkError(f"Frame {shot[0] + scene.start_frame} is shot already; it cannot be taken out any more.")
    clips = document.value.clips if character is None else own_clips(document.value, character)
    heard = [clip for clip in clips if clip.start < span.stop and clip.end > span.start]
    if heard or span.stop > document.value.frames:
        free = min((max(clip.start, span.start) for clip in heard), default=document.value.frames) - span.start
        raise TinForkError(
            f"{free} frames from here on are silent; wait shorter by no more than that."
            if free
            else "Something is heard on this frame; go to where the wait begins."
        )


@transaction.atomic
def wait(person: Person, scene: Scene, frame: int, frames: int, character: int | None) -> Along:
    """Let all that comes after a frame come later, for everybody or one character, in one step."""
    check(person, scene.production, "edit")
    edits.lock_scene(scene)
    asked = wait_of(scene, frame, frames, character)
    way = _way(scene, asked)
    along = Along()
    with edits.one_step():
        staves_along(person, scene, way, VERB, along, character)
        actings_along(person, scene, way, VERB, along, asked.before.value, character)
        if character is None:
            scene_along(person, scene, way, VERB, along)
        held = edits.locked(person, asked.before)
        later = _marks(held.kept_marks, asked, float(scene.fps))
        edits.change(person, held, VERB, {"body": _moved(held.value, asked), "marks": later}, everywhere=True)
    return along


def _way(scene: Scene, asked: Wait) -> OtherSounds:
    """The scene's own frames; sounds stay what they are."""
    last = float(asked.before.value.frames + MOST_FRAMES)
    since = float(asked.frame if asked.frames > 0 else asked.frame - asked.frames)
    legs = [Leg(since, last, SCENE, since + asked.frames, last + asked.frames)]
    if asked.frames < 0:  # What was set on silence that is taken out lies on the frame after it.
        legs.insert(0, Leg(float(asked.frame), since, SCENE, float(asked.frame), asked.frame + 1e-6))
    if asked.frame > 0:
        legs.insert(0, Leg(-last, float(asked.frame), SCENE, -last, float(asked.frame)))
    return OtherSounds(scene.fps, {SCENE: legs})


def _moved(value: core.Arrangement, asked: Wait) -> core.Arrangement:
    tracks = None
    if asked.character is not None:
        tracks = [t.id for t in value.tracks if t.kind == core.DIALOGUE and t.character == asked.character]
    if asked.frames > 0:
        moved = core.shift_after(value, asked.frame, asked.frames, tracks, split_across=True)
    else:
        moved = core.shift_after(value, asked.frame - asked.frames, asked.frames, tracks)
    if value.length and asked.character is None:
        moved = core.set_length(moved, value.length + asked.frames)
    return moved


def _marks(kept: marks.Marks, asked: Wait, fps: float) -> marks.Marks:
    """Marks that lie in the scene's own time, later."""
    at, by = asked.frame / fps, asked.frames / fps

    def later(mark: marks.Mark) -> marks.Mark:
        moves = mark.source_id == SCENE and mark.start >= at and asked.character in (None, mark.character)
        return replace(mark, start=mark.start + by, end=mark.end + by) if moves else mark

    return replace(kept, marks=tuple(later(mark) for mark in kept.marks))


def take_wait_back(person: Person, scene: Scene) -> None:
    """Undo a wait, where it is the last that was done in a scene. TinForkError where something was done since."""
    document = arrangement_of(scene)
    if document.steps["undo"] != VERB:
        raise TinForkError("Something else was done since; go back to it in the scene's history on the desk.")
    edits.undo(person, document, None)
