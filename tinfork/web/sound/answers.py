"""What is heard, drawn and seen of a sound, as the answer to whoever may have it."""

from pathlib import Path

from django.http import Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.utils.cache import get_conditional_response
from django.utils.http import quote_etag

from tinfork.core.errors import SoundError
from tinfork.core.sound.pieces import piece
from tinfork.web.cleaning import natural
from tinfork.web.files import store
from tinfork.web.files.serving import ASK_FIRST, kept_file

from .models import ChannelCopy, SoundFile


def reel_of(sound: SoundFile) -> HttpResponseBase:
    """Return the reference picture of a video: WebM."""
    if not sound.reel:
        raise Http404
    return kept_file(sound.reel.name or "", "video/webm")


def listen_to(request: HttpRequest, sound: SoundFile, channel: str) -> HttpResponseBase:
    """Return a channel's listening copy: mono FLAC at 48 kHz; with ?piece= that piece of it, counted from 0."""
    number, copy = natural(request.GET.get("piece")), _copy(sound, channel)
    if number is not None:
        return _piece(request, copy, number)
    return kept_file(copy.listen.name or "", "audio/flac")


def peaks_of(sound: SoundFile, channel: str) -> HttpResponseBase:
    """Return a channel's peak pyramid, packed as tinfork.core.sound.peaks says."""
    return kept_file(_copy(sound, channel).peaks.name or "", "application/octet-stream")


def _piece(request: HttpRequest, copy: ChannelCopy, number: int) -> HttpResponseBase:
    tag = quote_etag(f"{copy.pk}-{number}")
    known = get_conditional_response(request, tag)
    if known is None:
        if not store.is_there(copy.listen.name or ""):
            return kept_file("", "audio/flac")
        try:
            known = HttpResponse(piece(Path(copy.listen.path), number), content_type="audio/flac")
        except SoundError:
            raise Http404 from None
    known["ETag"], known["Cache-Control"] = tag, ASK_FIRST
    return known


def _copy(sound: SoundFile, channel: str) -> ChannelCopy:
    number = -1 if channel == "mix" else natural(channel)
    copy = None if number is None else sound.copies.filter(channel=number).first()
    if copy is None:
        raise Http404
    return copy
