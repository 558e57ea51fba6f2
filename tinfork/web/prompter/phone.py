"""The telephone's own addresses, for whom nobody signs in: what it may is step the one prompter it is paired with. And
those of the prompter it is paired with."""

from typing import Any
from urllib.parse import urlsplit

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST
from msgspec import Struct

from tinfork.web.accounts import guesses
from tinfork.web.edits.requests import Integer, answer_of, parsed
from tinfork.web.productions.permissions import find_scene, number_of

from .models import Pairing
from .pairing import OnPrompter, PairingError, Press, exchange, offer, pair, paired, press

_CODE = "the code of a telephone"
_COOKIE = "tinfork_phone"
_ONLY_HERE = {"localhost", "127.0.0.1"}
_HALF_A_DAY = 12 * 60 * 60


class Pressed(Struct, frozen=True, forbid_unknown_fields=True):
    """A button of the telephone."""

    press: Press


class Exchange(Struct, frozen=True, forbid_unknown_fields=True):
    """What a prompter asks: what was pressed after a number; and what it shows now."""

    since: Integer = 0
    shown: OnPrompter | None = None


@require_POST
def offered(request: HttpRequest, pk: int) -> JsonResponse:
    """Return a code for a telephone, to step this person's prompter of the scene."""
    pairing = offer(request.user, find_scene(request.user, pk))
    return JsonResponse(
        {
            "code": pairing.code,
            "address": request.build_absolute_uri(reverse("phone")),
            "alone": urlsplit(request.build_absolute_uri()).hostname in _ONLY_HERE,
            "url": reverse("pairing", args=[pk, pairing.pk]),
        }
    )


@require_POST
def pairing(request: HttpRequest, pk: int, number: int) -> JsonResponse:
    """Return what the prompter and its telephone have to tell each other."""
    own = find_scene(request.user, pk).pairings.filter(pk=number, person_id=number_of(request.user)).first()
    if not own:
        raise Http404

    def do() -> dict[str, Any]:
        asked: Exchange = parsed(request, Exchange)
        return exchange(own, asked.since, asked.shown)

    return answer_of(do)


@login_not_required
def phone(request: HttpRequest) -> HttpResponse:
    """Show where the code is typed on a telephone; once it is paired, its buttons."""
    problem = ""
    if request.method == "POST":
        try:
            guesses.check(request, _CODE)
            _, token = pair(request.POST.get("code", ""))
        except guesses.TooManyGuesses as refused:
            problem = str(refused)
        except PairingError as refused:
            problem = str(refused)
            guesses.wrong(request, _CODE)
        else:
            answer = redirect("phone")
            answer.set_cookie(
                _COOKIE, token, max_age=_HALF_A_DAY, httponly=True, samesite="Strict", secure=request.is_secure()
            )
            return answer
    try:
        found = _paired(request)
    except PairingError:
        found = None
    context = {"pairing": found, "problem": problem}
    return render(request, "prompter/phone.html", context, status=422 if problem else 200)


@login_not_required
def phone_sees(request: HttpRequest) -> JsonResponse:
    """Return what the prompter shows."""
    return answer_of(lambda: {"shown": _paired(request).shown})


@login_not_required
@require_POST
def phone_presses(request: HttpRequest) -> JsonResponse:
    """Do what a button of the telephone asks."""

    def do() -> dict[str, Any]:
        found = _paired(request)
        asked: Pressed = parsed(request, Pressed)
        press(found, asked.press)
        return {}

    return answer_of(do)


def _paired(request: HttpRequest) -> Pairing:
    return paired(request.COOKIES.get(_COOKIE, ""))
