"""What a person is told when a request failed on our side: a page in our look, which needs nothing that may be what
failed."""

import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.template.loader import render_to_string

from tinfork.web.files.store import GONE, DiskFullError, is_full, is_gone
from tinfork.web.numbered import number

_SENTENCES = {
    503: "The database is not answering; it is being started again. What you did just now was not kept. Do it again in "
    "a moment.",
    507: str(DiskFullError()),
    410: GONE,
    500: "Something went wrong on our side, and what you did just now was not kept. What was there before is. Do it "
    "again; if it fails once more, tell whoever runs this Tin Fork: its log says why, under the number {number}.",
}


def failed(request: HttpRequest) -> HttpResponse:
    """Return the answer to a request that ended in an exception, as a page, or as JSON for whoever asks for that."""
    status = _status(sys.exc_info()[1])
    sentence = _SENTENCES[status].format(number=number())
    if "application/json" in (request.headers.get("Accept", ""), request.content_type or ""):
        return JsonResponse({"problem": sentence}, status=status)
    response = HttpResponse(render_to_string("trouble.html", {"sentence": sentence, "status": status}), status=status)
    if status == 503:
        response["Retry-After"] = "5"
    return response


def _status(problem: BaseException | None) -> int:
    if isinstance(problem, (OperationalError, InterfaceError)):
        return 503
    if is_gone(problem):
        return 410
    return 507 if isinstance(problem, DiskFullError) or is_full(problem) else 500
