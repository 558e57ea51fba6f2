from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from tinfork.web.productions.permissions import check

from .models import Job


def _job(request: HttpRequest, pk: int) -> Job:
    job = get_object_or_404(Job.objects.select_related("scene__production"), pk=pk)
    check(request.user, job.scene.production, "see")
    return job


def progress(request: HttpRequest, pk: int) -> HttpResponse:
    """How far a job has come, as the fragment that asks again until it has ended; then the page hears of it."""
    job = _job(request, pk)
    response = render(request, "jobs/job.html", {"job": job})
    if job.ended:
        response["HX-Trigger"] = f"{job.kind}-ended-{job.subject}"
    return response


def result(request: HttpRequest, pk: int) -> FileResponse:
    """The file a job made, as a download."""
    job = _job(request, pk)
    if not job.result:
        raise Http404
    return FileResponse(job.result.open("rb"), as_attachment=True, filename=job.result_name)
