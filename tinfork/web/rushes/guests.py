"""What somebody sees and hears who watches by a link, without an account: the shots it is to, and nothing else."""

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError
from tinfork.core.sound.arrangement import heard_tracks
from tinfork.web.edits.requests import parsed
from tinfork.web.people import links
from tinfork.web.people.models import WatchLink
from tinfork.web.productions.models import Scene
from tinfork.web.sound.answers import listen_to, peaks_of, reel_of
from tinfork.web.sound.models import SoundFile

from . import actions
from .reviewing import guest_document
from .screening import Addresses, first_shots, screened, seen_of, watched_arrangement


class GuestNote(actions.Note, frozen=True, forbid_unknown_fields=True):
    """A note of somebody without an account. name: what they call themselves."""

    name: str = ""


@login_not_required
def watch(request: HttpRequest, token: str) -> HttpResponse:
    """Show what a link is to: the shots as they were shown last, or as they are now where none was."""
    try:
        link = links.find_link(token)
    except TinForkError as refused:
        return render(request, "people/no_way_in.html", {"sentence": str(refused)}, status=410)
    links.count_opening(link)
    given = {"guest": token, "mayComment": link.may_comment}
    context = screened(first_shots(link.scenes), given, _addresses(token), shown=True)
    return render(request, "rushes/screening.html", context | {"title": str(link), "base": "base.html"})


def _addresses(token: str) -> Addresses:
    def sound(scene: Scene, one: SoundFile, channel: int) -> dict[str, str]:
        given = [token, scene.pk, one.pk, "mix" if channel < 0 else str(channel)]
        return {"listen": reverse("watch-listen", args=given), "peaks": reverse("watch-peaks", args=given)}

    return Addresses(
        seen=lambda scene: reverse("watch-seen", args=[token, scene.pk]),
        notes=lambda scene: reverse("watch-review", args=[token, scene.pk]).removesuffix("review"),
        sound=sound,
        film=lambda scene, one: reverse("watch-film", args=[token, scene.pk, one.pk]),
    )


def _link(token: str) -> WatchLink:
    try:
        return links.find_link(token)
    except TinForkError:
        raise Http404("No such link.") from None


def _scene(token: str, pk: int) -> tuple[WatchLink, Scene]:
    link = _link(token)
    return link, get_object_or_404(link.scenes.select_related("production"), pk=pk)


@login_not_required
def seen(request: HttpRequest, token: str, pk: int) -> JsonResponse:
    """Return what is seen of a shot of a link."""
    return JsonResponse(seen_of(_scene(token, pk)[1], shown=True))


@login_not_required
def review(request: HttpRequest, token: str, pk: int) -> JsonResponse:
    """Return the notes on a shot of a link, to who may write some."""
    link, scene = _scene(token, pk)
    return JsonResponse(guest_document(scene, link))


@login_not_required
@require_POST
def note(request: HttpRequest, token: str, pk: int) -> JsonResponse:
    """Keep a note of a guest; the notes as they are then."""
    link, scene = _scene(token, pk)
    try:
        asked: GuestNote = parsed(request, GuestNote)
        actions.write_as_guest(link, scene, asked, asked.name)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse(guest_document(scene, link))


def _sound(token: str, pk: int, sound: int, films: bool = False) -> SoundFile:
    """A sound that is heard in a shot of a link, or whose film is seen there; Http404 for any other."""
    _, scene = _scene(token, pk)
    arrangement = watched_arrangement(scene, shown=True)
    clips = arrangement.clips if films else [clip for track in heard_tracks(arrangement) for clip in track.clips]
    if all(clip.sound != sound for clip in clips):
        raise Http404("No such sound.")
    return get_object_or_404(SoundFile, pk=sound, production=scene.production_id)


@login_not_required
def listen(request: HttpRequest, token: str, pk: int, sound: int, channel: str) -> HttpResponseBase:
    """Return the listening copy of a sound that is heard in a shot of a link."""
    return listen_to(request, _sound(token, pk, sound), channel)


@login_not_required
def peaks(request: HttpRequest, token: str, pk: int, sound: int, channel: str) -> HttpResponseBase:
    """Return its peaks."""
    return peaks_of(_sound(token, pk, sound), channel)


@login_not_required
def film(request: HttpRequest, token: str, pk: int, sound: int) -> HttpResponseBase:
    """Return the film of a video that lies in a shot of a link."""
    return reel_of(_sound(token, pk, sound, films=True))
