from dataclasses import asdict
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from msgspec import Struct

from tinfork.core.formats.options import fields_of
from tinfork.core.formats.registry import FORMATS, Format
from tinfork.core.mouths.face import VIEW
from tinfork.web.charts.pictures import small
from tinfork.web.cleaning import clean
from tinfork.web.edits.requests import answer_of, parsed
from tinfork.web.faces.portraits import portraits
from tinfork.web.files.serving import kept_file
from tinfork.web.jobs.access import check_job
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import check, find_scene, may
from tinfork.web.sound.arranging import filmed

from . import actions
from .models import HandoverFile, Preset, backdrop_of, compare_versions
from .roles import staves_of
from .wishes import MOST_LISTED, Wish, joined_files, packed_in
from .wishes import files as files_of

_SHOWN = 24


class NewPreset(Struct, frozen=True, forbid_unknown_fields=True):
    """A name, and the wish that is kept under it."""

    name: str
    wish: Wish


def handover(request: HttpRequest, pk: int) -> HttpResponse:
    """Show what can be handed over of a scene, and what was made of it."""
    scene = find_scene(request.user, pk)
    staves = staves_of(scene)
    drawn = portraits([stave.character for stave in staves])
    cast = [{"id": s.character_id, "name": s.character.name, "svg": drawn[s.character_id]} for s in staves]
    others = scene.production.scenes.exclude(pk=scene.pk)
    document = {
        "filesUrl": reverse("handover-files", args=[scene.pk]),
        "makeUrl": reverse("handover-make", args=[scene.pk]),
        "presetsUrl": reverse("presets", args=[scene.production_id]),
        "formats": {code: _format(own) for code, own in FORMATS.items()},
        "cast": [{"id": one["id"], "name": one["name"]} for one in cast],
        "scenes": [{"id": one.pk, "name": one.name} for one in others],
        "start": scene.start_frame,
        "frames": staves[0].arrangement.value.frames if staves else 0,
        "backdropUrl": reverse("backdrop", args=[scene.pk]),
        "picture": behind.href if (behind := backdrop_of(scene)) else "",
        "film": bool(staves and filmed(staves[0].arrangement)),
        "shape": VIEW[2] / VIEW[3],
        "presets": _presets(scene.production),
        "mayEdit": may(request.user, scene.production, "edit"),
    }
    groups = [(group, [(code, f) for code, f in FORMATS.items() if f.group == group]) for group in _groups()]
    context = _made(scene) | {"view": "handover", "cast": cast, "document": document, "groups": groups}
    return render(
        request, "handover/handover.html", context | {"others": others, "versions": scene.shown_versions.defer("kept")}
    )


def _format(own: Format) -> dict[str, Any]:
    options = [asdict(one) for one in fields_of(own.options)]
    return {"name": own.name, "looks": own.looks, "clear": own.clear, "options": options}


def _groups() -> list[str]:
    return list(dict.fromkeys(f.group for f in FORMATS.values()))


def _made(scene: Scene) -> dict[str, Any]:
    jobs = Job.objects.filter(kind__in=("handover", "bundle"), subject=scene.pk).select_related("person", "handover")
    older = Job.objects.filter(scene=scene, kind__in=("pictures", "video")).exclude(result="")
    shown = list(jobs.prefetch_related("handover__files")[:_SHOWN])
    compare_versions(job.handover for job in shown if job.kind == "handover")
    return {"scene": scene, "jobs": shown, "older": older[:_SHOWN]}


def made(request: HttpRequest, pk: int) -> HttpResponse:
    """Show what was made of a scene, the newest first."""
    return render(request, "handover/made.html", _made(find_scene(request.user, pk)))


@require_POST
def files(request: HttpRequest, pk: int) -> JsonResponse:
    """Return the files that a wish would make, JSON in and out, before they are made."""
    scene = find_scene(request.user, pk)

    def do() -> dict[str, Any]:
        wish: Wish = parsed(request, Wish)
        rows = [row for one in (scene, *actions.scenes_of(scene.production, wish)) for row in files_of(wish, one)]
        rows = [*joined_files(wish, scene), *rows]
        if packed := packed_in(wish, scene):
            rows = [{"name": packed, "about": f"{len(rows)} files, by folders"}, *rows]
        return {"count": len(rows), "files": rows[:MOST_LISTED]}

    return answer_of(do)


@require_POST
def make(request: HttpRequest, pk: int) -> JsonResponse:
    """Queue what a wish asks for, as JSON."""
    scene = find_scene(request.user, pk, "edit")
    return answer_of(lambda: {"job": actions.ask_for(request.user, scene, parsed(request, Wish)).pk})


@require_POST
def backdrop(request: HttpRequest, pk: int) -> JsonResponse:
    """Keep a picture to lie behind everybody (as a form's file, picture), or with drop let go of it."""
    scene = find_scene(request.user, pk, "edit")

    def do() -> dict[str, Any]:
        if "drop" in request.POST:
            actions.drop_backdrop(request.user, scene)
            return {"picture": ""}
        return {"picture": actions.keep_backdrop(request.user, scene, request.FILES.get("picture")).href}

    return answer_of(do)


def backdrop_picture(request: HttpRequest, pk: int, key: str) -> HttpResponseBase:
    """Return the picture that lies behind everybody, at the size it is seen in on a screen."""
    found = backdrop_of(find_scene(request.user, pk))
    if found is None:
        raise Http404("There is no picture.")
    return kept_file(small(found.picture.name or ""), "image/png")


def file(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Return a file that was made, as a download; 410 when it is gone from the disk."""
    found = get_object_or_404(HandoverFile.objects.select_related("handover__job__scene__production"), pk=pk)
    check_job(request.user, found.handover.job)
    gone = f"{found.name} is no longer on the disk; make it again under Hand-over."
    return kept_file(found.file.name or "", "application/octet-stream", found.name, gone)


def _presets(production: Production) -> list[dict[str, Any]]:
    rows = production.presets.all()
    return [one.document() | {"deleteUrl": reverse("preset-delete", args=[one.pk])} for one in rows]


@require_POST
def presets(request: HttpRequest, pk: int) -> JsonResponse:
    """Keep a way to hand over; all that the production keeps, as JSON."""
    production = get_object_or_404(Production, pk=pk)
    check(request.user, production, "edit")

    def do() -> dict[str, Any]:
        asked: NewPreset = parsed(request, NewPreset)
        actions.keep_preset(request.user, production, clean(asked.name), asked.wish)
        return {"presets": _presets(production)}

    return answer_of(do)


@require_POST
def delete_preset(request: HttpRequest, pk: int) -> JsonResponse:
    """Let go of a preset; those that are left."""
    preset = get_object_or_404(Preset.objects.select_related("production"), pk=pk)
    check(request.user, preset.production, "edit")
    actions.drop_preset(request.user, preset)
    return JsonResponse({"presets": _presets(preset.production)})
