"""The page on which something beneath a scene becomes another: a sound, the frame rate, and what has no place then."""

from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.core.following.following import GONE, NEW, SAME, SPEED, Stretch
from tinfork.core.following.picture import TALL, WIDE, drawn
from tinfork.core.sound import peaks
from tinfork.core.sound.arrangement import MIX
from tinfork.core.timebase import COMMON_RATES
from tinfork.web.cleaning import natural
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import EDITORS, check, find_scene, may
from tinfork.web.sound.actions import bring_in, channel_copy
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.document import addresses
from tinfork.web.sound.models import SoundFile
from tinfork.web.staves.mouths import mouths_of

from .carrying import Along
from .clock import set_clock
from .leftovers import leftovers, settle
from .models import Following
from .reading import ask_to_follow, following_of, running_of
from .taking import Plan, lies_there, looked, shot_otherwise, take
from .waiting import take_wait_back, wait, wait_of

_MOST_LISTED = 60
_LEAST_WAVE = 1_200
_MOUTH = "-70 -52 140 104"
"""The part of a drawing's plane that a mouth lies in."""


def changes(request: HttpRequest, pk: int) -> HttpResponse:
    """Show what can be changed beneath a scene, and what has no place; on POST put that somewhere or drop it."""
    scene = find_scene(request.user, pk)
    if request.method != "POST":
        return _page(request, scene)
    asked = request.POST
    frame = natural(asked.get("frame")) if asked.get("do") == "put" else None
    try:
        if asked.get("do") not in ("put", "drop") or (asked["do"] == "put" and frame is None):
            raise TinForkError("Say on which frame it is to lie.")
        place = None if frame is None else frame - scene.start_frame
        settle(
            request.user, scene, asked.get("area", ""), asked.get("part", ""), natural(asked.get("number")) or 0, place
        )
    except TinForkError as problem:
        return _page(request, scene, problem=str(problem))
    return redirect("changes", pk)


def _page(request: HttpRequest, scene: Scene, **more: Any) -> HttpResponse:
    sounds = SoundFile.objects.in_bulk({clip.sound for clip in arrangement_of(scene).value.clips})
    tracks = arrangement_of(scene).value.tracks
    lying = {clip.source_id: (sounds[clip.sound], track.name) for track in tracks for clip in track.clips}
    context = {
        "scene": scene,
        "view": "changes",
        "lying": [{"id": key, "sound": sound, "track": name} for key, (sound, name) in lying.items()],
        "others": scene.production.sounds.order_by("-pk"),
        "job": running_of(scene),
        "compared": scene.followings.select_related("new").exclude(found=None)[:5],
        "rates": COMMON_RATES,
        "left": _with_pictures(scene),
        "cast": scene.production.characters.all(),
        "elsewhere": Production.objects.filter(
            membership__person=request.user.pk, membership__role__in=EDITORS
        ).exclude(pk=scene.production_id),
        "box": _MOUTH,
        "may_edit": may(request.user, scene.production, "edit"),
    }
    return render(request, "following/changes.html", context | more, status=422 if "problem" in more else 200)


def _with_pictures(scene: Scene) -> list[dict[str, Any]]:
    """What has no place, each with the drawing it shows."""
    found = leftovers(scene)[:_MOST_LISTED]
    if not found:
        return []
    shown: dict[str, dict[str, str]] = {}
    for stave in scene.staves.select_related("character"):
        drawings = mouths_of(stave).document(f"left-{stave.pk}")["drawings"]
        shown[stave.area] = {one["name"]: one["svg"] for one in drawings}
    return [{"own": one, "svg": shown.get(one.area, {}).get(one.drawing, "")} for one in found]


@require_POST
def clock(request: HttpRequest, pk: int) -> HttpResponse:
    """Set a scene's frame rate and first frame, or say what would fall together if they were set."""
    scene = find_scene(request.user, pk, "edit")
    asked = request.POST
    was = (asked.get("was_rate", ""), natural(asked.get("was_first")) or 0)
    typed = {"rate": asked.get("rate", ""), "first": asked.get("first", "")}
    only_look = asked.get("do") != "set"
    try:
        with transaction.atomic():
            along = set_clock(request.user, scene, typed["rate"], typed["first"], was)
            transaction.set_rollback(only_look)
    except TinForkError as problem:
        scene.refresh_from_db(fields=["rate", "start_frame"])
        return _page(request, scene, problem=str(problem), typed=typed)
    if only_look:
        scene.refresh_from_db(fields=["rate", "start_frame"])
    told = _words_of(along, scene)
    return _page(request, scene, clock=told | {"set": not only_look}, typed=typed)


def _words_of(along: Along, scene: Scene) -> dict[str, Any]:
    """What a page tells of what went along."""

    def rows(things: list[Any]) -> list[dict[str, Any]]:
        return [
            {"what": one.what, "who": one.who, "drawing": one.drawing}
            | {"frame": None if one.frame is None else one.frame + scene.start_frame}
            for one in things[:_MOST_LISTED]
        ]

    return {
        "count": along.count,
        "left": rows(along.left),
        "left_count": len(along.left),
        "together": rows(along.together),
        "together_count": len(along.together),
        "kept": along.count - len(along.left) - len(along.together),
    }


@require_POST
def sound(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a new version of a sound, as a file or one that is here, and have it compared."""
    scene = find_scene(request.user, pk, "edit")
    try:
        upload = request.FILES.get("file")
        if upload is not None:
            new = bring_in(request.user, scene.production, upload)
        else:
            known = scene.production.sounds.filter(pk=natural(request.POST.get("known")) or 0).first()
            if known is None:
                raise TinForkError("Choose the file of the new version, or one of the sounds that are here.")
            new = known
        asked = ask_to_follow(request.user, scene, natural(request.POST.get("old")) or 0, new)
    except TinForkError as problem:
        return _page(request, scene, problem=str(problem))
    return redirect("changes-compared", pk, asked.pk)


def compared(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Show both versions over one another and what goes where; on POST take the new one."""
    scene = find_scene(request.user, pk)
    ends = request.POST.get("ends", request.GET.get("ends", "")) == "1"
    problem, plan, told = "", None, None
    try:
        found = following_of(scene, number)
    except TinForkError as gone:
        return _page(request, scene, problem=str(gone))
    try:
        if request.method == "POST":
            check(request.user, scene.production, "edit")
            along = take(request.user, found, ends)
            told = _words_of(along, scene)
        elif found.value is not None and lies_there(found):
            plan, along_then = looked(request.user, found, ends)
            told = _words_of(along_then, scene) if along_then else None
    except TinForkError as refused:
        problem = str(refused)
    context = {
        "scene": scene,
        "view": "changes",
        "found": found,
        "job": found.job if found.job and found.value is None else None,
        "problem": problem,
        "ends": ends,
        "told": told,
        "taken_now": request.method == "POST" and not problem,
        "shot": [_numbered(span, scene) for span in shot_otherwise(plan)] if plan else [],
        "may_edit": may(request.user, scene.production, "edit"),
        "old_at": addresses(found.old),
        "new_at": addresses(found.new),
    }
    if found.value is not None:
        context |= _map(found, plan)
    return render(request, "following/compared.html", context, status=422 if problem and request.POST else 200)


@require_POST
def wait_here(request: HttpRequest, pk: int) -> HttpResponse:
    """Say what waiting at a frame would move, wait (do=wait), or take the last wait back (do=undo)."""
    scene = find_scene(request.user, pk, "edit")
    asked = request.POST
    try:
        if asked.get("do") == "undo":
            take_wait_back(request.user, scene)
            return _to_prompter(pk)
        frame = (natural(asked.get("frame")) or 0) - scene.start_frame
        sign = -1 if asked.get("way") == "shorter" else 1
        frames = sign * (natural(asked.get("frames")) or 0)
        who = natural(asked.get("who")) if asked.get("who") else None
        found = wait_of(scene, frame, frames, who)
        if asked.get("do") == "wait":
            wait(request.user, scene, frame, frames, who)
            return _to_prompter(pk)
    except TinForkError as problem:
        return render(request, "following/wait.html", {"scene": scene, "problem": str(problem)})
    told = {
        "frame": frame + scene.start_frame,
        "frames": abs(frames),
        "later": frames > 0,
        "who": scene.production.characters.filter(pk=who).first() if who else None,
        "shot": [_numbered(span, scene) for span in found.shot],
    }
    return render(request, "following/wait.html", {"scene": scene, "told": told})


def _to_prompter(pk: int) -> HttpResponse:
    """Have the page that asked load the prompter again."""
    answer = HttpResponse(status=204)
    answer["HX-Redirect"] = reverse("prompter", args=[pk])
    return answer


def _numbered(span: range, scene: Scene) -> str:
    first, last = span.start + scene.start_frame, span.stop - 1 + scene.start_frame
    return str(first) if first == last else f"{first} to {last}"


def _map(found: Following, plan: Plan | None) -> dict[str, Any]:
    value = found.value
    assert value is not None
    waves = []
    for one in (found.old, found.new):
        with channel_copy(one, MIX).peaks.open("rb") as packed:
            waves.append(peaks.coarse(packed.read(), _LEAST_WAVE))
    lengths = (found.old.seconds, found.new.seconds)
    fps = float(found.scene.fps)
    return {
        "map": drawn(waves[0], waves[1], lengths, value.stretches),
        "wide": WIDE,
        "tall": TALL,
        "stretches": [_row(one, fps) for one in _as_told(value.stretches)],
        "alike": value.alike,
        "plan": plan,
    }


def _as_told(stretches: tuple[Stretch, ...]) -> list[Stretch]:
    """Stretches as a list has them: what follows on from one and is of its kind is one with it."""
    found: list[Stretch] = []
    for one in stretches:
        last = found[-1] if found else None
        meets = last is not None and abs(last.end - one.first) < 0.02 and abs(last.to_end - one.to) < 0.02
        if last and last.kind == one.kind and meets and one.kind not in (GONE, NEW):
            found[-1] = Stretch(one.kind, last.first, one.end, last.to, one.to_end)
        else:
            found.append(one)
    return found


def _row(one: Stretch, fps: float) -> dict[str, Any]:
    by = round((one.to - one.first) * fps)
    speed = (one.end - one.first) / (one.to_end - one.to) if one.to_end > one.to else 1.0
    what = {
        SAME: "the same" if by == 0 else f"moved by {by:+d} frame{'' if abs(by) == 1 else 's'}",
        SPEED: f"{'faster' if speed > 1 else 'slower'} by {abs(speed - 1):.1%}",
        GONE: "gone",
        NEW: "new",
    }.get(one.kind, "said anew")
    return {
        "kind": one.kind,
        "what": what,
        "old": "" if one.kind == NEW else f"{one.first:.2f} to {one.end:.2f}",
        "new": "" if one.kind == GONE else f"{one.to:.2f} to {one.to_end:.2f}",
    }
