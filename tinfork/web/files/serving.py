"""Kept files on their way to a browser: only ever after somebody was asked about, and never kept by it unasked."""

from collections.abc import Callable
from urllib.parse import quote

from django.conf import settings
from django.core.files.storage import default_storage
from django.http import FileResponse, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.utils.http import content_disposition_header

ASK_FIRST = "private, no-cache"
"""A browser may keep it, but asks each time whether it may still show it: it shows nothing after signing out."""

_NEVER_KEPT = "private, no-store"
_GONE = "This file is no longer on the disk. Bring it in again, or have whoever runs this Tin Fork restore a backup."


def keep_private(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Return the middleware by which nothing is kept by a browser, or on the way to it, that does not say it may be."""

    def answered(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        response.setdefault("Cache-Control", _NEVER_KEPT)
        return response

    return answered


def kept_file(name: str, content_type: str, called: str = "", gone: str = _GONE) -> HttpResponseBase:
    """Return the answer that brings a kept file: shown, or with called downloaded under that name. Our front sends it,
    in parts where a part is asked for; where there is none we do, whole. 410, with a sentence, when it is gone."""
    if not name or not default_storage.exists(name):
        return HttpResponse(gone, content_type="text/plain; charset=utf-8", status=410)
    response: HttpResponseBase
    if settings.BEHIND_FRONT:
        response = HttpResponse(content_type=content_type, headers={"X-Accel-Redirect": f"/kept/{quote(name)}"})
    else:
        response = FileResponse(default_storage.open(name, "rb"), content_type=content_type)
    response["Cache-Control"] = ASK_FIRST
    if called:
        response["Content-Disposition"] = content_disposition_header(True, called) or "attachment"
    return response
