import asyncio
import json
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.contrib.auth.models import AnonymousUser, User
from django.http import Http404, HttpRequest, StreamingHttpResponse
from django.shortcuts import get_object_or_404

from tinfork.web.accounts.names import name_of
from tinfork.web.cleaning import natural
from tinfork.web.productions.models import Production
from tinfork.web.productions.permissions import check, find_scene, number_of

from .hub import AGAIN, HUB, Onlooker, Told

_SECONDS_QUIET = 15.0
"""After so long without anything to tell, who looks on is asked about again, and hears that we are there."""

_ENDS = {"people", "visits"}
"""After these somebody may not be let look on any more."""

_VIEWS = {"sound", "script", "desk", "acting", "sheet", "prompter", "rushes", "handover"}


async def stream(request: HttpRequest) -> StreamingHttpResponse:
    """Tell an open page what others change, as it happens (server-sent events): of the scene or the production it
    shows, and what concerns who looks at it. It ends when they may not see that any more."""
    one = await sync_to_async(_onlooker)(request)
    answer = StreamingHttpResponse(_events(request, one), content_type="text/event-stream")
    answer["X-Accel-Buffering"] = "no"
    return answer


def _onlooker(request: HttpRequest) -> Onlooker:
    person, given = request.user, request.GET
    who = Onlooker(number_of(person), name_of(person))
    view = given.get("view", "")
    if scene := natural(given.get("scene")):
        found = find_scene(person, scene)
        who.scene, who.production, who.view = found.pk, found.production_id, view if view in _VIEWS else ""
    elif number := natural(given.get("production")):
        production = get_object_or_404(Production, pk=number)
        check(person, production, "see")
        who.production = production.pk
    return who


async def _events(request: HttpRequest, one: Onlooker) -> AsyncIterator[str]:
    try:
        await HUB.join(one)
        yield _line(AGAIN)
        while True:
            told = await _next(one)
            if (told is None or told["kind"] in _ENDS) and not await sync_to_async(_may_still)(request, one):
                yield _line({"kind": "ended"})
                return
            yield _line(told) if told else ": here\n\n"
    finally:
        HUB.leave(one)


async def _next(one: Onlooker) -> Told | None:
    """What is to be told next; None where nothing was for a while."""
    try:
        return await asyncio.wait_for(one.told.get(), _SECONDS_QUIET)
    except TimeoutError:
        return None


def _line(told: Told) -> str:
    return f"data: {json.dumps(told)}\n\n"


def _may_still(request: HttpRequest, one: Onlooker) -> bool:
    """Whether somebody is still signed in, and may still see what they look at."""
    person = User.objects.filter(pk=one.person, is_active=True).first() or AnonymousUser()
    if not request.session.exists(request.session.session_key or ""):
        return False
    try:
        if one.scene:
            find_scene(person, one.scene)
        elif one.production:
            check(person, get_object_or_404(Production, pk=one.production), "see")
    except Http404:
        return False
    return bool(person.is_authenticated)
