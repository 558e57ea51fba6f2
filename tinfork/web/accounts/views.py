from typing import Any

from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from .demo import demo_person


class SignIn(LoginView):
    """The sign-in form, with the demo's entry beside it where the demo is loaded."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        return super().get_context_data(demo=demo_person(), **kwargs)


@login_not_required
@require_POST
def enter_demo(request: HttpRequest) -> HttpResponse:
    """Sign in as the demo's person. 404 where there is no demo."""
    person = demo_person()
    if person is None:
        raise Http404
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("shelf")
