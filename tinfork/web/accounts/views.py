from typing import Any

import msgspec
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import UserCreationForm
from django.contrib.auth.models import User
from django.contrib.auth.views import LoginView, LogoutView
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from tinfork.core.errors import TinForkError

from . import guesses, preferences
from .demo import demo_person
from .first import WrongCode, make_first, nobody_yet

_FIRST = "the code of the first person"


class SignIn(LoginView):
    """The sign-in form, with the demo's entry beside it where the demo is loaded."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        return super().get_context_data(demo=demo_person(), **kwargs)

    def get(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """Where there is nobody to sign in, the page that makes the first person."""
        if not demo_person() and nobody_yet():
            return redirect("first-person")
        return super().get(request, *args, **kwargs)


class SignOut(LogoutView):
    """Signing out; the browser forgets what it kept of us."""

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """Sign out."""
        response = super().post(request, *args, **kwargs)
        response["Clear-Site-Data"] = '"cache"'
        return response


@login_not_required
def first_person(request: HttpRequest) -> HttpResponse:
    """Make the first person, with the code that script/start prints; for as long as there is nobody."""
    if not nobody_yet():
        return redirect("sign-in")
    asked, problem = request.POST if request.method == "POST" else None, ""
    form: UserCreationForm[User] = UserCreationForm(asked)
    given = (asked or request.GET).get("code", "")
    if asked is not None and form.is_valid():
        try:
            guesses.check(request, _FIRST)
            person = make_first(form, given)
        except TinForkError as refused:
            problem = str(refused)
            if isinstance(refused, WrongCode):
                guesses.wrong(request, _FIRST)
        else:
            login(request, person, backend="django.contrib.auth.backends.ModelBackend")
            return redirect("shelf")
    context = {"form": form, "code": given, "problem": problem}
    return render(request, "accounts/first.html", context, status=422 if problem or form.errors else 200)


@require_POST
def keep_keys(request: HttpRequest, view: str) -> JsonResponse:
    """Keep all keys of one's own in a view: a JSON object, each by the key it usually has."""
    try:
        preferences.keep_keys(request.user, view, msgspec.json.decode(request.body, type=dict[str, str]))
    except msgspec.DecodeError:
        return JsonResponse({"problem": "This key cannot be kept; choose another."}, status=422)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse({})


@require_POST
def keep_stays(request: HttpRequest) -> JsonResponse:
    """Keep whether what one sets by hand stays on its frames: JSON true or false."""
    preferences.keep_stays(request.user, request.body == b"true")
    return JsonResponse({})


@require_POST
def keep_theme(request: HttpRequest) -> HttpResponse:
    """Keep daylight ("light") or night ("dark"), the body of the request, for wherever the person signs in."""
    theme = request.body[:8].decode("ascii", "replace")
    try:
        preferences.keep_theme(request.user, theme)
    except TinForkError as refused:
        return JsonResponse({"problem": str(refused)}, status=422)
    return JsonResponse({})


@login_not_required
@require_POST
def enter_demo(request: HttpRequest) -> HttpResponse:
    """Sign in as the demo's person. 404 where there is no demo."""
    person = demo_person()
    if person is None:
        raise Http404
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("shelf")
