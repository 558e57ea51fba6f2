"""What is asked by those who run Tin Fork: a balancer, and the front that takes requests in."""

from django.contrib.auth.decorators import login_not_required
from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse, JsonResponse

from tinfork.core.limits import MAX_BUNDLE_BYTES, MAX_SOUND_BYTES
from tinfork.web.sound.uploads import BESIDE_THE_FILE

_BUNDLES = "/bundles/"


@login_not_required
def health(request: HttpRequest) -> JsonResponse:
    """Return whether requests can be answered: 200, or 503 while the database does not answer."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except DatabaseError:
        return JsonResponse({"database": False}, status=503)
    return JsonResponse({"database": True})


@login_not_required
def may_send(request: HttpRequest) -> HttpResponse:
    """Say to our front, which asks before it takes in more than a form: 204 when who asks is signed in and it is no
    more than may be sent to that address; 403 otherwise. X-Length and X-Address say what is to come."""
    length = request.headers.get("X-Length", "")
    largest = MAX_BUNDLE_BYTES if request.headers.get("X-Address", "").startswith(_BUNDLES) else MAX_SOUND_BYTES
    fits = length.isascii() and length.isdecimal() and len(length) < 20 and int(length) <= largest + BESIDE_THE_FILE
    return HttpResponse(status=204 if request.user.is_authenticated and fits else 403)
