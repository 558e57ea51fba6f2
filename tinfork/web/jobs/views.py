from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.utils.html import format_html
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.web.files.serving import kept_file
from tinfork.web.productions.permissions import check

from .access import check_job
from .models import Job
from .queues import before, order


def _job(request: HttpRequest, pk: int) -> Job:
    job = get_object_or_404(Job.objects.select_related("scene__production"), pk=pk)
    check_job(request.user, job)
    return job


def refusal(refused: TinForkError) -> HttpResponse:
    """Return why something is not done, as a piece of a page."""
    return HttpResponse(format_html('<p class="problem" role="alert">{}</p>', refused))


def progress(request: HttpRequest, pk: int) -> HttpResponse:
    """Return how far a job has come, as the fragment that asks again until it has ended; then the page hears of it. As
    JSON for whoever accepts only that."""
    job = _job(request, pk)
    if request.headers.get("Accept") == "application/json":
        return JsonResponse({"state": job.state, "ended": job.ended, "progress": job.progress, "message": job.message})
    waits = job.state == Job.State.WAITING
    response = render(request, "jobs/job.html", {"job": job, "before": before(job) if waits else None})
    if job.ended:
        response["HX-Trigger"] = f"{job.kind}-ended-{job.subject}"
    return response


@require_POST
def cancel(request: HttpRequest, pk: int) -> HttpResponse:
    """Stop a job that has not ended, one's own or as an editor. What was there before it stays."""
    job = _job(request, pk)
    if job.scene and job.person_id != request.user.pk:
        check(request.user, job.scene.production, "edit")
    still = Job.objects.filter(pk=pk, state__in=(Job.State.WAITING, Job.State.RUNNING))
    with transaction.atomic():
        if still.update(state=Job.State.CANCELLED, ended_at=timezone.now()):
            order(job.person_id, job.queue)
    return progress(request, pk)


def result(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Return the file a job made, as a download; 410 when it is gone from the disk."""
    job = _job(request, pk)
    if not job.result:
        raise Http404
    gone = f"{job.result_name} is no longer on the disk; make it again under Hand-over."
    return kept_file(job.result.name or "", "application/octet-stream", job.result_name, gone)
