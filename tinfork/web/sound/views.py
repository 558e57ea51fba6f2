from typing import Any
from uuid import UUID

from django.http import HttpRequest, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_POST

from tinfork.core.errors import SoundError, TinForkError
from tinfork.web.cleaning import natural
from tinfork.web.edits.requests import answer
from tinfork.web.files.serving import kept_file
from tinfork.web.files.store import DiskFullError
from tinfork.web.productions.models import Character, Scene
from tinfork.web.productions.permissions import check, find_scene

from . import actions, arranging
from .answers import listen_to, peaks_of, reel_of
from .arriving import arriving
from .document import sound_document
from .models import Arrangement, SoundFile
from .reels import ask_for_reel
from .verbs import VERBS


def document(request: HttpRequest, pk: int) -> JsonResponse:
    """Return the arrangement as the Sound view draws it."""
    return JsonResponse(sound_document(arranging.arrangement_of(find_scene(request.user, pk))))


@require_POST
def edit(request: HttpRequest, pk: int) -> JsonResponse:
    """Do one edit on one version, as JSON: {"verb", "version", ...}; see tinfork.web.edits.requests.answer."""
    scene = find_scene(request.user, pk, "edit")
    found = arranging.arrangement_of(scene)
    return answer(lambda: VERBS.perform(request.user, found, VERBS.of_json(request)), lambda: now(found))


def now(found: Arrangement) -> dict[str, Any]:
    """Return the arrangement as it is now, as the Sound view draws it."""
    found.read_again()
    return sound_document(found)


@require_POST
def bring(request: HttpRequest, pk: int) -> JsonResponse:
    """Place files in the scene, on a track or a character, one after the other from a frame on."""
    scene = find_scene(request.user, pk, "edit")
    found = arranging.arrangement_of(scene)

    def do() -> None:
        files = request.FILES.getlist("sound")
        if not files:
            raise SoundError("No file came through; drop it again.")
        problems = []
        start = natural(request.POST.get("start"))
        for number, file in enumerate(files):
            try:
                sound = actions.bring_in(request.user, scene.production, file)
                character, track = character_in(request, scene), natural(request.POST.get("track"))
                with arriving(scene, key_of(request), number) as arrival:
                    start = arrival.place(request.user, sound, start, character, track)
                ask_for_reel(request.user, scene, sound)
            except DiskFullError:
                raise
            except TinForkError as refused:
                problems.append(f"{file.name}: {refused}" if len(files) > 1 else str(refused))
        if problems:
            raise SoundError(" ".join(problems))

    return answer(do, lambda: now(found))


@require_POST
def take(request: HttpRequest, pk: int) -> JsonResponse:
    """Keep a recording made in the browser as one more take of a character."""
    scene = find_scene(request.user, pk, "edit")
    found = arranging.arrangement_of(scene)

    def do() -> None:
        upload, character = request.FILES.get("sound"), character_in(request, scene)
        if upload is None or character is None:
            raise SoundError("The take did not come through; record it again.")
        count = scene.takes.filter(character=character).count() + 1
        upload.name = f"{character.name} take {count}.wav"
        sound = actions.bring_in(request.user, scene.production, upload)
        with arriving(scene, key_of(request)) as arrival:
            if not arrival.known:
                actions.add_take(request.user, scene, character, sound, natural(request.POST.get("at")))

    return answer(do, lambda: now(found))


@require_POST
def voices(request: HttpRequest, pk: int) -> JsonResponse:
    """Return stretches of the scene's dialogue grouped by voice: a suggestion; nothing is changed."""
    found = arranging.arrangement_of(find_scene(request.user, pk, "edit"))
    asked = request.POST.get("count", "").strip()

    def do() -> dict[str, Any]:
        count = natural(asked)
        if asked and count is None:
            raise SoundError("Give how many people speak as a whole number, or leave it empty.")
        grouped = arranging.group_voices(request.user, found, count)
        if not grouped:
            raise SoundError("No speech was found on the dialogue tracks; bring a recording in first.")
        return {"voices": [[s.start, s.end, s.voice] for s in grouped]}

    return answer(do, lambda: now(found))


def key_of(request: HttpRequest) -> UUID | None:
    """Return the key of what a page sends, if it has one."""
    try:
        return UUID(request.POST.get("key", ""))
    except ValueError:
        return None


def character_in(request: HttpRequest, scene: Scene) -> Character | None:
    """Return whom a form names, None where it names nobody. Http404 for somebody of another production."""
    pk = natural(request.POST.get("character"))
    return None if pk is None else get_object_or_404(scene.production.characters, pk=pk)


def _sound(request: HttpRequest, pk: int) -> SoundFile:
    sound = get_object_or_404(SoundFile.objects.select_related("production"), pk=pk)
    check(request.user, sound.production, "see")
    return sound


def original(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Return the file as it came, byte for byte, as a download."""
    sound = _sound(request, pk)
    return kept_file(sound.original.name or "", "application/octet-stream", sound.name)


def reel(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Return the reference picture of a video: WebM."""
    return reel_of(_sound(request, pk))


def listen(request: HttpRequest, pk: int, channel: str) -> HttpResponseBase:
    """Return a channel's listening copy, or a piece of it."""
    return listen_to(request, _sound(request, pk), channel)


def peaks(request: HttpRequest, pk: int, channel: str) -> HttpResponseBase:
    """Return a channel's peak pyramid."""
    return peaks_of(_sound(request, pk), channel)
