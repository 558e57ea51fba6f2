"""A scene's frame rate and first frame are changed: what belongs to sounds stays in time, what was decided on frames
goes to the nearest, in order."""

from typing import Any

from django.db import transaction
from django.db.models import F, FloatField, QuerySet
from django.db.models.functions import Cast, Floor

from tinfork.core.errors import TinForkError
from tinfork.core.following.clocked import at_rate
from tinfork.core.following.ways import OtherRate
from tinfork.core.limits import MAX_SCENE_FRAMES
from tinfork.core.timebase import format_rate, frame_count, parse_rate
from tinfork.web.edits import actions as edits
from tinfork.web.edits.following import follow
from tinfork.web.productions.actions import checked_start_frame, hold
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check
from tinfork.web.prompter.models import Exposed
from tinfork.web.rushes.models import Comment
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.models import Arrangement, SoundFile

from .carrying import Along, actings_along, notes_along, staves_along
from .models import Timing, timing_of

VERB = "frame rate"


@transaction.atomic
def set_clock(person: Person, scene: Scene, rate: str, start_frame: str, was: tuple[str, int]) -> Along:
    """Set a scene's frame rate and the number of its first frame, in one step. was: both as the person saw them.
    TinForkError when they are others by now, or these cannot be."""
    check(person, scene.production, "edit")
    hold(scene.production)
    edits.lock_scene(scene)
    if (scene.rate, scene.start_frame) != was:
        raise TinForkError(
            f"Somebody else set it meanwhile: {scene.rate} frames a second from frame {scene.start_frame}. "
            "Nothing of it was overwritten; look, and set it again if need be."
        )
    after, first = parse_rate(rate), checked_start_frame(start_frame)
    way = OtherRate(scene.fps, after)
    arrangement = arrangement_of(scene)
    value = arrangement.value
    wholes = {sound.pk: frame_count(sound.seconds, after) for sound in _sounds(arrangement)}
    moved = at_rate(value, way.before, way.after, wholes)
    if moved.frames > MAX_SCENE_FRAMES:
        raise TinForkError(f"At this rate the scene would have more than {MAX_SCENE_FRAMES:,} frames; cut it first.")
    along = Along()
    with edits.one_step():
        held = edits.locked(person, timing_of(scene))
        edits.change(person, held, VERB, {"rate": format_rate(after), "start_frame": first})
        if way.before != way.after:
            staves_along(person, scene, way, VERB, along, anew=True)
            actings_along(person, scene, way, VERB, along, value)
            notes_along(person, scene, way, VERB, along)
            edits.change(person, edits.locked(person, arrangement), VERB, {"body": moved}, everywhere=True)
    return along


def _sounds(arrangement: Arrangement) -> "QuerySet[SoundFile]":
    return SoundFile.objects.filter(pk__in={clip.sound for clip in arrangement.value.clips})


def _follow_timing(timing: Timing, before: dict[str, Any]) -> None:
    """The scene's rate is the one that was set; notes of reviews, and what was logged at the camera, are numbered by
    it."""
    scene = timing.scene
    was = before.get("rate", timing.rate)
    scene.rate, scene.start_frame = timing.rate, timing.start_frame
    scene.save(update_fields=["rate", "start_frame"])
    if was != timing.rate:
        renumber(Comment.objects.filter(scene=scene), ("frame", "end"), was, timing.rate)
        renumber(Exposed.objects.filter(scene=scene), ("frame",), was, timing.rate)
    if "places" in before:
        _place_comments(timing)


def _place_comments(timing: Timing) -> None:
    own = {int(key): place for key, place in timing.places.items()}
    comments = list(Comment.objects.filter(scene=timing.scene, pk__in=own))
    for one in comments:
        one.frame, one.end = own[one.pk]
        one.written_rate = ""
    Comment.objects.bulk_update(comments, ["frame", "end", "written_rate"])


def renumber(rows: "QuerySet[Any]", fields: tuple[str, ...], was: str, now: str) -> None:
    """Set frames to the nearest at another rate: of those they had at the rate they were written at, which are kept, so
    that whatever comes between they are the same again at that rate."""
    fresh = rows.filter(written_rate="")
    fresh.update(written_rate=was, **{f"written_{field}": F(field) for field in fields})
    for rate in rows.order_by().values_list("written_rate", flat=True).distinct():
        ratio = parse_rate(now) / parse_rate(rate)
        twice, over = 2.0 * ratio.numerator, 2.0 * ratio.denominator
        exact = {field: Cast(f"written_{field}", FloatField()) for field in fields}
        rows.filter(written_rate=rate).update(
            **{field: Floor((own * twice + ratio.denominator) / over) for field, own in exact.items()}
        )
    rows.filter(written_rate=now).update(written_rate="")


follow(Timing, _follow_timing)
