"""The one permission check. Whoever may not see a thing is told it is not there."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404

from .models import Membership, Production, Scene

Person = AbstractBaseUser | AnonymousUser

_Role = Membership.Role

EDITORS = (_Role.OWNER, _Role.ANIMATOR)
"""Who may change what is in a production."""

REVIEWERS = (_Role.OWNER, _Role.REVIEWER)
"""Who may say of a version that it is approved."""

_MAY = {
    "see": (_Role.OWNER, _Role.ANIMATOR, _Role.REVIEWER),
    "comment": (_Role.OWNER, _Role.ANIMATOR, _Role.REVIEWER),
    "approve": REVIEWERS,
    "edit": EDITORS,
    "own": (_Role.OWNER,),
}


_known_roles: ContextVar[dict[tuple[int, int], str] | None] = ContextVar("known_roles", default=None)


@contextmanager
def _remembering() -> Iterator[None]:
    """Inside, what somebody is in a production is asked once."""
    token = _known_roles.set({})
    try:
        yield
    finally:
        _known_roles.reset(token)


def one_question(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Return the middleware by which what somebody is in a production is asked once for each request."""

    def asked_once(request: HttpRequest) -> HttpResponse:
        with _remembering():
            return get_response(request)

    return asked_once


def _role(person: Person, production: Production) -> str:
    """What somebody is in a production; "" for a stranger."""
    known = _known_roles.get()
    key = (number_of(person), production.pk)
    if known and key in known:
        return known[key]
    role = production.membership_set.filter(person=person.pk).values_list("role", flat=True).first() or ""
    if known is not None and role:
        known[key] = role
    return role


def check(person: Person, production: Production, need: str) -> None:
    """Return when the person may "see", "comment", "approve", "edit" or "own" the production; Http404 otherwise."""
    if production.removed and need != "own":
        raise Http404("Deleted.")
    if not person.is_authenticated or _role(person, production) not in _MAY[need]:
        raise Http404("No such production.")


def number_of(person: Person) -> int:
    """Return who somebody is; Http404 for somebody who has not signed in."""
    if person.pk is None:
        raise Http404("Nobody is signed in.")
    return int(person.pk)


def may(person: Person, production: Production, need: str) -> bool:
    """Return whether check would let the person through."""
    try:
        check(person, production, need)
    except Http404:
        return False
    return True


def find_scene(person: Person, pk: int, need: str = "see") -> Scene:
    """Return the scene of this number, when the person may do what is needed (see check); Http404 otherwise."""
    scene = get_object_or_404(Scene.objects.select_related("production"), pk=pk)
    check(person, scene.production, need)
    return scene
