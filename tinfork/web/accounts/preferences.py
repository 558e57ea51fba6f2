"""What a person prefers, kept and asked for."""

import re

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.db import transaction

from tinfork.core.errors import TinForkError

from .models import Preferences

Someone = AbstractBaseUser | AnonymousUser

VIEWS = ("desk", "sound", "acting")
"""The views whose keys can be changed."""

MOST_KEYS = 120
_KEY = re.compile(r"(Ctrl\+)?(Alt\+)?(Shift\+)?([^\sa-z]|[A-Z][A-Za-z0-9]{1,11})")
"""A key as browser/lib/ownkeys.ts writes it."""


def own_keys(person: Someone, view: str) -> dict[str, str]:
    """Return a person's own keys in a view, each by the key it usually has."""
    known = Preferences.objects.filter(person=person.pk).values_list("keys", flat=True).first() or {}
    keys: dict[str, str] = known.get(view, {})
    return keys


@transaction.atomic
def keep_keys(person: Someone, view: str, keys: dict[str, str]) -> None:
    """Keep all of a person's own keys in a view. TinForkError where two are the same, or one is no key."""
    written = [*keys, *keys.values()]
    if view not in VIEWS or len(keys) > MOST_KEYS or not all(_KEY.fullmatch(key) for key in written):
        raise TinForkError("This key cannot be kept; choose another.")
    if len(set(keys.values())) < len(keys):
        raise TinForkError("Two things would have the same key; give one of them another first.")
    kept = _locked(person)
    kept.keys = kept.keys | {view: keys}
    kept.save(update_fields=["keys"])


def keep_stays(person: Someone, stays: bool) -> None:
    """Keep whether what was set by hand stays on its frames when its word is moved."""
    Preferences.objects.update_or_create(person_id=person.pk, defaults={"stays": stays})


def stays(person: Someone) -> bool:
    """Return whether what a person sets by hand stays on its frames when its word is moved."""
    return Preferences.objects.filter(person=person.pk, stays=True).exists()


THEMES = ("light", "dark")


def keep_theme(person: Someone, theme: str) -> None:
    """Keep whether a person sees paper ("light") or night ("dark"). TinForkError for another."""
    if theme not in THEMES:
        raise TinForkError("There is daylight and night; choose one of them.")
    Preferences.objects.update_or_create(person_id=person.pk, defaults={"theme": theme})


def theme_of(person: Someone) -> str:
    """Return "light", "dark", or "" for a person who never chose."""
    return Preferences.objects.filter(person=person.pk).values_list("theme", flat=True).first() or ""


def forget_keys(person: Someone) -> None:
    """Give a person all keys back as they usually are."""
    Preferences.objects.filter(person=person.pk).update(keys={})


def _locked(person: Someone) -> Preferences:
    Preferences.objects.get_or_create(person_id=person.pk)
    return Preferences.objects.select_for_update().get(person=person.pk)
