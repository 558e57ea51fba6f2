"""The one permission check. Whoever may not see a thing is told it is not there."""

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.http import Http404
from django.shortcuts import get_object_or_404

from .models import Membership, Production, Scene

Person = AbstractBaseUser | AnonymousUser

_MAY = {
    "see": (Membership.Role.OWNER, Membership.Role.EDITOR, Membership.Role.VIEWER),
    "edit": (Membership.Role.OWNER, Membership.Role.EDITOR),
    "own": (Membership.Role.OWNER,),
}


def check(person: Person, production: Production, need: str) -> None:
    """Return when the person may "see", "edit" or "own" the production; Http404 otherwise."""
    if production.removed and need != "own":
        raise Http404("Deleted.")
    allowed = person.is_authenticated and production.membership_set.filter(person=person.pk, role__in=_MAY[need])
    if not allowed or not allowed.exists():
        raise Http404("No such production.")


def number_of(person: Person) -> int:
    """Who somebody is; Http404 for somebody who has not signed in."""
    if person.pk is None:
        raise Http404("Nobody is signed in.")
    return int(person.pk)


def may(person: Person, production: Production, need: str) -> bool:
    """Whether check would let the person through."""
    try:
        check(person, production, need)
    except Http404:
        return False
    return True


def find_scene(person: Person, pk: int, need: str = "see") -> Scene:
    """The scene of this number, when the person may "see" or "edit" its production; Http404 otherwise."""
    scene = get_object_or_404(Scene.objects.select_related("production"), pk=pk)
    check(person, scene.production, need)
    return scene
