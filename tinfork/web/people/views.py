from collections.abc import Callable
from typing import Any

from django.contrib.auth import login, logout, update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import PasswordChangeForm, UserCreationForm
from django.contrib.auth.models import User
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from tinfork.core.errors import TinForkError
from tinfork.web.accounts import guesses, preferences, visits
from tinfork.web.cleaning import natural
from tinfork.web.productions.models import Production
from tinfork.web.productions.permissions import check, may, number_of

from . import account, actions, inviting, links

_UNKNOWN = "This could not be understood; reload the page and do it again."


def people(request: HttpRequest, pk: int) -> HttpResponse:
    """Show who is in a production and who is invited; its owner changes both."""
    production = get_object_or_404(Production, pk=pk)
    check(request.user, production, "see")
    problem, asked = "", request.POST
    if request.method == "POST":
        try:
            return _change(request, production)
        except TinForkError as refused:
            problem = str(refused)
    invitations = inviting.waiting(production) if may(request.user, production, "own") else None
    context = {
        "production": production,
        "tab": "people",
        "members": production.membership_set.select_related("person").order_by("pk"),
        "invitations": [(one, request.build_absolute_uri(one.get_absolute_url())) for one in invitations or ()],
        "roles": inviting.INVITED,
        "owns": invitations is not None,
        **_links(request, production),
        "mail": inviting.mail_is_set(),
        "problem": problem,
        "asked": asked,
    }
    return render(request, "people/people.html", context, status=422 if problem else 200)


def _links(request: HttpRequest, production: Production) -> dict[str, Any]:
    """What the page shows of links to watch by: to who may make them."""
    if not may(request.user, production, "edit"):
        return {}
    shot = production.scenes.filter(pk=natural(request.GET.get("shot")) or 0).first()
    return {
        "links": [
            (one, request.build_absolute_uri(reverse("watch", args=[one.token])))
            for one in links.open_links(production)
        ],
        "may_link": True,
        "link_days": links.DAYS,
        "link_shot": shot,
        "sequences": production.sequences.all(),
    }


def _change(request: HttpRequest, production: Production) -> HttpResponse:
    person, asked = request.user, request.POST
    doing, who = asked.get("do", ""), natural(asked.get("who")) or 0
    if doing == "leave":
        actions.leave(person, production)
        return redirect("shelf")
    does: dict[str, Callable[[], object]] = {
        "invite": lambda: _invite(request, production),
        "withdraw": lambda: inviting.withdraw(person, production, who),
        "role": lambda: actions.set_role(person, production, who, asked.get("role", "")),
        "hand-over": lambda: actions.hand_over(person, production, who),
        "remove": lambda: actions.remove_person(person, production, who),
        "link": lambda: links.make_link(
            person, production, asked.get("name", ""), asked.get("to", ""), asked.get("days", ""), "comment" in asked
        ),
        "end-link": lambda: links.withdraw_link(person, production, who),
    }
    if doing not in does:
        check(person, production, "own")
        raise TinForkError(_UNKNOWN)
    does[doing]()
    return redirect("people", production.pk)


def _invite(request: HttpRequest, production: Production) -> None:
    asked = request.POST
    wanted = asked.get("mail", "") if inviting.mail_is_set() else ""
    address = inviting.checked_address(wanted) if wanted else ""
    made = inviting.invite(request.user, production, asked.get("name", ""), asked.get("role", ""))
    if address:
        inviting.send(made, address, request.build_absolute_uri(made.get_absolute_url()))


@login_not_required
def join(request: HttpRequest, token: str) -> HttpResponse:
    """Let somebody into a production by an invitation's link, with the account they have or a new one."""
    try:
        found = inviting.find_invitation(token)
    except TinForkError as refused:
        return render(request, "people/no_way_in.html", {"sentence": str(refused)}, status=410)
    asked = request.POST if request.method == "POST" else None
    form: UserCreationForm[User] = UserCreationForm(asked if not request.user.is_authenticated else None)
    problem = ""
    if asked is not None:
        try:
            if isinstance(request.user, User):
                return redirect(inviting.join(request.user, token))
            if form.is_valid():
                return redirect(_join_as_new(request, form, token))
        except TinForkError as refused:
            problem = str(refused)
    context = {"invitation": found, "form": form, "problem": problem}
    return render(request, "people/join.html", context, status=422 if problem or form.errors else 200)


@transaction.atomic
def _join_as_new(request: HttpRequest, form: "UserCreationForm[User]", token: str) -> Production:
    person: User = form.save()
    production = inviting.join(person, token)
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")
    return production


def me(request: HttpRequest) -> HttpResponse:
    """Show a person's own account, and change it."""
    person = User.objects.get(pk=number_of(request.user))
    form: PasswordChangeForm = PasswordChangeForm(person, request.POST if _asks(request, "password") else None)
    problem = ""
    if request.method == "POST":
        try:
            answer = _change_account(request, person, form)
            if answer:
                return answer
        except TinForkError as refused:
            problem = str(refused)
    context: dict[str, Any] = {
        "person": person,
        "form": form,
        "visits": visits.visits_of(person),
        "here": request.session.session_key,
        "keys": {view: keys for view in preferences.VIEWS if (keys := preferences.own_keys(person, view))},
        "memberships": person.membership_set.filter(production__removed=None).select_related("production"),
        "problem": problem,
    }
    return render(request, "people/me.html", context, status=422 if problem or form.errors else 200)


def _asks(request: HttpRequest, doing: str) -> bool:
    return request.POST.get("do") == doing


def _change_account(request: HttpRequest, person: User, form: PasswordChangeForm) -> HttpResponse | None:
    """Do what is asked; None where a form says what is amiss with it."""
    asked = request.POST
    match asked.get("do"):
        case "name":
            account.rename(person, asked.get("name", ""))
        case "password":
            if not _password(request, person, form):
                return None
        case "keys":
            preferences.forget_keys(person)
        case "end":
            visits.end(person, natural(asked.get("visit")) or 0)
        case "end-others":
            visits.end_others(person, request)
        case "close":
            _check_password(request, person, asked.get("password", ""))
            account.close(person)
            logout(request)
            return redirect("sign-in")
        case _:
            raise TinForkError(_UNKNOWN)
    return redirect("me")


def _password(request: HttpRequest, person: User, form: PasswordChangeForm) -> bool:
    """Change the password where the form is right; then the person is signed out everywhere else."""
    _check_password(request, person, request.POST.get("old_password", ""))
    if not form.is_valid():
        return False
    form.save()
    update_session_auth_hash(request, person)
    visits.note(request, person)
    visits.end_others(person, request)
    return True


def _check_password(request: HttpRequest, person: User, given: str) -> None:
    """TinForkError where this is not the person's password; who guesses on waits."""
    what = f"the password of {person.pk}"
    guesses.check(request, what)
    if not person.has_usable_password():
        raise TinForkError("This is the demo's person, who has no password: anybody enters as them.")
    if not person.check_password(given):
        guesses.wrong(request, what)
        raise TinForkError("This is not your password; nothing was changed.")
