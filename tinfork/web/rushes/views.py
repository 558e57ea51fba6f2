from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from msgspec import Struct

from tinfork.core.errors import TinForkError
from tinfork.web.cleaning import natural
from tinfork.web.desk.document import scene_document
from tinfork.web.edits.requests import Integer, parsed
from tinfork.web.handover.models import Version
from tinfork.web.productions.models import Production, Scene
from tinfork.web.productions.permissions import Person, check, find_scene, may
from tinfork.web.reading.by_hand import staves_to_show
from tinfork.web.sound.arranging import arrangement_of

from . import actions
from .reviewing import changed_since, review_document, watched
from .screening import MEMBERS, chosen_shots, screened, seen_of


class Nothing(Struct, frozen=True, forbid_unknown_fields=True):
    """Nothing more than that it is asked for."""


class Said(Struct, frozen=True, forbid_unknown_fields=True):
    """What somebody says of a version: its number, and a kind of Verdict."""

    version: Integer
    kind: str


class Done(Struct, frozen=True, forbid_unknown_fields=True):
    """Whether a note is done."""

    note: Integer
    done: bool


class Gone(Struct, frozen=True, forbid_unknown_fields=True):
    """A note that is taken away."""

    note: Integer


def rushes(request: HttpRequest, pk: int) -> HttpResponse:
    """Show a shot to be watched, noted on and approved."""
    scene = find_scene(request.user, pk)
    staves = [one for one in staves_to_show(request.user, scene, arrangement_of(scene)) if one.stave.is_seen]
    document = {
        **scene_document(request.user, scene, staves),
        "review": review_document(request.user, scene),
        "reviewUrl": reverse("rushes", args=[scene.pk]),
    }
    context = {"scene": scene, "view": "rushes", "document": document, "empty": not staves}
    return render(request, "rushes/rushes.html", context)


def screening(request: HttpRequest, pk: int) -> HttpResponse:
    """Show shots one after another: a sequence (?sequence=), some (?shots=1,2), or the whole film."""
    production = get_object_or_404(Production, pk=pk)
    check(request.user, production, "see")
    sequence = natural(request.GET.get("sequence"))
    shots = [natural(one) or 0 for one in request.GET.get("shots", "").split(",") if one]
    found = chosen_shots(production, sequence, shots)
    part = production.sequences.filter(pk=sequence).first() if sequence is not None else None
    given = {"guest": "", "mayComment": may(request.user, production, "comment")}
    context = {"production": production, "tab": "screening", "title": str(part or "Screening")}
    context |= screened(found, given, MEMBERS) | {"base": "production_base.html"}
    return render(request, "rushes/screening.html", context)


def seen(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what is seen of a shot as it is now."""
    return JsonResponse(seen_of(find_scene(request.user, pk)))


def review(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what is told of a shot's review."""
    return JsonResponse(review_document(request.user, find_scene(request.user, pk)))


def _said(need: str, kind: Any, do: Callable[[Person, Scene, Any], object]) -> Callable[..., HttpResponse]:
    """Return the view that takes what somebody says of a shot, a JSON object of a kind, and answers with the review as
    it is then."""

    @require_POST
    def view(request: HttpRequest, pk: int) -> JsonResponse:
        scene = find_scene(request.user, pk, need)
        try:
            do(request.user, scene, parsed(request, kind))
        except TinForkError as refused:
            return JsonResponse({"problem": str(refused)}, status=422)
        return JsonResponse(review_document(request.user, scene))

    return view


show = _said("edit", Nothing, lambda person, scene, _: actions.show_for_review(person, scene))
judge = _said("approve", Said, lambda person, scene, asked: actions.judge(person, scene, asked.version, asked.kind))
note = _said("comment", actions.Note, actions.write)
done = _said("comment", Done, lambda person, scene, asked: actions.set_done(person, scene, asked.note, asked.done))
take_away = _said("comment", Gone, lambda person, scene, asked: actions.take_away(person, scene, asked.note))


def version(request: HttpRequest, pk: int, number: int) -> JsonResponse:
    """Return a version as a page shows it, and where what is seen has changed since, or in another version
    (?than=)."""
    scene = find_scene(request.user, pk)
    shown = Version.objects.filter(scene=scene).select_related("scene")
    than = natural(request.GET.get("than"))
    other = get_object_or_404(shown, number=than) if than is not None else None
    found = get_object_or_404(shown, number=number)
    return JsonResponse(watched(found) | {"changes": changed_since(found, other)})
