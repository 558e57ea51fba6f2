"""Script against recording: what is said otherwise than it is written, to be heard, taken or left."""

import tempfile
from pathlib import Path
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.core.speech import scratch
from tinfork.web.cleaning import natural
from tinfork.web.jobs.models import Job
from tinfork.web.productions.permissions import find_scene, may
from tinfork.web.reading import settling


def page(request: HttpRequest, pk: int, problem: str = "") -> HttpResponse:
    """Show what is said otherwise; with POST ask for script and recording to be compared."""
    scene = find_scene(request.user, pk, "edit" if request.method == "POST" and not problem else "see")
    if request.method == "POST" and not problem:
        try:
            settling.ask_to_compare(request.user, scene)
            return redirect("otherwise", scene.pk)
        except TinForkError as refused:
            problem = str(refused)
    context: dict[str, Any] = {
        "scene": scene,
        "view": "script",
        "problem": problem,
        "found": settling.with_takes(scene, settling.shown(scene)),
        "kept": scene.differences.filter(kept=True).count(),
        "job": Job.objects.filter(kind="compare", subject=scene.pk).first(),
        "may_edit": may(request.user, scene.production, "edit"),
        "names": dict(scene.production.characters.values_list("pk", "name")),
    }
    return render(request, "script/otherwise.html", context, status=422 if problem else 200)


@require_POST
def settle(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Take what was said (take=1), use one of a line's takes (use=its number), or keep what is written."""
    scene = find_scene(request.user, pk, "edit")
    found = scene.differences.select_related("scene__production").filter(pk=number, kept=False).first()
    if found is None:
        return page(request, pk, "Somebody settled this meanwhile, or compared anew; this is what is left.")
    try:
        if "use" in request.POST:
            settling.use_take(request.user, found, natural(request.POST["use"]) or 0)
        elif "take" in request.POST:
            settling.take(request.user, found)
        else:
            settling.keep(request.user, found)
    except TinForkError as refused:
        return page(request, pk, str(refused))
    return redirect("otherwise", scene.pk)


def written(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Return what is written there, spoken by a scratch voice, as WAV."""
    scene = find_scene(request.user, pk, "see")
    found = next((one for one in settling.shown(scene) if one.difference.pk == number), None)
    if found is None:
        raise Http404
    try:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "written.wav"
            scratch.speak(path, found.difference.written or found.line.text, found.language)
            return HttpResponse(path.read_bytes(), content_type="audio/wav")
    except TinForkError as refused:
        return HttpResponse(str(refused), status=422, content_type="text/plain; charset=utf-8")
