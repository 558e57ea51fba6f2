"""What comes next, in the bar of every view of a scene."""

from typing import Any

from django import template

from tinfork.web.pages.next_step import step_context
from tinfork.web.productions.models import Scene

register = template.Library()


@register.inclusion_tag("next_step.html")
def next_step(scene: Scene, view: str) -> dict[str, Any]:
    """The step after what there is of a scene, as one of its views shows it."""
    return step_context(scene, view)
