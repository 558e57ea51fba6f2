from collections.abc import Iterable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.core.formats.pictures import file_stem, frame_name
from tinfork.web.jobs.models import Job
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import check, find_scene
from tinfork.web.reading.models import Stave
from tinfork.web.reading.planning import planned

from . import actions
from .tasks import MAKERS

_SHOWN = 8


def handover(request: HttpRequest, pk: int) -> HttpResponse:
    """What can be handed over of a scene, and what was made of it."""
    return render(request, "handover/handover.html", _context(find_scene(request.user, pk)))


def _context(scene: Scene, problem: str = "") -> dict[str, object]:
    staves = scene.staves.select_related("character", "scene__production")
    rows = []
    for stave in staves:
        if not stave.has_mouths:
            continue
        track = planned(stave).stave.track.exposures()
        frames, stem = track[-1].end, file_stem(stave.character.name)
        now, before = _newest(Job.objects.filter(subject=stave.pk, kind__in=MAKERS).select_related("person")[:_SHOWN])
        row = {
            "stave": stave,
            "jobs": now,
            "before": before,
            "frames": frames,
            "exposures": len(track),
            "drawings": len({e.drawing for e in track}),
            "first": frame_name(stem, scene.start_frame),
            "last": frame_name(stem, scene.start_frame + frames - 1),
        }
        rows.append(row)
    return {"scene": scene, "view": "handover", "rows": rows, "problem": problem}


def _newest(jobs: Iterable[Job]) -> tuple[list[Job], list[Job]]:
    """The newest of each kind, and the files that were made before those."""
    newest: dict[str, Job] = {}
    before = []
    for job in jobs:
        if newest.setdefault(job.kind, job) is not job and job.result:
            before.append(job)
    return list(newest.values()), before


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
