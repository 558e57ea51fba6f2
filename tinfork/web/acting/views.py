from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST
from msgspec import Struct

from tinfork.core.errors import TinForkError
from tinfork.core.mouths.parts import DIALS
from tinfork.web.cleaning import clean, natural
from tinfork.web.desk.document import scene_document
from tinfork.web.edits.following import listening
from tinfork.web.edits.requests import Integer, answer, answer_of, parsed
from tinfork.web.jobs.views import refusal
from tinfork.web.productions.models import Scene
from tinfork.web.productions.permissions import Person, check, find_scene, may
from tinfork.web.reading.by_hand import staves_to_show
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.melodies import melody_document
from tinfork.web.staves.placing import Placed

from . import posing
from .document import acting_document, patch_document, poses_document, whole_document
from .models import Acting, SavedPose, acting_of
from .staging import Stage
from .tasks import ask_to_propose
from .verbs import VERBS, Names

_MOST_MELODY = 20_000


class NewPose(Struct, frozen=True, forbid_unknown_fields=True):
    """A name, the frame whose pose is kept, and the parts that are, those that do something where none are named."""

    name: str
    frame: Integer
    parts: Names = []


def _acting(request: HttpRequest, pk: int, need: str = "see") -> Acting:
    found = get_object_or_404(Acting.objects.select_related("scene__production", "character"), pk=pk)
    check(request.user, found.scene.production, need)
    return found


def view(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the Acting view of a scene: for each character who is heard in it the first slice of words and mouths, and
    all lanes."""
    scene = find_scene(request.user, pk)
    staves = staves_to_show(request.user, scene, arrangement_of(scene))
    own = _actings(request.user, scene, staves)
    document = {
        **scene_document(request.user, scene, staves),
        "actings": [acting_document(stage) for stage in own],
        "poses": poses_document(own[0].acting) if own else [],
        "dials": {name: [dial.least, dial.most, dial.unit] for name, dial in DIALS.items()},
    }
    context = {"scene": scene, "view": "acting", "document": document, "empty": not own}
    return render(request, "acting/acting.html", context)


def _actings(person: Person, scene: Scene, staves: list[Placed]) -> list[Stage]:
    """What there is of acting of those who are heard; made for those who have none, when the person may edit."""
    if may(person, scene.production, "edit"):
        found = [acting_of(scene, placed.stave.character) for placed in staves]
    else:
        known = {one.character_id: one for one in scene.actings.select_related("character")}
        found = [known[p.stave.character_id] for p in staves if p.stave.character_id in known]
    for one in found:
        one.scene = scene
    return [Stage(one) for one in found]


def of_scene(request: HttpRequest, pk: int) -> JsonResponse:
    """Return all lanes of a scene, for pages that only show them."""
    scene = find_scene(request.user, pk)
    known = list(Acting.objects.filter(scene=scene).select_related("character"))
    found = []
    for one in known:
        one.scene = scene
        try:
            found.append(acting_document(Stage(one)))
        except TinForkError:
            continue
    return JsonResponse({"actings": found})


@require_POST
def propose_all(request: HttpRequest, pk: int) -> HttpResponse:
    """Ask for proposals for everybody in a scene: how far they are, as a piece of the page."""
    try:
        job = ask_to_propose(request.user, find_scene(request.user, pk))
    except TinForkError as refused:
        return refusal(refused)
    return render(request, "jobs/job.html", {"job": job, "before": None})


def character_acting(request: HttpRequest, pk: int) -> JsonResponse:
    """Return one character's acting as the page draws it."""
    return JsonResponse(acting_document(Stage(_acting(request, pk))))


def melody(request: HttpRequest, pk: int) -> JsonResponse:
    """Return how high and how loud the character's voice is on frames ?first= to before ?end=."""
    stage = Stage(_acting(request, pk))
    first, end = natural(request.GET.get("first")) or 0, natural(request.GET.get("end"))
    stop = min(stage.where.frames, first + _MOST_MELODY, stage.where.frames if end is None else end)
    return answer_of(lambda: melody_document(stage.acting.scene, stage.where.clips, range(first, max(first, stop))))


@require_POST
def edit(request: HttpRequest, pk: int) -> JsonResponse:
    """Do one edit on one version, as JSON: {"verb", "version", ...}; what comes back is what has changed."""
    found = _acting(request, pk, "edit")
    return _answer(found, lambda: VERBS.perform(request.user, found, VERBS.of_json(request)))


def _answer(acting: Acting, do: Callable[[], Any]) -> JsonResponse:
    refused = False
    with listening() as changes:

        def heard_of() -> Any:
            nonlocal refused
            try:
                return do()
            except TinForkError:
                refused = True
                changes.clear()
                raise

        def changed() -> dict[str, Any]:
            if not refused:
                return patch_document(acting, changes)
            own = Acting.objects.select_related("scene__production", "character").get(pk=acting.pk)
            return whole_document(own)

        return answer(heard_of, changed)


def poses(request: HttpRequest, pk: int) -> JsonResponse:
    """Return the poses of the production; with POST one more, of a frame of this acting."""
    found = _acting(request, pk, "edit" if request.method == "POST" else "see")

    def do() -> dict[str, Any]:
        if request.method == "POST":
            asked: NewPose = parsed(request, NewPose)
            posing.keep_pose(request.user, found, clean(asked.name), asked.frame, asked.parts)
        return {"poses": poses_document(found)}

    return answer_of(do)


@require_POST
def drop_pose(request: HttpRequest, pk: int) -> JsonResponse:
    """Delete a kept pose."""
    pose = get_object_or_404(SavedPose.objects.select_related("production"), pk=pk)
    check(request.user, pose.production, "edit")
    posing.drop_pose(request.user, pose)
    return JsonResponse({})
