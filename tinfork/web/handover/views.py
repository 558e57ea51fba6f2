from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.core.formats.pictures import file_stem, frame_name
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import check, find_scene
from tinfork.web.reading.models import Stave

from . import actions

_SHOWN = 8


def handover(request: HttpRequest, pk: int) -> HttpResponse:
    """What can be handed over of a scene, and what was made of it."""
    return render(request, "handover/handover.html", _context(find_scene(request.user, pk)))


def _context(scene: Scene, problem: str = "") -> dict[str, object]:
    staves = [s for s in scene.staves.select_related("character").exclude(reading=None) if s.exposures]
    rows = []
    for stave in staves:
        jobs = Job.objects.filter(subject=stave.pk, kind__in=actions.MAKERS).select_related("person")[:_SHOWN]
        frames = stave.the_exposures()[-1].end
        first, last = scene.start_frame, scene.start_frame + frames - 1
        stem = file_stem(stave.character.name)
        row = {"stave": stave, "jobs": jobs, "frames": frames, "drawings": len({e["drawing"] for e in stave.exposures})}
        rows.append(row | {"first": frame_name(stem, first), "last": frame_name(stem, last)})
    return {"scene": scene, "view": "handover", "rows": rows, "problem": problem}


@require_POST
def make(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """Queue a file; answers with the list of what was made."""
    stave = get_object_or_404(Stave.objects.select_related("scene__production"), pk=pk)
    check(request.user, stave.scene.production, "see")
    problem = ""
    try:
        actions.ask_for(request.user, stave, kind)
    except TinForkError as refused:
        problem = str(refused)
    return render(request, "handover/rows.html", _context(stave.scene, problem))
