from django.http import FileResponse, HttpRequest
from django.shortcuts import get_object_or_404

from tinfork.web.productions.permissions import check

from .models import SoundFile

_A_YEAR = "private, max-age=31536000, immutable"


def _sound(request: HttpRequest, pk: int) -> SoundFile:
    sound = get_object_or_404(SoundFile.objects.select_related("production"), pk=pk)
    check(request.user, sound.production, "see")
    return sound


def listen(request: HttpRequest, pk: int) -> FileResponse:
    """The listening copy: mono FLAC at 48 kHz."""
    response = FileResponse(_sound(request, pk).listen.open("rb"), content_type="audio/flac")
    response["Cache-Control"] = _A_YEAR
    return response


def peaks(request: HttpRequest, pk: int) -> FileResponse:
    """The peak pyramid, packed as tinfork.core.sound.peaks says."""
    response = FileResponse(_sound(request, pk).peaks.open("rb"), content_type="application/octet-stream")
    response["Cache-Control"] = _A_YEAR
    return response
