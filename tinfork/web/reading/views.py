from collections.abc import Callable
from typing import Annotated, Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from msgspec import Struct

from tinfork.core.errors import ReadingError, TinForkError
from tinfork.core.formats.pictures import file_stem
from tinfork.core.speech.phones import KEYBOARD
from tinfork.core.timebase import frame_at
from tinfork.web.cleaning import natural
from tinfork.web.edits.following import heard
from tinfork.web.edits.requests import MANY, Integers, answer, parsed
from tinfork.web.productions.permissions import check, find_scene, may
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.document import sound_document, time_base
from tinfork.web.sound.uploads import text_of

from . import exchange
from .asking import ask_to_read
from .by_hand import staves_to_show
from .desk import SLICE, patch_document, stave_document
from .models import Stave
from .placing import Placed
from .planning import whys
from .verbs import VERBS, WordPlace


class ToRead(Struct, frozen=True, forbid_unknown_fields=True):
    """Lines to be read, by their numbers in the script; words: of one line only these."""

    lines: Integers = []
    words: Annotated[list[WordPlace], MANY] = []


def _stave(request: HttpRequest, pk: int, need: str = "see") -> Stave:
    """The stave, for somebody who may see it; or to edit it, and then without what an action loads anew."""
    staves = Stave.objects.select_related("scene__production", "character")
    stave = get_object_or_404(staves.defer(*Stave.LARGE) if need == "edit" else staves, pk=pk)
    check(request.user, stave.scene.production, need)
    return stave


def desk(request: HttpRequest, pk: int) -> HttpResponse:
    """The Reading desk, with the first slice of every stave."""
    scene = find_scene(request.user, pk)
    arrangement = arrangement_of(scene)
    document = {
        "scene": time_base(scene),
        "mayEdit": may(request.user, scene.production, "edit"),
        "sound": sound_document(arrangement),
        "staves": [stave_document(placed, range(SLICE)) for placed in staves_to_show(request.user, scene, arrangement)],
        "slice": SLICE,
        "readUrl": reverse("desk-read", args=[scene.pk]),
        "keyboard": KEYBOARD,
        "formats": [[f.name, code, f.loses] for code, f in exchange.FORMATS.items()],
    }
    return render(request, "reading/desk.html", {"scene": scene, "view": "desk", "document": document})


def stave(request: HttpRequest, pk: int) -> JsonResponse:
    """One stave as the desk draws it, with all of its lanes, or with those from frame ?first= to before ?end=."""
    placed = Placed(_stave(request, pk))
    first, end = natural(request.GET.get("first")), natural(request.GET.get("end"))
    frames = range(first or 0, placed.frames if end is None else min(end, placed.frames))
    return JsonResponse(stave_document(placed, frames))


def why(request: HttpRequest, pk: int, frame: int) -> JsonResponse:
    """What the exposure on a frame is there for: its sounds, each with why it is not simply shown, or ""."""
    stave = _stave(request, pk)
    return JsonResponse({"version": stave.version, "sounds": whys(stave, frame)})


def jumps(request: HttpRequest, pk: int) -> JsonResponse:
    """Frames of a scene where lines and words begin, whoever speaks them."""
    scene = find_scene(request.user, pk)
    arrangement = arrangement_of(scene)
    found = [Placed(s, arrangement) for s in scene.staves.select_related("character", "scene")]
    lines = [line for placed in found for line in placed.in_scene(placed.load(placed.stave.order))]
    words = {frame_at(word.start, scene.fps) for line in lines for word in line.words}
    return JsonResponse({"lines": sorted({frame_at(line.start, scene.fps) for line in lines}), "words": sorted(words)})


@require_POST
def edit(request: HttpRequest, pk: int) -> JsonResponse:
    """One edit on one version, as JSON: {"verb", "version", ...}; see tinfork.web.edits.requests.answer. The document
    that comes back is what has changed of the stave."""
    found = _stave(request, pk, "edit")
    return _answer(found, lambda: VERBS.perform(request.user, found, VERBS.of_json(request)))


def _answer(stave: Stave, do: Callable[[], Any]) -> JsonResponse:
    """Do something to a stave and answer with what has changed of it; where it is refused, with what it is now."""
    with heard() as changes:

        def heard_of() -> Any:
            try:
                return do()
            except TinForkError:
                changes.clear()
                raise

        def changed() -> dict[str, Any]:
            now = stave if changes else Stave.objects.select_related("scene__production", "character").get(pk=stave.pk)
            return patch_document(now, changes)

        return answer(heard_of, changed)


def take_out(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """A stave's reading as a file in one of the formats."""
    stave = _stave(request, pk)
    if kind not in exchange.FORMATS:
        raise Http404
    chosen = exchange.FORMATS[kind]
    try:
        text = exchange.taken_out(stave, kind)
    except TinForkError as refused:
        return HttpResponse(str(refused), content_type="text/plain; charset=utf-8", status=422)
    response = HttpResponse(text, content_type=f"{chosen.content_type}; charset=utf-8")
    name = f"{file_stem(stave.scene.name)}_{file_stem(stave.character.name)}_reading.{chosen.ending}"
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@require_POST
def bring_in(request: HttpRequest, pk: int) -> JsonResponse:
    """A reading from a file, as a form: version and file; answers as an edit does, with notes."""
    found = _stave(request, pk, "edit")

    def do() -> dict[str, Any]:
        upload, version = request.FILES.get("file"), natural(request.POST.get("version"))
        if upload is None or version is None:
            raise ReadingError("No file came through; choose it again.")
        return {"notes": exchange.bring_in(request.user, found, version, text_of(upload))[1]}

    return _answer(found, do)


@require_POST
def read(request: HttpRequest, pk: int) -> JsonResponse:
    """Queue the reading of some lines, or of some words of one; JSON in, {"lines", "words"}, the job's address out."""
    scene = find_scene(request.user, pk, "edit")
    try:
        asked = parsed(request, ToRead)
        job = ask_to_read(request.user, scene, asked.lines, asked.words)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse({"job": reverse("job", args=[job.pk])})
