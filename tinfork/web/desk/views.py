from collections.abc import Callable
from typing import Annotated, Any

import numpy as np
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from msgspec import Struct

from tinfork.core.errors import ReadingError, TinForkError
from tinfork.core.mouths.chart import WEIGHTS
from tinfork.core.mouths.shapes import ARTICULATORS, SHAPES
from tinfork.core.naming import file_stem
from tinfork.core.speech.phones import KEYBOARD
from tinfork.core.timebase import frame_at
from tinfork.web.accounts.preferences import stays
from tinfork.web.cleaning import clean, natural
from tinfork.web.edits.following import listening
from tinfork.web.edits.requests import MANY, Integers, answer, parsed
from tinfork.web.productions.permissions import check, find_scene
from tinfork.web.reading import exchange
from tinfork.web.reading.asking import ask_to_read
from tinfork.web.reading.by_hand import staves_to_show
from tinfork.web.sound.arranging import arrangement_of
from tinfork.web.sound.uploads import text_of
from tinfork.web.staves.models import Stave, TrackTake
from tinfork.web.staves.mouths import mouths_of
from tinfork.web.staves.placing import Placed
from tinfork.web.staves.planning import articulation, whys
from tinfork.web.tracks.checking import checks_of, dial_curve
from tinfork.web.tracks.learning import habits_of, preview
from tinfork.web.tracks.takes import anew_document, drop_take, head_document, keep_take, take_document
from tinfork.web.tracks.timing import looked_at

from .document import patch_document, scene_document, stave_document
from .verbs import VERBS, WordPlace


class ToRead(Struct, frozen=True, forbid_unknown_fields=True):
    """Lines to be read, by their numbers in the script; words: of one line only these."""

    lines: Integers = []
    words: Annotated[list[WordPlace], MANY] = []


def _stave(request: HttpRequest, pk: int, need: str = "see") -> Stave:
    """Return the stave, for somebody who may see it; or to edit it, and then without what an action loads anew."""
    staves = Stave.objects.select_related("scene__production", "character")
    stave = get_object_or_404(staves.defer(*Stave.LARGE) if need == "edit" else staves, pk=pk)
    check(request.user, stave.scene.production, need)
    return stave


def desk(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the Reading desk, with the first slice of every stave."""
    scene = find_scene(request.user, pk)
    document = {
        **scene_document(request.user, scene, staves_to_show(request.user, scene, arrangement_of(scene))),
        "readUrl": reverse("desk-read", args=[scene.pk]),
        "historyUrl": reverse("scene-history", args=[scene.pk]),
        "backUrl": reverse("scene-back", args=[scene.pk]),
        "reviewUrl": reverse("rushes", args=[scene.pk]),
        "stays": stays(request.user),
        "staysUrl": reverse("keep-stays"),
        "keyboard": KEYBOARD,
        "shapes": {name: dict(zip(ARTICULATORS, shape.place, strict=True)) for name, shape in SHAPES.items()},
        "weights": dict(zip(ARTICULATORS, WEIGHTS.tolist(), strict=True)),
        "formats": [[f.name, code, f.loses] for code, f in exchange.FORMATS.items()],
    }
    return render(request, "desk/desk.html", {"scene": scene, "view": "desk", "document": document})


def stave(request: HttpRequest, pk: int) -> JsonResponse:
    """Return one stave as the desk draws it, with all of its lanes, or with those from frame ?first= to before
    ?end=."""
    placed = Placed(_stave(request, pk))
    return JsonResponse(stave_document(placed, _frames(request, placed)))


def why(request: HttpRequest, pk: int, frame: int) -> JsonResponse:
    """Return what the exposure on a frame is there for: its sounds, each with why it is not simply shown, or ""."""
    stave = _stave(request, pk)
    return JsonResponse({"version": stave.version, "sounds": whys(stave, frame)})


def _frames(request: HttpRequest, placed: Placed) -> range:
    """Return the frames ?first= to before ?end= of a stave's scene; all of it where they are not given."""
    first, end = natural(request.GET.get("first")), natural(request.GET.get("end"))
    return range(min(first or 0, placed.frames), placed.frames if end is None else min(end, placed.frames))


def checks(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what there is to look at on frames ?first= to before ?end=."""
    placed = Placed(_stave(request, pk))
    return JsonResponse({"version": placed.stave.version, "checks": checks_of(placed, _frames(request, placed))})


def dial(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what Detail does on frames ?first= to before ?end=."""
    placed = Placed(_stave(request, pk))
    return JsonResponse({"points": dial_curve(placed, _frames(request, placed))})


def curves(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what jaw and lips are asked to do on frames ?first= to before ?end=, in hundredths."""
    placed = Placed(_stave(request, pk))
    frames = _frames(request, placed)
    values = articulation(placed, frames).values
    found = {name: np.rint(100 * values[:, ARTICULATORS.index(name)]).tolist() for name in ("jaw", "rounding")}
    return JsonResponse({"first": frames.start, **found})


def habits(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what a person corrects again and again, and the rules there are; with ?ipa= and ?drawing= every place that
    such a rule would change."""
    stave = _stave(request, pk)
    ipa, drawing = clean(request.GET.get("ipa", "")), clean(request.GET.get("drawing", ""))
    try:
        found = {"changes": preview(stave, ipa, drawing)} if ipa else habits_of(Placed(stave))
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse(found)


class NewTake(Struct, frozen=True, forbid_unknown_fields=True):
    """The name under which a track is kept."""

    name: str


def takes(request: HttpRequest, pk: int) -> JsonResponse:
    """Return the takes of a stave; with POST one more, of the track as it is."""
    stave = _stave(request, pk)
    try:
        if request.method == "POST":
            asked: NewTake = parsed(request, NewTake)
            keep_take(request.user, stave, clean(asked.name))
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    kept = stave.takes.select_related("person").defer("cells", "decisions")
    return JsonResponse({"takes": [head_document(one) for one in kept]})


def anew(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what the track of a stave would be if it were planned anew."""
    return JsonResponse(anew_document(_stave(request, pk)))


def _take(request: HttpRequest, pk: int, need: str = "see") -> TrackTake:
    found: TrackTake = get_object_or_404(
        TrackTake.objects.select_related("stave__scene__production", "stave__character"), pk=pk
    )
    check(request.user, found.stave.scene.production, need)
    return found


def take(request: HttpRequest, pk: int) -> JsonResponse:
    """Return a take with its exposures."""
    found = _take(request, pk)
    return JsonResponse(take_document(found, mouths_of(found.stave)))


@require_POST
def delete_take(request: HttpRequest, pk: int) -> JsonResponse:
    """Let go of a take."""
    drop_take(request.user, _take(request, pk, "edit"))
    return JsonResponse({})


def jumps(request: HttpRequest, pk: int) -> JsonResponse:
    """Return frames of a scene where lines and words begin, whoever speaks them."""
    scene = find_scene(request.user, pk)
    arrangement = arrangement_of(scene)
    found = [Placed(s, arrangement) for s in scene.staves.select_related("character", "scene")]
    lines = [line for placed in found for line in placed.in_scene(placed.load(placed.stave.order))]
    words = {frame_at(word.start, scene.fps) for line in lines for word in line.words}
    return JsonResponse({"lines": sorted({frame_at(line.start, scene.fps) for line in lines}), "words": sorted(words)})


@require_POST
def edit(request: HttpRequest, pk: int) -> JsonResponse:
    """Do one edit on one version, as JSON: {"verb", "version", ...}; see tinfork.web.edits.requests.answer. The
    document that comes back is what has changed of the stave."""
    found = _stave(request, pk, "edit")
    return _answer(found, lambda: VERBS.perform(request.user, found, VERBS.of_json(request)))


def _answer(stave: Stave, do: Callable[[], Any]) -> JsonResponse:
    """Do something to a stave and answer with what has changed of it; where it is refused, with what it is now."""
    with listening() as changes:

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
    """Return a stave's reading as a file in one of the formats."""
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
    """Bring in a reading from a file, as a form: version and file; answers as an edit does, with notes."""
    found = _stave(request, pk, "edit")

    def do() -> dict[str, Any]:
        upload, version = request.FILES.get("file"), natural(request.POST.get("version"))
        if upload is None or version is None:
            raise ReadingError("No file came through; choose it again.")
        return {"notes": exchange.bring_in(request.user, found, version, text_of(upload))[1]}

    return _answer(found, do)


@require_POST
def look_at_timing(request: HttpRequest, pk: int) -> JsonResponse:
    """Return what a file of exposures holds, as a form: file; nothing is changed yet."""
    found = _stave(request, pk, "edit")
    try:
        upload = request.FILES.get("file")
        if upload is None:
            raise ReadingError("No file came through; choose it again.")
        return JsonResponse(looked_at(found, text_of(upload), natural(request.POST.get("base"))))
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)


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
