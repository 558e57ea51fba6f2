"""Who may see a chart and who may change it, wherever it is kept."""

from django.http import Http404

from tinfork.web.productions.models import Membership
from tinfork.web.productions.permissions import Person, check, number_of

from .models import MouthChart


def check_chart(person: Person, chart: MouthChart, need: str) -> None:
    """Return when the person may "see" or "edit" the chart; Http404 otherwise. A library is its owner's alone, but who
    may see a character may see what they speak with."""
    if chart.production is not None:
        return check(person, chart.production, need)
    if person.is_authenticated and chart.owner_id == number_of(person):
        return None
    if need == "see" and _meets(person, chart):
        return None
    raise Http404("No such chart.")


def may_change(person: Person, chart: MouthChart) -> bool:
    """Return whether the person may edit the chart."""
    try:
        check_chart(person, chart, "edit")
    except Http404:
        return False
    return True


def _meets(person: Person, chart: MouthChart) -> bool:
    """Whether somebody in one of the person's productions speaks with the chart."""
    own = Membership.objects.filter(person=number_of(person), production__removed=None).values("production")
    return chart.worn_by.filter(character__production__in=own, character__removed=None).exists()
