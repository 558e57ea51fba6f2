from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.web.jobs.models import Job
from tinfork.web.jobs.views import refusal
from tinfork.web.productions.permissions import find_scene, number_of

from . import actions

_SHOWN = 5


@require_POST
def make(request: HttpRequest, pk: int) -> HttpResponse:
    """Ask for a bundle of a scene; whole: of all of its production. The list of what was made hears of it; why none is
    made comes back."""
    scene = find_scene(request.user, pk)
    try:
        actions.ask_for_bundle(request.user, scene, request.POST.get("whole") == "1")
    except TinForkError as refused:
        return refusal(refused)
    response = HttpResponse()
    response["HX-Trigger"] = "handover-asked"
    return response


def bring_in(request: HttpRequest) -> HttpResponse:
    """Show the form to bring a bundle in, as a production on one's own shelf; with POST that is asked for."""
    problem = ""
    if request.method == "POST":
        try:
            actions.ask_to_bring_in(request.user, request.FILES.get("bundle"))
            return redirect("bring-in")
        except TinForkError as refused:
            problem = str(refused)
    jobs = Job.objects.filter(kind="bring-in", person=number_of(request.user))[:_SHOWN]
    context = {"problem": problem, "jobs": jobs}
    return render(request, "bundles/bring_in.html", context, status=422 if problem else 200)
