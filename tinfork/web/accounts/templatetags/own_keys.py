"""A person's own keys, as the window of keys has them."""

import json

from django import template

from tinfork.web.accounts import preferences

register = template.Library()


@register.simple_tag
def own_keys(person: preferences.Someone, view: str) -> str:
    """Return a person's own keys in a view, as JSON."""
    return json.dumps(preferences.own_keys(person, view))
